"""The stock phrase that any chart can be tried with: it visits every shape. Its sound and its reading come with it."""

import functools
import json
from pathlib import Path

from tinfork.core.plain import restore
from tinfork.core.speech.reading import Line

TEXT = "The thick fog is leaving. She has four blue ropes, cheese, a lamp and my father's goat. Who says it is far?"
SOUND = Path(__file__).parent / "phrase.flac"
READING = Path(__file__).parent / "phrase.json"


@functools.cache
def phrase() -> tuple[Line, float]:
    """Return the phrase as it is heard in its sound, and how many seconds that is."""
    known = json.loads(READING.read_text())
    return restore(known["line"], Line), known["seconds"]
