"""One module for each open format, at the edge of the engine."""
