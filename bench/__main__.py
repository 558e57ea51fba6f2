"""Prints the benchmark: script/bench, or one table of it: script/bench mouths"""

import importlib
import resource
import sys
import time
from collections.abc import Callable, Sequence

import django
import numpy as np

from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.speech import read, unscripted

from . import (
    acted,
    alignment,
    alone,
    charts,
    conversations,
    handover,
    heard,
    importing,
    mismatch,
    mouths,
    otherwise,
    planning,
    rooms,
    sentences,
    truth,
)
from .conditions import echoing, noisy, padded
from .truth import Truth


def main() -> None:
    """All tables, or the one that is named, to standard output."""
    if sys.argv[1:]:
        return TABLES[sys.argv[1]]()
    lines = {voice: [truth.flite(text, voice) for text in sentences.ENGLISH] for voice in truth.FLITE_VOICES}
    warm_up(lines["slt"][0])
    boundaries(lines)
    voices()
    mismatches(lines)
    calibration(lines)
    alone.table()
    mouths.table()
    planning.table(lines["slt"])
    charts.table()
    importing.importing()
    long_sound(lines["rms"])


def warm_up(line: Truth) -> None:
    """Load models and tables, so that no row pays for it."""
    alignment.whole_reading(line)
    alignment.library_alignment(line)
    alignment.own_pronunciation(truth.espeak(sentences.OTHERS["es"][0], "es"))


def boundaries(lines: dict[str, list[Truth]]) -> None:
    """Errors of sound starts in ms, share within a frame at 24 fps, lines failed, speed in times real time."""
    print("Boundaries against synthesised truth (one core). Settings were chosen on the tune lines only.")
    print(f"{'voice':<18}{'how':<26}{'lines':<6}{'median':>8}{'mean':>8}{'in 1 fr':>8}{'failed':>7}{'speed':>9}")
    own = ("own pronunciation", alignment.own_pronunciation)
    text = ("text and dictionary", alignment.whole_reading)
    library = ("recogniser library's own", alignment.library_alignment)
    for voice, truths in lines.items():
        halves(f"flite {voice}", truths, [own, text, library])
    for voice in ("slt", "rms"):
        for name, change in CONDITIONS.items():
            halves(f"{voice}, {name}", [change(line) for line in lines[voice]], [own])
        for name, stretch in (("slow", 1.4), ("fast", 0.7)):
            halves(f"{voice}, {name}", [truth.flite(text, voice, stretch) for text in sentences.ENGLISH], [own])
    halves("espeak en", [truth.espeak(text, "en-us") for text in sentences.ENGLISH], [own, text, library])
    for language, texts in sentences.OTHERS.items():
        halves(f"espeak {language}", [truth.espeak(text, language) for text in texts], [own])
        for name, speed in (("slow", 110), ("fast", 230)):
            halves(f"  {language}, {name}", [truth.espeak(text, language, speed) for text in texts], [own])
        for name in ("10 dB", "echo"):
            heard = [CONDITIONS[name](truth.espeak(text, language)) for text in texts]
            halves(f"  {language}, {name}", heard, [own])
    print()


def voices() -> None:
    """Voices acted, read as a user has them read: text and dictionary, all four of flite's voices."""
    print("Voices acted, against synthesised truth")
    for name, make in acted.VOICES.items():
        lines = [make(text, voice) for voice in truth.FLITE_VOICES for text in sentences.ENGLISH]
        halves(name, lines, [("text and dictionary", alignment.whole_reading)])
    print()


CONDITIONS: dict[str, Callable[[Truth], Truth]] = {
    "20 dB": lambda line: noisy(line, 20),
    "10 dB": lambda line: noisy(line, 10),
    "5 dB": lambda line: noisy(line, 5),
    "echo": echoing,
    "padded": padded,
}


def halves(name: str, truths: Sequence[Truth], ways: Sequence[tuple[str, alignment.Aligner]]) -> None:
    """A row for the lines settings were chosen on, and one for those they were not."""
    for how, aligner in ways:
        for half, chosen in (("tune", truths[0::2]), ("test", truths[1::2])):
            print(f"{name:<18}{how:<26}{half:<6}{alignment.measure(chosen, aligner).row()}", flush=True)


