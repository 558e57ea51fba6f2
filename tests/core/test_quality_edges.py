"""Each limit of the quality report, just on either side of it. Sounds are pieces of 20 ms of exact loudness."""

import numpy as np
import pytest

from tinfork.core.sound import voices
from tinfork.core.sound.quality import ClippingMeter, report

PIECE = 320


def blocks(*parts):
    """Noise in pieces of exact levels: parts are (level in dB of full scale, how many pieces)."""
    rng = np.random.default_rng(3)
    found = []
    for level, count in parts:
        for _ in range(count):
            piece = rng.standard_normal(PIECE)
            found.append(piece * np.sqrt(10 ** (level / 10) / 2 / np.mean(piece**2)))
    return np.concatenate(found)


def found(samples, rate=16_000):
    meter = ClippingMeter(rate)
    meter.add(samples.astype(np.float32))
    whole = np.rint(np.clip(samples, -1, 1) * 32_768).clip(-32_768, 32_767).astype(np.int16)
    return {finding.kind: finding for finding in report(whole, meter)}


def speech_over(noise, speech, before=20, after=20):
    """Speech for two seconds between noise, with noise in its pauses."""
    words = [(speech, 20), (noise, 5)] * 4
    return blocks((noise, before), *words, (noise, after))


@pytest.mark.parametrize(("level", "silent"), [(-60.5, True), (-59.5, False)])
def test_what_never_comes_to_60_dB_below_full_scale_is_silent(level, silent):
    assert ("silent" in found(blocks((level, 100)))) == silent


@pytest.mark.parametrize(
    ("ratio", "told", "grave"), [(25.5, False, False), (24.5, True, False), (12.5, True, False), (11.5, True, True)]
)
def test_25_dB_over_the_noise_is_clean_and_under_12_is_grave(ratio, told, grave):
    said = found(speech_over(-22.0 - ratio, -22.0))
    assert ("noise" in said) == told
    if told:
        assert f"only {int(ratio)} dB" in said["noise"].text
        assert said["noise"].grave == said["verdict"].grave == grave


@pytest.mark.parametrize(("noise", "told"), [(-70.5, False), (-69.0, True)])
def test_noise_under_70_dB_is_nobodys(noise, told):
    assert ("noise" in found(speech_over(noise, noise + 22.0))) == told


@pytest.mark.parametrize(("speech", "told"), [(-40.4, True), (-39.6, False)])
def test_speech_under_40_dB_is_quiet(speech, told):
    assert ("quiet" in found(speech_over(-90.0, speech))) == told


@pytest.mark.parametrize(("pieces", "told"), [(100, False), (101, True)])
def test_more_than_two_seconds_without_speech_are_told(pieces, told):
    said = found(speech_over(-90.0, -20.0, before=pieces, after=10))
    assert ("lead-in" in said, "tail" in said) == (told, False)
    if told:
        assert said["lead-in"].places == ((0.0, pytest.approx(2.02)),)
    said = found(speech_over(-90.0, -20.0, before=10, after=pieces - 5))
    assert ("lead-in" in said, "tail" in said) == (False, told)


@pytest.mark.parametrize(("first", "told"), [(-15.8, True), (-16.2, False)])
def test_a_sound_that_begins_no_more_than_6_dB_under_the_speech_is_cut_in(first, told):
    said = found(blocks((first, 1), (-10.0, 20), (-60.0, 30), (-10.0, 20), (-60.0, 30)))
    assert ("cut-in" in said) == told


def test_a_sound_that_begins_a_moment_before_its_loudest_voice_is_not_cut_in():
    """Its first piece is as loud as one that is cut, and less than half-way from the noise to the speech."""
    said = found(blocks((-15.5, 1), (-10.0, 20), (-20.0, 30), (-10.0, 20), (-20.0, 30)))
    assert "cut-in" not in said


def test_noise_is_measured_near_speech_alone():
    far = blocks((-20.0, 25), (-55.0, 15), (-20.0, 25), (-55.0, 15), (-80.0, 400))
    assert "35 dB above" in found(far)["verdict"].text


def test_near_speech_is_within_fifteen_pieces_of_it():
    """The last of them is quieter than the others, and so is what lies behind it: of both there is enough to tell."""
    said = found(blocks(*[(-20.0, 6), (-55.0, 14), (-80.0, 12), (-55.0, 14)] * 6, (-20.0, 6)))
    assert "35 dB above" in said["verdict"].text


