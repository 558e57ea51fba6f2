"""What is wrong with a recording, in words: the figure, where it is, what to do, and whether it can be read.

Levels are dB below full scale (dBFS, AES17: a full-scale sine is 0 dB) of 20 ms pieces. Speech is the loud part of
their distribution, noise the quiet part; the ratio of the two is the signal-to-noise ratio.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from . import voices
from .bed import has_bed
from .echo import echoes
from .recording import READ_RATE
from .rounded import rounded
from .talkers import others_talk

_PIECE = 320
_PIECE_SECONDS = _PIECE / READ_RATE
_FLOOR_DB = -96.0
_SILENT_DB = -60.0
"""What never comes to this has nothing to be read in it."""

_CLEAN_DB, _GRAVE_DB = 25.0, 12.0
"""From so far above the noise speech is called clean, and nearer than the other hard to read: what recordists ask for,
and no figure of ours."""

_NO_NOISE_DB, _QUIET_DB = -70.0, -40.0
"""Noise under the one is heard by nobody; speech under the other is hard to hear."""

_FULL_SCALE, _FEWEST_CUT = 0.999, 3
"""From so near to full scale on a sample may be cut off; so many runs of three make it likely."""

_LONG_SECONDS = 2.0
"""Longer without speech, before or after it, is worth trimming."""

_CUT_IN_DB = 6.0
"""A sound that begins no farther under its speech begins within it."""

_MOST_PLACES = 12
_HUM_HZ = (50.0, 60.0)
_ECHO_SECONDS = 4.0
"""Of less it cannot be told for sure whether a room echoes."""

_HEARD_SECONDS, _VOICES_SECONDS = 600, 300
_NEAR_PIECES, _BETWEEN_SHARE = 15, 0.2
_TALK_DB = 30.0
"""Who talks so far below a voice, and nearer, is told of."""

_MOST_CUT, _LOUD_BED_DB = 0.35, 6.0
"""Measured by bench/acted.py: of speech of which a third is cut off 97% of sounds are within a frame, over music 10 dB
below it 96%, of plain speech 99%."""

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class QualityFinding:
    """What a recording suffers from, or a fact about it. kind: its name; text: what it is, with the figure and the
    remedy; places: (start, end) in seconds; grave: reading suffers from it."""

    kind: str
    text: str
    places: tuple[tuple[float, float], ...] = ()
    grave: bool = False


class ClippingMeter:
    """Counts runs of three and more samples at full scale, second by second, at the file's own rate."""

    def __init__(self, rate: int) -> None:
        self._rate, self._done, self._cut = rate, 0, 0
        self.runs: dict[int, int] = {}

    @property
    def share(self) -> float:
        """How much of the sound is cut off."""
        return self._cut / max(1, self._done)

    def add(self, samples: NDArray[np.float32]) -> None:
        """The next block of mono samples."""
        full = np.abs(samples) >= _FULL_SCALE
        if full.any():
            runs = full[2:] & full[1:-1] & full[:-2]
            self._cut += int(full.sum())
            begins = np.flatnonzero(runs & ~np.concatenate([[False], runs[:-1]]))
            for second in ((begins + self._done) // self._rate).tolist():
                self.runs[second] = self.runs.get(second, 0) + 1
        self._done += len(samples)


def report(samples: NDArray[np.int16], clipping: ClippingMeter) -> list[QualityFinding]:
    """Return what is to be said of a recording at 16 kHz, the verdict first."""
    levels = _levels(samples)
    if levels.max(initial=_FLOOR_DB) < _SILENT_DB:
        return [
            QualityFinding("silent", "The sound is silent: nothing in it can be read. Check the recording.", grave=True)
        ]
    noise, speech, between = _noise_and_speech(levels)
    heard = samples[: _HEARD_SECONDS * READ_RATE].astype(np.float32) / np.float32(32768)
    music = has_bed(heard)
    found = [
        *(_clipping(clipping) or _rounded(heard)),
        *([_bed(noise, speech)] if music else _talkers(heard, between, noise, speech) or _noise(noise, speech)),
        *([] if music else _echo(heard)),
        *_quiet(speech),
        *_hum(samples, levels, noise),
        *_ends(levels, noise, speech),
        *_more_voices(heard),
    ]
    return [_verdict(found, speech - noise, clipping.share), *found]


def above_noise(heard: NDArray[np.float32]) -> float:
    """Return how far speech stands above what else is heard in a stretch of 16 kHz sound, in dB; 0 where there is
    nothing in it."""
    levels = _levels((np.clip(heard, -1, 1) * 32767).astype(np.int16))
    if levels.max(initial=_FLOOR_DB) <= -70:
        return 0.0
    noise, speech, _ = _noise_and_speech(levels)
    return speech - noise


def good_enough(findings: list[dict[str, Any]]) -> bool:
    """Return whether nothing grave was found. findings: as plain values."""
    return not any(finding["grave"] for finding in findings)


def _verdict(found: list[QualityFinding], ratio: float, cut: float) -> QualityFinding:
    """What the figures come to. cut: the share of the sound that is cut off."""
    if any(finding.grave for finding in found):
        text = "It can be read, but expect more to correct: see what is marked below."
        return QualityFinding("verdict", text, grave=True)
    kinds = {finding.kind for finding in found}
    flaws = {
        "clipping": f"{100 * cut:.1f}% of it is cut off",
        "rounded": "its peaks are rounded off",
        "talkers": "other people talk behind it",
        "echo": "the room echoes",
        "noise": f"speech stands only {math.floor(ratio)} dB above the noise",
        "music": "there is music under it",
        "quiet": "it is quiet",
        "hum": "it hums",
    }
    told = [text for kind, text in flaws.items() if kind in kinds]
    if told:
        return QualityFinding("verdict", f"It can be read, and is not clean: {', and '.join(told)}.")
    return QualityFinding("verdict", f"Good enough to read: speech stands {ratio:.0f} dB above the noise.")


def _levels(samples: NDArray[np.int16]) -> Floats:
    whole = samples[: len(samples) // _PIECE * _PIECE].reshape(-1, _PIECE)
    power = np.empty(len(whole))
    for start in range(0, len(whole), 4096):
        block = whole[start : start + 4096].astype(np.float32) / 32768
        power[start : start + 4096] = (block * block).mean(axis=1)
    return np.asarray(np.maximum(10 * np.log10(power * 2 + 1e-12), _FLOOR_DB))


def _noise_and_speech(levels: Floats) -> tuple[float, float, NDArray[np.bool_]]:
    """Levels of the quiet pieces near speech, silence far from it says nothing of it, and of the loud ones; and which
    the quiet ones are."""
    speech = float(np.quantile(levels[levels > -70], 0.92))
    near = np.convolve(levels > speech - 20, np.ones(2 * _NEAR_PIECES + 1))[_NEAR_PIECES:][: len(levels)] > 0
    between = near & (levels <= np.quantile(levels[near], _BETWEEN_SHARE))
    return float(np.quantile(levels[near], 0.08)), speech, between


def _clipping(meter: ClippingMeter) -> list[QualityFinding]:
    count = sum(meter.runs.values())
    if count < _FEWEST_CUT:
        return []
    places = tuple((float(second), second + 1.0) for second in sorted(meter.runs)[:_MOST_PLACES])
    grave = meter.share > _MOST_CUT
    how = (
        "The peaks are drawn again before it is read, but too much is missing"
        if grave
        else "The peaks are drawn again before it is read, nearly as well as if nothing were missing"
    )
    text = (
        f"Shouted: {100 * meter.share:.1f}% is cut off, as it was louder than the file can hold. {how}. To hear it "
        "well, record again with the input turned down by 6 dB or more."
    )
    return [QualityFinding("clipping", text, places, grave)]


def _rounded(heard: NDArray[np.float32]) -> list[QualityFinding]:
    if not rounded(heard):
        return []
    text = (
        "Shouted: its peaks are rounded off, as it was louder than what recorded it can hold. They are bent back "
        "before it is read, nearly as well as if it were clean. To hear it well, record again with the input turned "
        "down by 6 dB or more."
    )
    return [QualityFinding("rounded", text)]


def _echo(heard: NDArray[np.float32]) -> list[QualityFinding]:
    if len(heard) < _ECHO_SECONDS * READ_RATE or not echoes(heard):
        return []
    text = (
        "The room echoes. What can be told of the echo is taken out before it is read. To have less of it, come closer "
        "to the microphone, and hang blankets or coats around it."
    )
    return [QualityFinding("echo", text)]


def _talkers(
    heard: NDArray[np.float32], between: NDArray[np.bool_], noise: float, speech: float
) -> list[QualityFinding]:
    if speech - noise >= _TALK_DB or noise < _NO_NOISE_DB or not others_talk(heard, between):
        return []
    text = (
        f"Other people talk behind it, {math.floor(speech - noise)} dB below the speech. Nothing takes them out: "
        "expect edges of sounds to be off where they are loud. Record again without them, or give the voice alone if "
        "you have it."
    )
    return [QualityFinding("talkers", text, grave=speech - noise < _GRAVE_DB)]


def _bed(noise: float, speech: float) -> QualityFinding:
    text = (
        f"Music, or tones that stay, {speech - noise:.0f} dB below the speech. They are taken out before it is read; "
        "give the voice alone if you have it, it is read better."
    )
    return QualityFinding("music", text, grave=speech - noise < _LOUD_BED_DB)


def _noise(noise: float, speech: float) -> list[QualityFinding]:
    ratio = speech - noise
    if ratio >= _CLEAN_DB or noise < _NO_NOISE_DB:
        return []
    remedy = "Move closer to the microphone, or turn off what hums and blows."
    text = f"Noise: speech stands only {math.floor(ratio)} dB above it ({_CLEAN_DB:.0f} dB and more is clean). {remedy}"
    return [QualityFinding("noise", text, grave=ratio < _GRAVE_DB)]


def _quiet(speech: float) -> list[QualityFinding]:
    if speech >= _QUIET_DB:
        return []
    text = f"The speech is quiet, {speech:.0f} dB of full scale. It can be read; raise its gain to hear it well."
    return [QualityFinding("quiet", text)]


def _hum(samples: NDArray[np.int16], levels: Floats, noise: float) -> list[QualityFinding]:
    """Mains hum: in the quiet pieces, narrow peaks at the mains frequency and its overtones."""
    size = READ_RATE
    quiet = [
        samples[start : start + size].astype(np.float32)
        for start in range(0, len(samples) - size, size)
        if levels[start // _PIECE : (start + size) // _PIECE].mean() < noise + 12
    ][:30]
    if not quiet or noise < -80:
        return []
    power = np.mean([np.abs(np.fft.rfft(piece * np.hanning(size))) ** 2 for piece in quiet], axis=0)
    for mains in _HUM_HZ:
        heights = [_peak_over_surroundings(power, round(mains * n)) for n in (1, 2, 3, 4)]
        if sum(height > 15 for height in heights) >= 2:
            text = (
                f"Mains hum at {mains:.0f} Hz, {max(heights):.0f} dB over its surroundings. Check the cable and the "
                "earth, or take the hum out with a notch filter."
            )
            return [QualityFinding("hum", text)]
    return []


def _peak_over_surroundings(power: Floats, bin_hz: int) -> float:
    around = np.concatenate([power[bin_hz - 12 : bin_hz - 4], power[bin_hz + 5 : bin_hz + 13]])
    return float(10 * np.log10((power[bin_hz - 1 : bin_hz + 2].max() + 1e-9) / (np.median(around) + 1e-9)))


def _ends(levels: Floats, noise: float, speech: float) -> list[QualityFinding]:
    loud = np.flatnonzero(levels > (noise + speech) / 2)
    if not len(loud):
        return []
    found = []
    lead, tail = int(loud[0]) * _PIECE_SECONDS, int(len(levels) - 1 - loud[-1]) * _PIECE_SECONDS
    length = len(levels) * _PIECE_SECONDS
    for kind, seconds, where in (("lead-in", lead, "before the first word"), ("tail", tail, "after the last word")):
        if seconds > _LONG_SECONDS:
            place = (0.0, lead) if kind == "lead-in" else (length - tail, length)
            found.append(
                QualityFinding(kind, f"{seconds:.1f} s without speech {where}. Trim it if you like.", (place,))
            )
    if lead < _PIECE_SECONDS and levels[0] > speech - _CUT_IN_DB:
        found.append(
            QualityFinding("cut-in", "The sound begins in full voice: the first word may be cut off.", ((0, 0.2),))
        )
    return found


def _more_voices(heard: NDArray[np.float32]) -> list[QualityFinding]:
    stretches = voices.group(heard[: _VOICES_SECONDS * READ_RATE])
    count = len({stretch.voice for stretch in stretches})
    if count < 2:
        return []
    places = tuple((s.start, s.end) for s in stretches if s.voice != stretches[0].voice)[:_MOST_PLACES]
    text = f"{count} voices suspected. If several people speak, put it on a shared track and say who speaks which line."
    return [QualityFinding("voices", text, places)]
