"""How ends, corners, joints and curves are made: what a document says of each, and what it comes to."""
