"""What rooms, other people and recorders do to a voice is told, and what can be is taken out again."""

import numpy as np
import pytest

from bench import acted, alone, conditions, rooms, truth
from tinfork.core.sound.bed import has_bed, without_bed
from tinfork.core.sound.echo import echoes, without_echo
from tinfork.core.sound.features import cepstra
from tinfork.core.sound.quality import ClippingMeter, report
from tinfork.core.sound.rounded import share_near_peak, straightened

SAID = ("The fog came down before the bell had finished.", "Nobody sold a ticket to that goat.", "Mind the step.")


@pytest.fixture(scope="module")
def lines():
    return [truth.flite(text, voice) for voice in ("slt", "rms", "awb") for text in SAID]


@pytest.fixture(scope="module")
def line(lines):
    return alone.in_one(lines[:6])


def dice():
    return np.random.default_rng(5)


def told(heard):
    samples = heard.recording.samples / np.abs(heard.recording.samples).max() * 0.7
    return {one.kind: one for one in report((samples * 32767).astype(np.int16), ClippingMeter(16_000))}


def far(first, second):
    """How far what is heard of two sounds lies apart, whatever their loudness, where the first is loud."""
    both = [cepstra(one.astype(np.float32))[:, 1:] for one in (first, second)]
    loud = cepstra(first.astype(np.float32))[:, 0]
    return float(np.abs(both[0] - both[1])[loud > np.quantile(loud, 0.4)].mean())


@pytest.mark.parametrize(("seconds", "share", "left"), [(0.25, 0.5, 0.85), (0.5, 0.7, 0.96), (0.8, 0.7, 0.98)])
def test_an_echo_is_told_and_taken_out(line, seconds, share, left):
    dry = line.recording.samples
    wet = rooms.room(line, dice(), seconds, share).recording.samples
    assert not echoes(dry)
    assert echoes(wet)
    assert without_echo(dry) is dry
    assert far(dry, without_echo(wet)) < left * far(dry, wet)


def test_neither_noise_nor_talk_nor_a_shout_is_an_echo(line, lines):
    others = rooms.among_talkers(lines)(line, dice())
    for heard in (others, conditions.noisy(line, 10), acted.whispered(line), rooms.saturated(line, dice())):
        assert not echoes(heard.recording.samples)


@pytest.mark.parametrize("seconds", [2.0, 6.0])
def test_a_vowel_that_is_held_is_no_echo_and_stays(seconds):
    """It can be predicted from its past as well as an echo can."""
    line = truth.flite("Now the goat is here.", "rms")
    at = next(phone for phone in line.phones if phone.ipa[:1] == "a")
    samples, middle = line.recording.samples, int((at.start + at.end) * 8_000)
    loop = np.tile(samples[middle : middle + 640], int(seconds * 25))
    held = conditions.with_samples(line, np.concatenate([samples[:middle], loop, samples[middle:]]))
    assert without_echo(held.recording.samples) is held.recording.samples
    wet = rooms.room(alone.in_one([line] * 4 + [held]), dice()).recording.samples
    vowel = slice(-len(held.recording.samples) + middle, -len(held.recording.samples) + middle + len(loop))
    assert np.abs(without_echo(wet)[vowel]).mean() > 0.7 * np.abs(wet[vowel]).mean()


@pytest.mark.parametrize("seconds", [0.0, 0.1, 0.4, 25.0])
def test_an_echo_is_looked_for_in_sounds_of_any_length(seconds):
    samples = np.random.default_rng(1).standard_normal(int(seconds * 16_000)).astype(np.float32)
    for own in (samples, 0 * samples):
        assert len(without_echo(own)) == len(own)


def test_a_long_sound_is_dried_from_end_to_end(line):
    dry = np.tile(line.recording.samples, 3)
    wet = rooms.room(conditions.with_samples(line, dry), dice()).recording.samples
    dried = without_echo(wet)
    for part in np.array_split(np.arange(len(dry)), 4):
        assert far(dry[part], dried[part]) < 0.97 * far(dry[part], wet[part])


def test_peaks_that_were_rounded_off_are_bent_back(line):
    plain = line.recording.samples
    bent = rooms.saturated(line, dice()).recording.samples
    assert straightened(plain) is plain
    assert far(plain, straightened(bent)) < 0.5 * far(plain, bent)
    assert np.abs(straightened(bent)).max() == pytest.approx(np.abs(bent).max())
    for heard in (acted.shouted(line), rooms.compressed(line, dice()), rooms.by_telephone(line, dice())):
        assert share_near_peak(heard.recording.samples) < 0.04
    assert share_near_peak(bent) > 0.08


def test_people_behind_a_voice_are_no_music(line, lines):
    crowd = rooms.among_talkers(lines, 5)(line, dice()).recording.samples
    music = acted.over_music(line).recording.samples
    assert not has_bed(crowd)
    assert without_bed(crowd) is crowd
    assert has_bed(music)


def test_a_vowel_that_rings_on_in_a_room_is_no_music():
    """As music it stays, though not for as long; what was to be taken for a bed would take the echo's place."""
    line = truth.flite("The tide is out. My left boot went overboard. Mind the step and the goat.", "slt")
    rooms_of_it = [rooms.room(line, np.random.default_rng(seed), 0.6) for seed in range(4)]
    assert not any(has_bed(heard.recording.samples) for heard in rooms_of_it)
    assert all("echo" in told(heard) and "music" not in told(heard) for heard in rooms_of_it)


def test_the_report_names_what_is_wrong_with_a_room(line, lines):
    crowd = rooms.among_talkers(lines)
    ways = {
        "echo": rooms.room(line, dice()),
        "rounded": rooms.saturated(line, dice()),
        "talkers": crowd(line, dice()),
        "music": acted.over_music(line),
        "noise": conditions.noisy(line, 12),
    }
    for kind, heard in ways.items():
        named = set(told(heard)) & set(ways)
        assert named == {kind}, kind
        assert "record again" in told(heard)[kind].text.lower() or kind in ("echo", "music", "noise")
    assert not set(told(line)) & set(ways)


def test_talk_that_is_near_is_grave_and_far_talk_is_not_told(line, lines):
    said = [told(rooms.among_talkers(lines, decibels)(line, dice())) for decibels in (0, 12, 40)]
    assert said[0]["talkers"].grave
    assert not said[1]["talkers"].grave
    assert "talkers" not in said[2]
