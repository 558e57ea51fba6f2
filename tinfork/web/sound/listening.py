"""Listening copies as files on this machine, for as long as they are needed."""

from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from .actions import channel_copy, local_file
from .models import SoundFile

PathOf = Callable[[SoundFile, int], Path]


@contextmanager
def open_sounds() -> Iterator[PathOf]:
    """A function that gives the path of a sound's channel; the paths hold while the context lasts."""
    with ExitStack() as stack:
        yield lambda sound, channel: stack.enter_context(local_file(channel_copy(sound, channel).listen))
