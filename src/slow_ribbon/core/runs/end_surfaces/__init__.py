"""Where the fibres of a piece begin and end: surfaces, and what they are worked out with."""
