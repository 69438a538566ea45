"""What everything else stands on: errors, units, lengths in expressions, fields of documents."""
