"""What takes memory and time, for a process that must not have it."""

import time


def eat(much):
    """So many bytes, for a moment."""
    return len(bytearray(much))


def sleep(seconds):
    """So many seconds."""
    time.sleep(seconds)
