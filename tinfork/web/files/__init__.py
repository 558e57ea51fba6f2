"""Files that are kept: written whole or not at all."""