def test_nothing_at_all_is_as_quiet_as_16_bits_can_be():
    said = found(np.where(np.arange(16_000 * 3) // 8_000 % 2, blocks((-22.0, 150)), 0.0))
    assert "stands 74 dB above" in said["verdict"].text


def shouted(runs, length):
    """A second of quiet noise for each of some runs of samples at full scale, so many each."""
    samples = blocks((-30.0, 50 * max(1, runs)))
    for run in range(runs):
        samples[16_000 * run + 100 : 16_000 * run + 100 + length] = 1.0
    return samples


@pytest.mark.parametrize(("runs", "length", "told"), [(2, 3, False), (3, 3, True), (3, 2, False)])
def test_three_runs_of_three_samples_at_full_scale_are_clipping(runs, length, told):
    said = found(shouted(runs, length))
    assert ("clipping" in said) == told
    if told:
        assert said["clipping"].places == ((0.0, 1.0), (1.0, 2.0), (2.0, 3.0))


def test_the_verdict_follows_the_figures():
    """A file of which 7% is cut off, with speech 19 dB over its noise."""
    samples = speech_over(-41.5, -22.0)
    for part in range(4):
        samples[8_000 * part : 8_000 * part + 600] = 1.0
    share = 100 * 4 * 600 / len(samples)
    said = found(samples)["verdict"]
    assert said.text.startswith(
        f"It can be read, and is not clean: {share:.1f}% of it is cut off, and speech stands only"
    )
    assert not said.grave
    assert found(speech_over(-60.0, -22.0))["verdict"].text.startswith("Good enough to read: speech stands 38 dB")


@pytest.mark.parametrize(("level", "counts"), [(0.9985, False), (0.9995, True)])
def test_full_scale_is_a_thousandth_under_one(level, counts):
    samples = shouted(3, 4)
    samples[samples == 1.0] = level
    assert ("clipping" in found(samples)) == counts


@pytest.mark.parametrize(("share", "grave"), [(0.34, False), (0.35, False), (0.36, True)])
def test_more_than_35_percent_cut_off_are_grave(share, grave):
    samples = blocks((-30.0, 200))
    for second in range(4):
        samples[16_000 * second : 16_000 * second + int(16_000 * share)] = 1.0
    said = found(samples)
    assert said["clipping"].grave == grave
    assert ("too much is missing" in said["clipping"].text) == grave


def chord(level, ratio):
    """Speech-like noise in bursts over tones that stay, so many dB under it; together the bursts are louder by two."""
    speech = blocks(*[(level, 20), (-90.0, 10)] * 12)
    t = np.arange(len(speech)) / 16_000
    tones = sum(np.sin(2 * np.pi * hz * n * t) / n for hz in (220, 277, 330) for n in range(1, 6))
    return speech + tones * np.sqrt(10 ** ((level - ratio) / 10) / 2 / np.mean(tones**2))


@pytest.mark.parametrize(("ratio", "grave"), [(4.3, False), (4.0, True)])
def test_music_less_than_6_dB_under_the_speech_is_grave(ratio, grave):
    assert found(chord(-22.0, ratio))["music"].grave == grave


@pytest.mark.parametrize(("overtones", "told"), [((1,), False), ((1, 2), True), ((1, 2, 3, 4), True)])
def test_hum_has_two_of_the_mains_overtones(overtones, told):
    quiet = blocks((-75.0, 150), (-20.0, 25), (-75.0, 50), (-20.0, 25), (-75.0, 50))
    t = np.arange(len(quiet)) / 16_000
    hum = sum(0.001 * np.sin(2 * np.pi * 50 * n * t) for n in overtones)
    assert ("hum" in found(quiet + hum)) == told


@pytest.mark.parametrize(("second", "told"), [(1.4e-5, False), (1.55e-5, True)])
def test_an_overtone_stands_fifteen_dB_over_what_is_around_it(second, told):
    """14.7 and 15.5 dB; the first of them stands 53 dB over it."""
    quiet = blocks((-75.0, 150), (-20.0, 25), (-75.0, 50), (-20.0, 25), (-75.0, 50))
    t = np.arange(len(quiet)) / 16_000
    hum = 0.001 * np.sin(2 * np.pi * 50 * t) + second * np.sin(2 * np.pi * 100 * t)
    assert ("hum" in found(quiet + hum)) == told


def test_two_voices_are_told_and_one_is_not_in_the_first_five_minutes(monkeypatch):
    heard = []

    def grouped(count):
        def group(samples):
            heard.append(len(samples))
            return [voices.VoiceStretch(n, n + 1, n % count) for n in range(4)]

        return group

    sound = speech_over(-80.0, -20.0)
    for count, told in ((1, False), (2, True)):
        monkeypatch.setattr(voices, "group", grouped(count))
        assert ("voices" in found(sound)) == told
    assert found(sound)["voices"].places == ((1, 2), (3, 4))
    found(np.tile(speech_over(-80.0, -20.0), 110))
    assert heard[-1] == 300 * 16_000
