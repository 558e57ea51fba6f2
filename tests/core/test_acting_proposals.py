"""What is proposed: blinks, looks, brows and head, from what is said and how."""

import itertools

import numpy as np
import pytest

from tests.core import stressed
from tinfork.core.acting import verbs
from tinfork.core.acting.accents import STRESSED, accent_scores
from tinfork.core.acting.blinks import blink_frames
from tinfork.core.acting.lanes import Gesture, Lane, ShownFor, Where, place
from tinfork.core.acting.proposals import Wish, proposed, thoughts
from tinfork.core.acting.speech import Phrase, Said, Speech, near
from tinfork.core.exposure import verbs as exposing
from tinfork.core.mouths.face import FaceStyle, built_in_face
from tinfork.core.mouths.parts import Part
from tinfork.core.sound.melody import STEP, Melody, melody_of
from tinfork.core.speech.reading import Sound, Word

FPS = 24
PARTS = {part.name: part for part in built_in_face(FaceStyle()).parts}


def spoken(seed, minutes=2.0, fps=FPS):
    """Somebody who says phrases of a few words, with pauses of all lengths, for so long."""
    dice = np.random.default_rng(seed)
    at, phrases, closures = 30, [], []
    frames = int(minutes * 60 * fps)
    while at < frames - 10 * fps:
        words, first = [], at
        for _ in range(int(dice.integers(3, 9))):
            end = at + int(dice.integers(fps // 6, fps // 2))
            words.append(Said("word", at, end, float(dice.uniform(-0.5, 1.6))))
            closures += [at] if dice.random() < 0.5 else []
            at = end
        phrases.append(Phrase(len(phrases) + 1, "", tuple(words)))
        assert phrases[-1].frame == first
        at += int(dice.integers(fps // 6, 3 * fps))
    return Speech(tuple(phrases), tuple(closures), frames, fps)


SPEECH = spoken(3)
EVERY = list(range(len(SPEECH.phrases)))
USUAL = Wish()
EMPTY = place(Lane(), Where((), SPEECH.frames))


def propose(name, lane=EMPTY, speech=SPEECH, numbers=EVERY, wish=USUAL):
    return proposed(PARTS[name], lane, speech, wish, numbers)


def test_stressed_words_are_found_in_lines_that_nothing_was_tuned_on(tmp_path):
    scores = stressed.scored(tmp_path, stressed.HELD_OUT)
    precision, recall = stressed.figures(scores, STRESSED)
    many = sum(sum(truth) for truth, _ in scores)
    print(f"{many} stressed words in {len(scores)} lines: precision {precision:.2f}, recall {recall:.2f}")
    assert precision >= 0.85
    assert recall >= 0.85


def test_a_word_stands_out_by_being_louder_longer_and_falling_after():
    loud = np.full(200, -30.0, np.float32)
    loud[50:100] = -20.0
    melody = Melody(np.full(200, 120.0, np.float32), loud)
    words = [Word("goat", t, t + 0.5, 1.0, False, (Sound("a", t, t + 0.5, 1.0),)) for t in (0.0, 0.5, 1.0, 1.5)]
    scores = accent_scores(words, [melody] * 4)
    assert int(np.argmax(scores)) == 1
    assert scores[1] >= STRESSED > max(scores[0], scores[2], scores[3])
    assert accent_scores(words[:1], [melody]) == [STRESSED]


def test_pitch_and_loudness_of_a_tone_are_what_they_are():
    rate = 16_000
    for hertz in (82.0, 140.0, 233.0, 410.0):
        wave = 0.25 * np.sign(np.sin(2 * np.pi * hertz * np.arange(rate) / rate)).astype(np.float32)
        found = melody_of(np.concatenate([wave, np.zeros(rate, np.float32)]), rate)
        middle = found.between(0.2, 0.8)
        assert np.median(middle.pitch) == pytest.approx(hertz, rel=0.03)
        assert not found.between(1.2, 1.8).pitch.any()
        assert np.median(middle.loudness) == pytest.approx(20 * np.log10(0.25), abs=0.5)
    kept = Melody.unpacked(found.packed())
    assert kept.pitch == pytest.approx(found.pitch, rel=1e-3)
    assert len(kept.loudness) == round(2 / STEP)


@pytest.mark.parametrize("rate", [6.0, 16.0, 30.0])
def test_blinks_come_at_a_human_rate_over_a_hundred_seeds(rate):
    many, gaps = [], []
    for seed in range(100):
        speech = spoken(seed)
        found = blink_frames(speech, rate, seed, [one.frame for one in thoughts(speech, seed)], [])
        many.append(len(found) / 2)
        gaps += [(b - a) / FPS for a, b in itertools.pairwise(found)]
    print(
        f"asked {rate:.0f} blinks a minute, 100 seeds of 2 minutes: {np.mean(many):.1f}, deviation {np.std(many):.1f}, "
        f"gaps {min(gaps):.2f} s at least, median {np.median(gaps):.1f} s"
    )
    assert np.mean(many) == pytest.approx(rate, rel=0.15)
    assert min(gaps) >= 0.7
    assert np.std(many) > 0.5


def test_blinks_are_the_same_for_the_same_seed_and_others_for_another():
    own = propose("lids")
    assert own == propose("lids")
    assert own != propose("lids", wish=Wish(seed=2))
    assert {one.frames for one in own} <= {2, 3, 4}
    assert all([s.drawing for s in one.shown] == ["half", "shut", "half"] for one in own)


def test_no_blink_hides_a_closure():
    for seed in range(30):
        speech = spoken(seed)
        for one in propose("lids", speech=speech, numbers=list(range(len(speech.phrases))), wish=Wish(seed=seed)):
            shut = one.frame + 2
            assert not near(shut, speech.closures, 1)


def test_people_blink_where_a_thought_begins_or_ends():
    found = [one.frame for one in propose("lids")]
    wanted = sorted(
        [p.frame - 3 for p in SPEECH.phrases]
        + [p.end + 2 for p in SPEECH.phrases]
        + [t.frame for t in thoughts(SPEECH, 1)]
    )
    close = sum(near(frame, wanted, 4) for frame in found)
    by_chance = sum(near(frame, wanted, 4) for frame in range(SPEECH.frames)) / SPEECH.frames
    assert close / len(found) > 1.5 * by_chance


def test_nothing_is_proposed_where_a_person_decided():
    (first, *_) = propose("lids")
    stare = verbs.expose(
        Lane(),
        Where((), SPEECH.frames),
        "",
        lambda t: exposing.lay(t, first.frame - 20, [exposing.Piece(0, 60, "half")]),
    )
    found = propose("lids", place(stare, Where((), SPEECH.frames)))
    assert found
    assert not any(first.frame - 20 < one.frame + one.frames and one.frame < first.frame + 40 for one in found)
    accepted = verbs.put_gestures(Lane(), [Gesture(0, "blink", 500, shown=(ShownFor(0, 3, "shut"),), accepted=True)])
    around = propose("lids", place(accepted, Where((), SPEECH.frames)))
    assert not any(abs(one.frame - 500) < 0.6 * FPS for one in around)


def test_one_phrase_is_proposed_as_it_would_be_with_all():
    for seed in (1, 2):
        wish = Wish(seed=seed)
        whole = {name: propose(name, wish=wish) for name in ("head", "left brow", "eyes", "lids")}
        for number, own in enumerate(SPEECH.phrases):
            bare = tuple(p if p is own else Phrase(p.line, "", (Said("", p.frame, p.end),)) for p in SPEECH.phrases)
            closures = tuple(frame for frame in SPEECH.closures if own.frame <= frame < own.end)
            alone = Speech(bare, closures, SPEECH.frames, FPS)
            for name, proposals in whole.items():
                expected = [one for one in proposals if one.line == own.line]
                assert propose(name, speech=alone, numbers=[number], wish=wish) == expected, (name, number)


def test_accents_raise_brows_and_nod_after_a_small_move_the_other_way():
    nods = [one for one in propose("head") if one.kind == "nod"]
    brows = propose("left brow")
    assert len(nods) >= len(SPEECH.phrases) * 0.7
    for one in nods:
        way = dict(one.dials["y"])
        back, hit = sorted(way)[1:3]
        assert way[back] < 0 < way[hit]
        words = [w for p in SPEECH.phrases if p.line == one.line for w in p.accented()]
        assert any(w.frame <= one.frame + hit <= max(w.end, w.frame + 3) for w in words)
    hits = [one.frame + sorted(dict(one.dials["y"]))[2] for one in nods]
    assert np.mean([min(hits, key=lambda hit: abs(hit - one.frame)) - one.frame > 0 for one in brows]) > 0.7


def test_one_brow_goes_behind_the_other_and_eyes_before_the_head():
    left, right = propose("left brow"), propose("right brow")
    assert {b.frame - a.frame for a, b in zip(left, right, strict=True)} == {1}
    looks = [one for one in propose("eyes") if one.kind == "look"]
    turns = [one for one in propose("head", wish=Wish(eyes_first=5)) if one.kind == "turn"]
    assert looks
    assert turns
    starts = {one.frame for one in looks}
    assert all(one.frame - 5 in starts for one in turns)
    assert {np.sign(one.dials["turn"][1][1]) for one in turns} == {-1.0, 1.0}


def test_a_part_without_a_role_or_drawings_gets_nothing():
    assert proposed(Part("hat"), EMPTY, SPEECH, Wish(), EVERY) == []
    assert proposed(Part("lids", role="lids"), EMPTY, SPEECH, Wish(), EVERY) == []
    shut_only = proposed(Part("lids", role="lids", drawings=("shut",)), EMPTY, SPEECH, Wish(), EVERY)
    assert {tuple(s.drawing for s in one.shown) for one in shut_only} == {("shut",)}


def test_every_proposal_lies_in_the_scene():
    short = Speech((Phrase(1, "", (Said("a", 0, 4, 2.0), Said("b", 4, 9))),), (0,), 10, FPS)
    for name in PARTS:
        for one in propose(name, place(Lane(), Where((), 10)), short, [0]):
            assert one.frame >= 0
            assert one.frame + one.frames <= 10


def blinks_with(taken=(), frames=2_400, seed=5, rate=16.0):
    return blink_frames(Speech((), (), frames, FPS), rate, seed, [], list(taken))


def test_a_blink_dodges_what_is_taken_by_no_more_than_four_frames():
    """A blink lasts four frames; it begins beside what is taken, or is left out."""
    first = blinks_with()[3]
    for by, wanted in ((1, [first + 1]), (4, [first + 4]), (5, [])):
        taken = [range(first - 20, first + by)]
        found = [frame for frame in blinks_with(taken) if abs(frame - first) < 10]
        assert found == wanted
    beside = [range(first - 20, first), range(first + 4, first + 20)]
    assert first in blinks_with(beside)


def test_no_blink_begins_where_it_would_not_end():
    for seed in range(40):
        own = blinks_with(frames=480, seed=seed)
        assert all(0 <= frame < 480 - 4 for frame in own)


def gaps_between_blinks(rate, frames=2_400):
    """Of sixty seeds; the last blink of a scene may have had to end before it does."""
    every = (blinks_with(seed=seed, rate=rate, frames=frames)[:-1] for seed in range(60))
    return [b - a for own in every for a, b in itertools.pairwise(own)]


def test_no_two_blinks_come_in_six_tenths_of_a_second_and_what_they_may_dodge():
    assert min(gaps_between_blinks(60.0)) == 23  # 14.4 frames, and 4 on either side


def test_blinks_are_spread_as_people_blink():
    gaps = np.array(gaps_between_blinks(16.0, 20_000)) / FPS
    waits = gaps - gaps.min()
    assert gaps.mean() == pytest.approx(60 / 16, rel=0.06)
    assert waits.std() / waits.mean() == pytest.approx(0.57, abs=0.025)


@pytest.mark.parametrize(
    ("wished", "alike"), [((0.5, 1.0), True), ((1.0, 1.09), False), ((70.0, 60.0), True), ((60.0, 58.0), False)]
)
def test_blinks_are_proposed_at_one_to_sixty_a_minute(wished, alike):
    """Whoever asks for fewer or more gets so many. A quarter of an hour, as the fewest are few."""
    long = spoken(3, minutes=15)
    lane = place(Lane(), Where((), long.frames))
    one, other = (
        [own.frame for own in propose("lids", lane, long, range(len(long.phrases)), Wish(rate=rate))] for rate in wished
    )
    assert (one == other) == alike


@pytest.mark.parametrize(("share", "goes"), [(0.48, True), (0.52, False)])
def test_a_blink_goes_to_a_thought_within_half_of_the_mean_wait(share, goes):
    """Of 16 a minute, thought of 1.05 times as often, less the time in which nobody blinks again."""
    mean = 60 / 16 / 1.05 * FPS - (0.6 * FPS + 8)
    alone = blinks_with()[0]
    turn = alone + round(share * mean)
    first = blink_frames(Speech((), (), 2_400, FPS), 16.0, 5, [turn], [])[0]
    assert first == (turn if goes else alone)


def test_sixteen_blinks_a_minute_are_usual():
    assert Wish().rate == 16.0