def mismatches(lines: dict[str, list[Truth]]) -> None:
    """Test lines read with a script that differs from what is said."""
    heard: list[tuple[str, Sequence[Truth], Callable[[Truth], Truth]]] = [
        (f"flite {voice}", truths[1::2], lambda line: line) for voice, truths in lines.items()
    ]
    heard.append(("espeak en", [truth.espeak(text, "en-us") for text in sentences.ENGLISH[1::2]], lambda line: line))
    heard += [(f"slt, {name}", lines["slt"][1::2], CONDITIONS[name]) for name in ("20 dB", "10 dB", "echo")]
    vocabulary = sorted({word.strip(".,?") for text in sentences.ENGLISH for word in text.split() if len(word) > 4})
    mismatch.table(heard, vocabulary)


def calibration(lines: dict[str, list[Truth]]) -> None:
    """Of the sounds of each confidence, the share within a frame: test lines, clean, in noise and in a room."""
    sure, right = [], []
    for truths in lines.values():
        for line in truths[1::2]:
            for sound in (line, echoing(line), noisy(line, 10), noisy(line, 0)):
                tally = alignment.measure([sound], alignment.own_pronunciation)
                sure += tally.sure
                right += (np.abs(np.array(tally.true) - tally.found) <= alignment.WINDOW).tolist()
    values, hits = np.array(sure), np.array(right)
    print("Confidence and the share of sounds within a frame (test lines: clean, echo, 10 dB and 0 dB of noise)")
    for low in np.arange(0, 1, 0.1):
        chosen = (values >= low) & (values < low + 0.1)
        if chosen.any():
            mean = values[chosen].mean() * 100
            share = hits[chosen].mean() * 100
            print(f"  {low:.1f} to {low + 0.1:.1f}, mean {mean:3.0f}%: {share:5.1f}% of {chosen.sum()}")
    print()


def long_sound(lines: Sequence[Truth]) -> None:
    """Ten minutes read with a script and without, and five with one: time, and peak memory of this whole process."""
    for minutes in (5, 10):
        recording, script = joined(lines, minutes * 60)
        report(f"with {len(script)} lines", recording, lambda r=recording, s=script: read.read(r, "\n".join(s)))
    report("its sounds first, en", recording, lambda: unscripted.read_sounds(recording, "en"))
    for language, how in (("en", "heard"), ("es", "by its sounds")):
        report(
            f"{how}, {language}",
            recording,
            lambda code=language: unscripted.read_unscripted(recording, unscripted.Listening(code)),
        )


def joined(lines: Sequence[Truth], seconds: float) -> tuple[Recording, list[str]]:
    """Return lines one after the other until they last as long as asked."""
    pieces: list[np.ndarray] = []
    script: list[str] = []
    while sum(map(len, pieces)) < seconds * READ_RATE:
        line = lines[len(script) % len(lines)]
        pieces.append(line.recording.samples)
        script.append(line.text)
    samples = np.concatenate(pieces)
    return Recording(samples, len(samples) / READ_RATE, READ_RATE), script


def report(how: str, recording: Recording, work: Callable[[], object]) -> None:
    seconds = timed(work)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{recording.seconds / 60:4.1f} minutes {how:<16}{seconds:7.1f} s, ", end="")
    print(f"{recording.seconds / seconds:.0f}x real time, peak memory {peak:.0f} MB", flush=True)


def timed(work: Callable[[], object]) -> float:
    """Return seconds a piece of work takes."""
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def edits() -> None:
    """The cost of edits; only this table needs the database."""
    django.setup()
    importlib.import_module("bench.edits").table()


def acting() -> None:
    """The cost of edits of acting; it needs the database too."""
    django.setup()
    importlib.import_module("bench.acting").table()


def board() -> None:
    """What a board of many shots costs; it needs the database too."""
    django.setup()
    importlib.import_module("bench.board").table()


def changes() -> None:
    """What it costs when something beneath a long scene becomes another; it needs the database too."""
    django.setup()
    importlib.import_module("bench.changes").table()


TABLES = {
    "acting": acting,
    "voices": voices,
    "alone": alone.table,
    "heard": heard.table,
    "otherwise": otherwise.table,
    "rooms": rooms.table,
    "conversations": conversations.table,
    "mouths": mouths.table,
    "charts": charts.table,
    "handover": handover.table,
    "edits": edits,
    "board": board,
    "changes": changes,
}


if __name__ == "__main__":
    main()
