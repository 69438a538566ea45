"""End surfaces: where the fibres of a piece begin and end, and how they are computed."""
