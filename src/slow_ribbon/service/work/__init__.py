"""Work that takes long: apart in other processes, in turns, within bounds."""
