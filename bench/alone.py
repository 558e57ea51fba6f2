"""What the mouth shows of sound nobody wrote words for: of frames at 24 fps, the share in the right class."""

from collections.abc import Callable, Iterable, Sequence

import numpy as np

from tinfork.core.sound.recording import Recording
from tinfork.core.speech import read, unscripted
from tinfork.core.speech.reading import Reading

from . import sentences, truth
from .truth import Truth

FPS = 24
LIPS, TEETH, ROUND, VOWEL, REST, OTHER = range(6)
_ROUND, _VOWELS = "uʊwoɔ", "ɑaæʌəɛɝɚeiɪɜɒ"
_LEAST_REST = 0.12

Timed = Iterable[tuple[str, float, float]]


def class_of(ipa: str) -> int:
    """What is seen of a sound: lips that close, a lip on teeth, rounded, a vowel, or none of these."""
    for letters, found in (("mbp", LIPS), ("fv", TEETH), (_ROUND, ROUND), (_VOWELS, VOWEL)):
        if ipa[:1] in letters and ipa:
            return found
    return OTHER if ipa else REST


def classes(sounds: Timed, seconds: float) -> np.ndarray:
    """(frames,) the class on each frame, in its middle."""
    found = np.full(int(seconds * FPS), REST)
    at = (np.arange(len(found)) + 0.5) / FPS
    for ipa, start, end in sounds:
        found[(at >= start) & (at < end)] = class_of(ipa)
    return found


def of_truth(line: Truth) -> np.ndarray:
    """As it was spoken; pauses that are too short to be seen belong to what is before them."""
    own, last = [], ""
    for phone in line.phones:
        last = phone.ipa or ("" if phone.end - phone.start >= _LEAST_REST else last)
        own.append((last, phone.start, phone.end))
    return classes(own, line.recording.seconds)


def of_reading(reading: Reading) -> np.ndarray:
    """As it was read."""
    return classes(((s.ipa, s.start, s.end) for w in reading.words() if w.said for s in w.sounds), reading.seconds)


WAYS: dict[str, Callable[[Recording, str], Reading]] = {
    "with its script": read.read,
    "heard": lambda recording, text: unscripted.read_unscripted(recording, "en")[0],
    "by its sounds": lambda recording, text: unscripted.read_sounds(recording, "en"),
}


def table(voices: Sequence[str] = truth.FLITE_VOICES) -> None:
    """A row for each way, tune and test lines."""
    print("From sound alone: of frames at 24 fps, % in the right class; of those on which lips close, % found shut")
    for half, texts in (("tune", sentences.ENGLISH[0::2]), ("test", sentences.ENGLISH[1::2])):
        lines = [truth.flite(text, voice) for voice in voices for text in texts]
        for name, way in WAYS.items():
            pairs = [(of_truth(line), of_reading(way(line.recording, line.text))) for line in lines]
            true, found = (np.concatenate(one) for one in zip(*pairs, strict=True))
            lips = found[true == LIPS] == LIPS
            print(f"{name:<18}{half:<6}{100 * np.mean(true == found):8.1f}{100 * lips.mean():8.1f}", flush=True)
