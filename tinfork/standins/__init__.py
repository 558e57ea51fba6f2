"""Simulated stand-ins for devices that are outside Tin Fork."""
