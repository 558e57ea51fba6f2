"""What takes memory and time, for a process that must not have it."""

import time

from tinfork.core.mouths import prepared


def eat(much):
    """So many bytes, for a moment."""
    return len(bytearray(much))


def sleep(seconds):
    """So many seconds."""
    time.sleep(seconds)


def hurried(source, folder):
    """A picture opened where a file may take a second."""
    prepared.SECONDS_A_FILE = 1
    return prepared.one_picture(source, folder)
