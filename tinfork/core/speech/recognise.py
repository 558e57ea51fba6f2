"""Words from sound without a script: English only, by the recogniser library's own decoder and language model."""

import numpy as np
import pocketsphinx

from ..errors import ScriptError
from ..sound.recording import Recording
from .words import is_english

_BLOCK = 160_000


def heard_words(recording: Recording, language: str) -> str:
    """The words heard, as one line; ScriptError for a language other than English, or when none is heard."""
    if not is_english(language):
        raise ScriptError("Without a script only English can be read so far; give the words.")
    decoder = pocketsphinx.Decoder(loglevel="FATAL")
    sound = (np.clip(recording.samples, -1, 1) * 32767).astype("<i2")
    decoder.start_utt()
    for start in range(0, len(sound), _BLOCK):
        decoder.process_raw(sound[start : start + _BLOCK].tobytes())
    decoder.end_utt()
    words = [segment.word.split("(")[0] for segment in decoder.seg() or ()]
    heard = " ".join(word for word in words if not word.startswith(("<", "[")))
    if not heard:
        raise ScriptError("No words were heard in this sound; give the words, one line for each phrase.")
    return heard
