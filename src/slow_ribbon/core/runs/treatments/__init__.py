"""How ends, corners, joints and curves are made: the models of a document, and their geometry."""
