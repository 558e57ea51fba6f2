"""Bundles: everything of a production, or of one scene, in a file that is brought in elsewhere."""
