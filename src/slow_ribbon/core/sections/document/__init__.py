"""What a document says of a section: its outline, sizes, constraints and material."""
