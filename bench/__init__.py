"""Measurements: how close readings come to synthesised truth, how fast the engine is, what it costs."""
