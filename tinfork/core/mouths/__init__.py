"""Mouth shapes, charts and the drawings generated from articulators."""
