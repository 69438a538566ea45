"""Writers of open formats, one module each."""
