"""Boundary error against synthesised truth, for our reading and for the recogniser library's own alignment."""

import difflib
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import mir_eval.alignment
import numpy as np
import pocketsphinx

from tinfork.core.sound.features import STEP_SECONDS
from tinfork.core.speech import align, listening, model, phones, read, refine
from tinfork.core.speech.fit import Unit
from tinfork.core.speech.hearing import Ear, Heard
from tinfork.core.speech.phones import ARPABET_TO_IPA

from .truth import Phone, Truth

WINDOW = 1 / 24


@dataclass
class Tally:
    """Pairs of true and found starts, with what else one row of the table needs."""

    true: list[float] = field(default_factory=list)
    found: list[float] = field(default_factory=list)
    sure: list[float] = field(default_factory=list)
    failures: int = 0
    sound_seconds: float = 0.0
    seconds: float = 0.0

    def row(self) -> str:
        """Return median and mean error, share within a frame, failures, times real time."""
        if not self.true:
            return f"{'-':>8}{'-':>8}{'-':>8}{self.failures:>7}{'-':>9}"
        # Successive lines lie one after the other in time, as the metrics want growing times.
        true, found = np.array(self.true), np.array(self.found)
        median, mean = mir_eval.alignment.absolute_error(true, found)
        share = mir_eval.alignment.percentage_correct(true, found, window=WINDOW)
        speed = self.sound_seconds / self.seconds
        return f"{median * 1000:8.1f}{mean * 1000:8.1f}{share * 100:8.1f}{self.failures:>7}{speed:8.0f}x"


Found = Sequence[tuple[str, float, float]]
Aligner = Callable[[Truth], Found]


def searched(truth: Truth) -> tuple[list[align.Span], list[float], Heard]:
    """Return the exact search over the very sounds that were spoken, each a word of its own: where they are before they
    are refined, how sure each is, and the sound as it was heard."""
    acoustic = model.load()
    spoken = [phone.ipa for phone in truth.phones if phone.ipa]
    units = [Unit((tuple(acoustic.index(name) for name in phones.to_arpabet(ipa)),), certain=True) for ipa in spoken]
    script = listening.ExpectedWords(units, [0], None)
    listened = listening.listen(Ear(truth.recording.samples, acoustic), script, acoustic, {}, lambda share: None)
    pieces = list(listened.fitted)
    spans = [span for piece in pieces for span in piece.spans]
    return spans, [sure for piece in pieces for sure in piece.sure], listened.heard


def own_pronunciation(truth: Truth) -> Found:
    """Return the sounds that were spoken, refined."""
    spans, sure, heard = searched(truth)
    spoken = [phone.ipa for phone in truth.phones if phone.ipa]
    starts: dict[int, tuple[float, float]] = {}
    for span, value in zip(refine.refined(spans, heard.energy, model.load()), sure, strict=True):
        if span.word >= 0:
            starts.setdefault(span.word, (span.start * STEP_SECONDS, value))
    return [(spoken[word], *start) for word, start in starts.items()]


def whole_reading(truth: Truth) -> Found:
    """Return what a user gets: text in, dictionary pronunciations."""
    reading = read.read(truth.recording, truth.text)
    said = (word for word in reading.words() if word.said)
    return [(sound.ipa, sound.start, sound.confidence) for word in said for sound in word.sounds]


def library_alignment(truth: Truth) -> Found:
    """Return the recogniser library's two-pass alignment of the same text; empty when it fails."""
    decoder = pocketsphinx.Decoder(loglevel="FATAL", lm=None)
    words = [w for w in truth.text.lower().replace("?", "").replace(".", "").replace(",", "").split()]
    sound = (np.clip(truth.recording.samples, -1, 1) * 32767).astype("<i2").tobytes()
    try:
        decoder.set_align_text(" ".join(words))
        for second_pass in (False, True):
            if second_pass:
                decoder.set_alignment()
            decoder.start_utt()
            decoder.process_raw(sound, full_utt=True)
            decoder.end_utt()
        found = []
        for word in decoder.get_alignment():
            for phone in word:
                if phone.name in ARPABET_TO_IPA:
                    found.append((ARPABET_TO_IPA[phone.name], phone.start * STEP_SECONDS, 1.0))
        return found
    except RuntimeError:
        return []


def measure(truths: Sequence[Truth], aligner: Aligner) -> Tally:
    """Run an aligner over lines; a line it returns nothing for is a failure."""
    tally = Tally()
    for truth in truths:
        begun = time.perf_counter()
        found = aligner(truth)
        tally.seconds += time.perf_counter() - begun
        if not found:
            tally.failures += 1
        offset = tally.sound_seconds
        for phone, (_, start, sure) in _matched([p for p in truth.phones if p.ipa], found):
            tally.true.append(offset + phone.start)
            tally.found.append(offset + start)
            tally.sure.append(sure)
        tally.sound_seconds += truth.recording.seconds
    return tally


def _matched(true: Sequence[Phone], found: Found) -> list[tuple[Phone, tuple[str, float, float]]]:
    """Phones both agree on, by the longest common runs of model phones."""
    left = [phones.to_arpabet(p.ipa) for p in true]
    right = [phones.to_arpabet(ipa) for ipa, _, _ in found]
    blocks = difflib.SequenceMatcher(None, left, right, autojunk=False).get_matching_blocks()
    return [(true[b.a + i], found[b.b + i]) for b in blocks for i in range(b.size)]
