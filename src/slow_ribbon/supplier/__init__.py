"""A supplier's catalogue, simulated: an invented merchant whose sections are asked for over HTTP as a real one's would be."""
