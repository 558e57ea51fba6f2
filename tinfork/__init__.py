"""Tin Fork: reads recorded dialogue and fits a character's mouths to it, frame by frame."""
