"""What the mouth shows of sound nobody wrote words for: of frames at 24 fps, the share in the right class."""

import time
from collections.abc import Callable, Iterable, Sequence

import numpy as np

from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.speech import read, unscripted
from tinfork.core.speech.reading import Reading

from . import sentences, truth
from .truth import Truth

FPS = 24
LIPS, TEETH, ROUND, VOWEL, REST, OTHER = range(6)
_ROUND, _VOWELS = "uʊwoɔ", "ɑaæʌəɛɝɚeiɪɜɒ"
_LEAST_REST = 0.12
_BETWEEN = 0.6

Timed = Iterable[tuple[str, float, float]]


def class_of(ipa: str) -> int:
    """Return what is seen of a sound: lips that close, a lip on teeth, rounded, a vowel, or none of these."""
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
    "heard": lambda recording, text: unscripted.read_unscripted(recording, unscripted.Listening()).reading,
    "by its sounds": lambda recording, text: unscripted.read_sounds(recording, "en"),
}


def in_one(lines: Sequence[Truth]) -> Truth:
    """Return lines one after the other in one sound, as a person records them."""
    pause = np.zeros(round(_BETWEEN * READ_RATE), np.float32)
    samples = np.concatenate([part for line in lines for part in (line.recording.samples, pause)])
    begins = np.cumsum([0.0, *((len(line.recording.samples) + len(pause)) / READ_RATE for line in lines)])
    phones = tuple(
        truth.Phone(phone.ipa, phone.start + begin, phone.end + begin)
        for line, begin in zip(lines, begins, strict=False)
        for phone in line.phones
    )
    recording = Recording(samples, len(samples) / READ_RATE, READ_RATE)
    return Truth(" ".join(line.text for line in lines), recording, phones)


def table(voices: Sequence[str] = truth.FLITE_VOICES) -> None:
    """A row for each way, tune and test lines, each line a sound of its own and all lines of a voice in one."""
    print(
        "From sound alone: of frames at 24 fps, % in the right class; of those on which lips close, % found shut; speed"
    )
    for half, texts in (("tune", sentences.ENGLISH[0::2]), ("test", sentences.ENGLISH[1::2])):
        by_voice = [[truth.flite(text, voice) for text in texts] for voice in voices]
        for kind, lines in (
            ("a line", [line for own in by_voice for line in own]),
            ("a voice", [in_one(own) for own in by_voice]),
        ):
            for name, way in WAYS.items():
                print(f"{name:<18}{kind:<9}{half:<6}{_row(lines, way)}", flush=True)


def _row(lines: Sequence[Truth], way: Callable[[Recording, str], Reading]) -> str:
    begun = time.process_time()
    found = np.concatenate([of_reading(way(line.recording, line.text)) for line in lines])
    speed = sum(line.recording.seconds for line in lines) / (time.process_time() - begun)
    true = np.concatenate([of_truth(line) for line in lines])
    return f"{100 * np.mean(true == found):8.1f}{100 * np.mean(found[true == LIPS] == LIPS):8.1f}{speed:8.1f}x"
