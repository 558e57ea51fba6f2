"""What is proposed: blinks, looks, brows and head, from what is said and how."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from bench import sentences, truth
from tests.core import stressed
from tinfork.core.acting import verbs
from tinfork.core.acting.accents import STRESSED, accent_scores
from tinfork.core.acting.blinks import blink_frames
from tinfork.core.acting.bodies import of_body
from tinfork.core.acting.framing import FRAMINGS, for_framing
from tinfork.core.acting.lanes import Gesture, Lane, ShownFor, Where, place
from tinfork.core.acting.proposals import proposed, stresses_in
from tinfork.core.acting.speech import Elsewhere, Phrase, Said, Speech, marks_after, near, sides
from tinfork.core.acting.temper import ACCENTS, LEAN, NARROW, NOD, RISE, SHAKE, SHRUG, TEMPERS, TILT, liking
from tinfork.core.acting.thoughts import looks, spoken_to, thoughts
from tinfork.core.acting.wish import Wish
from tinfork.core.exposure import verbs as exposing
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.face import built_in_face
from tinfork.core.mouths.parts import Part
from tinfork.core.sound.melody import STEP, Melody, melody_of
from tinfork.core.sound.recording import READ_RATE
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


def blinks_in(**more):
    return [one for one in propose("lids", **more) if one.kind == "blink"]


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


def test_pitch_follows_a_glide_of_more_than_an_octave():
    rate, seconds = 16_000, 3
    hertz = 90 * 2 ** (1.6 * np.arange(rate * seconds) / rate / seconds)
    phase = np.cumsum(hertz) / rate
    wave = sum(np.sin(2 * np.pi * n * phase) / n for n in range(1, 12)).astype(np.float32) / 4
    found = melody_of(wave, rate).pitch
    true = hertz[(np.arange(len(found)) * rate * STEP).astype(int)]
    own = slice(5, -5)
    assert np.abs(np.log2(found[own] / true[own])).max() < 0.04


def test_no_voice_leaps_an_octave_within_a_word():
    """By the pitch of each frame alone 106 of 7,400 frames did, of one voice a tenth."""
    leaps = many = 0
    for voice in truth.FLITE_VOICES:
        for text in sentences.ENGLISH[:4]:
            pitch = melody_of(truth.flite(text, voice).recording.samples, READ_RATE).pitch
            both = (pitch[:-1] > 0) & (pitch[1:] > 0)
            leaps += int((np.abs(12 * np.log2(pitch[1:][both] / pitch[:-1][both])) > 8).sum())
            many += int(both.sum())
    print(f"{leaps} leaps in {many} frames")
    assert leaps <= many / 500


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
    own = blinks_in()
    assert own == blinks_in()
    assert own != blinks_in(wish=Wish(seed=2))
    assert {one.frames for one in own} <= {2, 3, 4}
    assert all([s.drawing for s in one.shown] == ["half", "shut", "half"] for one in own)


def test_no_blink_hides_a_closure():
    for seed in range(30):
        speech = spoken(seed)
        for one in blinks_in(speech=speech, numbers=list(range(len(speech.phrases))), wish=Wish(seed=seed)):
            shut = one.frame + 2
            assert not near(shut, speech.closures, 1)


def test_people_blink_where_a_thought_begins_or_ends():
    found = [one.frame for one in blinks_in()]
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
    """With its own words, and those of the one before it: who blinks after that blinks in the pause before this."""
    for seed in (1, 2):
        wish = Wish(seed=seed)
        whole = {name: propose(name, wish=wish) for name in ("head", "left brow", "eyes", "lids")}
        for number, own in enumerate(SPEECH.phrases):
            near_by = SPEECH.phrases[max(0, number - 1) : number + 1]
            bare = tuple(p if p in near_by else Phrase(p.line, "", (Said("", p.frame, p.end),)) for p in SPEECH.phrases)
            closures = tuple(frame for frame in SPEECH.closures if near_by[0].frame <= frame < own.end)
            alone = Speech(bare, closures, SPEECH.frames, FPS)
            for name, proposals in whole.items():
                expected = [one for one in proposals if one.line == own.line]
                assert propose(name, speech=alone, numbers=[number], wish=wish) == expected, (name, number)


def test_a_nod_goes_the_other_way_first_and_every_kind_is_seen_on_its_word():
    found = [one for one in propose("head") if one.kind in ACCENTS]
    assert len(found) >= len(SPEECH.phrases) * 0.9
    for one in found:
        words = [w for p in SPEECH.phrases if p.line == one.line for w in p.words]
        way = max(one.dials.values(), key=lambda points: max(abs(v) for _, v in points))
        most = one.frame + max(way, key=lambda point: abs(point[1]))[0]
        assert any(w.frame - 3 <= most <= w.end + 3 for w in words), one
    nods = [one for one in found if one.kind == "nod"]
    assert nods
    for one in nods:
        way = dict(one.dials["y"])
        back, hit = sorted(way)[1:3]
        assert way[back] < 0 < way[hit]
    assert len({one.frames for one in nods}) > 3


def kinds_of(wish=USUAL, speech=SPEECH):
    """Of each phrase what is done on its words, in their order."""
    every = stresses_in(speech, wish, range(len(speech.phrases)))
    return [[one.kind for one in own] for _, own in itertools.groupby(every, key=lambda one: one.phrase.line)]


def test_nothing_is_done_twice_in_a_phrase_before_all_else_was():
    for seed in range(20):
        for own in kinds_of(Wish(seed=seed), spoken(seed)):
            assert len(set(own[:4])) == len(own[:4])
            assert all(one != other for one, other in itertools.pairwise(own))


def test_many_kinds_are_done_in_a_minute():
    """In bits; one kind alone has none, eight as often as each other have three."""
    many = list(itertools.chain.from_iterable(kinds_of()))
    shares = np.array([many.count(kind) for kind in set(many)]) / len(many)
    bits = float(-(shares * np.log2(shares)).sum())
    print(f"{len(many) / 2:.0f} a minute, {len(set(many))} kinds, {bits:.2f} bits")
    assert bits > 2.2


def one_phrase(*words, mark="", accents=(1.2,), gap=0):
    """A phrase of words, each ten frames long; mark: what is written after the last."""
    own = []
    for number, text in enumerate(words):
        at = 40 + number * (10 + gap)
        last = number == len(words) - 1
        own.append(Said(text, at, at + 10, accents[number % len(accents)], mark=mark if last else " "))
    return Speech((Phrase(7, "", tuple(own)),), (), 400, FPS)


def done_on(speech, temper=USUAL.temper, seeds=60, **more):
    """What is done on each word, by its text, over many seeds."""
    found = {}
    for seed in range(seeds):
        for one in stresses_in(speech, Wish(seed=seed, temper=temper, **more), [0]):
            found.setdefault(one.word.text, []).append(one.kind)
    return found


@pytest.mark.parametrize("word", ["No", "never", "can't", "don’t", "nobody"])
def test_the_head_says_no_where_the_words_do(word):
    assert set(done_on(one_phrase(word, "goat", gap=12))[word]) == {SHAKE}


def test_a_questions_end_shrugs_and_another_does_not():
    asked, said = (done_on(one_phrase("the", "goat", mark=mark, accents=(0.0, 1.2)))["goat"] for mark in "?.")
    assert asked.count(SHRUG) > 0.4 * len(asked)
    assert SHRUG not in said


def test_a_word_that_rises_raises_the_head_and_a_loud_one_leans():
    def share(kind, **more):
        word = Said("goat", 40, 60, **({"accent": 1.0} | more))
        own = Speech((Phrase(7, "", (Said("the", 20, 40), word, Said("x", 80, 90))),), (), 400, FPS)
        found = done_on(own, seeds=200)["goat"]
        return found.count(kind) / len(found)

    assert share(RISE, rise=3.0) > 1.5 * share(RISE)
    assert share(NOD, rise=-3.0) > 1.2 * share(NOD)
    assert share(LEAN, accent=1.6) > 1.5 * share(LEAN)
    assert share(NARROW, accent=0.6) > 1.5 * share(NARROW)


@pytest.mark.parametrize(("seconds", "many"), [(0.59, 1), (0.63, 2)])
def test_two_words_have_something_done_on_them_where_they_are_far_enough_apart(seconds, many):
    far = 40 + round(seconds * 100)
    words = (Said("one", 40, far, 1.0), Said("two", far, far + 20, 0.9))
    assert len(stresses_in(Speech((Phrase(7, "", words),), (), 400, 100), USUAL, [0])) == many


def test_a_clause_ends_where_nothing_is_said():
    def clauses(gap, mark=" "):
        words = (Said("one", 0, 100, mark=mark), Said("two", 100 + gap, 200 + gap))
        return len(Phrase(1, "", words).clauses(1000))

    assert [clauses(gap) for gap in (170, 185)] == [1, 2]
    assert [clauses(gap, ", ") for gap in (50, 65)] == [1, 2]
    assert marks_after("No: not (that) goat!", ["No", "not", "that", "goat"]) == [": ", " (", ") ", "!"]
    assert marks_after("30 boots", ["thirty", "boots"]) == ["", ""]


def test_tempers_differ_in_how_much_how_often_and_in_what():
    def figures(name):
        wish = Wish(temper=TEMPERS[name])
        every = stresses_in(SPEECH, wish, EVERY)
        blinks = len(blinks_in(wish=wish))
        return len(every), np.mean([one.size for one in every]), blinks, [one.kind for one in every]

    even, calm, lively, nervous, grand = (figures(name) for name in ("even", "calm", "lively", "nervous", "grand"))
    assert calm[0] < even[0] < lively[0]
    assert calm[1] < even[1] < grand[1]
    assert grand[2] < even[2] < nervous[2]
    assert grand[3].count(LEAN) / grand[0] > 1.3 * even[3].count(LEAN) / even[0]
    assert nervous[3].count(NARROW) / nervous[0] > 1.3 * even[3].count(NARROW) / even[0]


def test_what_was_kept_more_often_is_proposed_more_often():
    usual, liked = (kinds_of(Wish(liked=liked)) for liked in ({}, {TILT: 4.0}))
    many = [sum(own.count(TILT) for own in one) for one in (usual, liked)]
    assert many[1] > 1.3 * many[0]


@pytest.mark.parametrize(
    ("learned", "share"), [((0, 0), 1.0), ((3, 0), 2.0), ((0, 3), 0.5), ((9, 0), 4.0), ((90, 0), 4.0), ((0, 90), 0.25)]
)
def test_a_kind_comes_to_four_times_as_often_or_as_seldom_by_what_was_kept(learned, share):
    assert liking({NOD: learned})[NOD] == pytest.approx(share)


def test_blinks_fall_in_pauses_and_never_over_a_word_that_is_stressed():
    inside = many = 0
    for seed in range(40):
        speech = spoken(seed)
        turns = [one.frame for one in thoughts(speech, seed) if abs(one.x) >= 1]
        words = [word for phrase in speech.phrases for word in phrase.words]
        for frame in blink_frames(speech, 16.0, seed, turns, []):
            over = [word for word in words if word.frame < frame + 3 and frame + 1 < word.end]
            assert not any(word.accent >= STRESSED for word in over)
            inside += not over or near(frame, turns, 4)
            many += 1
    print(f"of {many} blinks {100 * inside / many:.1f}% in pauses or at turns")
    assert inside / many >= 0.98


def listening():
    """Somebody who speaks at the end, and hears two others before."""
    own = Phrase(3, "", (Said("well", 480, 490, 1.2), Said("then", 490, 500)))
    others = (Elsewhere(60, 180, -1.0), Elsewhere(240, 400, 1.0))
    return Speech((own,), (), 600, FPS, others)


def test_who_listens_looks_at_who_speaks_a_beat_late_and_nods_as_they_end():
    speech = listening()
    looks = [one for one in propose("eyes", speech=speech, numbers=[0]) if one.kind == "look"][:2]
    assert [(one.frame, np.sign(one.dials["x"][1][1])) for one in looks] == [(66, -1.0), (246, 1.0)]
    assert [one.frame + one.frames - 1 for one in looks] == [186, 406]
    head = propose("head", speech=speech, numbers=[0])
    turns = [one.frame for one in head if one.kind == "turn"]
    assert turns[:2] == [69, 249]
    nods = [one for seed in range(40) for one in propose("head", speech=speech, numbers=[0], wish=Wish(seed=seed))]
    ends = [one.frame + one.dials["y"][1][0] for one in nods if one.kind == "agree"]
    assert set(ends) == {180, 400}
    assert 0.55 < len(ends) / 80 < 0.85
    assert any(60 < one.frame < 480 for one in blinks_in(speech=speech, numbers=[0]))


TURNING = replace(USUAL, turns=True)


def faced(gestures):
    """The gestures that turn a head, each with how far at its most."""
    return [(one, max((v for _, v in one.dials["facing"]), key=abs)) for one in gestures if "facing" in one.dials]


def test_a_head_that_can_turns_to_who_speaks_behind_the_eyes_and_another_leans_alone():
    speech = listening()
    own = faced(propose("head", speech=speech, numbers=[0], wish=TURNING))
    assert [(one.frame, round(far)) for one, far in own if one.frame < 470][:2] == [(69, -34), (249, 34)]
    looks = propose("eyes", speech=speech, numbers=[0], wish=TURNING)
    assert [one.frame for one in looks if one.kind == "look"][:2] == [66, 246]
    # Once the head is there the eyes have less to do.
    shares = [abs(value) / abs(looks[0].dials["x"][1][1]) for _, value in looks[0].dials["x"]]
    assert shares == pytest.approx([0, 1, 0.4, 0.4, 0])
    blinked = [
        any(abs(one.frame - at) <= 8 for one in blinks_in(speech=speech, numbers=[0], wish=replace(TURNING, seed=seed)))
        for seed in range(30)
        for at in (66, 246)
    ]
    assert np.mean(blinked) > 0.6
    assert faced(propose("head", speech=speech, numbers=[0])) == []


def test_a_head_that_is_drawn_in_views_shows_them_to_who_speaks():
    speech = listening()
    drawn = replace(PARTS["head"], drawings=("front", "three-quarter left", "three-quarter right"), rest="front")
    own = [one for one in proposed(drawn, EMPTY, speech, USUAL, [0]) if one.shown]
    assert [(one.kind, one.frame, [own.drawing for own in one.shown]) for one in own] == [
        ("turn", 69, ["three-quarter left"]),
        ("turn", 249, ["three-quarter right"]),
    ]
    assert not [one for one in proposed(drawn, EMPTY, speech, TURNING, [0]) if one.shown]


def test_a_head_faces_whom_it_speaks_to_while_it_does():
    speech = listening()
    assert spoken_to(speech, 0) == 1.0
    (phrase,) = speech.phrases
    for seed in range(20):
        own = faced(propose("head", speech=speech, numbers=[0], wish=replace(TURNING, seed=seed)))
        (far,) = [far for one, far in own if one.frame < phrase.frame <= phrase.end < one.frame + one.frames]
        assert 12 < far < 27
    assert spoken_to(replace(speech, others=()), 0) == 0.0
    for gap, side in ((70, 1.0), (200, 0.0)):
        later = replace(speech, others=(Elsewhere(phrase.end + gap - 20, phrase.end + 260, 1.0),))
        assert spoken_to(later, 0) == side
    for gap, side in ((110, -1.0), (130, 0.0)):
        earlier = replace(speech, others=(Elsewhere(60, phrase.frame - gap, -1.0),))
        assert spoken_to(earlier, 0) == side


def test_nobody_listens_while_they_speak():
    own = Phrase(3, "", tuple(Said("word", 40 + 10 * n, 50 + 10 * n, 1.0) for n in range(20)))
    speech = Speech((own,), (), 400, FPS, (Elsewhere(60, 180, -1.0),))
    assert not [one for one in propose("head", speech=speech, numbers=[0]) if one.kind == "agree"]
    assert not [one for one in thoughts(speech, 1) if one.listening]


def test_long_silence_has_life():
    speech = Speech((Phrase(1, "", (Said("at", 960, 970, 1.2), Said("last", 970, 980))),), (), 1000, FPS)
    looks = [one.frame for one in thoughts(speech, 1)]
    assert len(looks) >= 6
    assert max(b - a for a, b in itertools.pairwise([0, *sorted(looks), 960])) < 8 * FPS


def test_one_brow_goes_behind_the_other_and_eyes_before_the_head():
    left, right = propose("left brow"), propose("right brow")
    frames = {one.frame for one in left}
    both = [one for one in right if one.frame - 1 in frames]
    assert len(both) > 0.6 * len(right)
    assert {one.kind for one in (*left, *right)} == {"brows"}
    alone = [one for one in right if one.frame - 1 not in frames]
    assert alone
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


def test_who_has_spoken_for_the_last_time_still_listens_and_is_alive():
    own = Phrase(3, "", (Said("well", 20, 30, 1.2), Said("then", 30, 40)))
    speech = Speech((own,), (), 1200, FPS, (Elsewhere(300, 420, -1.0), Elsewhere(800, 900, 1.0)))
    found = thoughts(speech, 1)
    assert [(one.frame, one.end, one.x) for one in found if one.listening] == [(306, 426, -1.0), (806, 906, 1.0)]
    small = sorted(one.frame for one in found if not one.listening)
    assert any(40 < at < 300 for at in small)
    assert any(426 < at < 800 for at in small)
    assert any(at > 906 for at in small)
    assert {one.frame for one in found} == {one.frame for one in thoughts(speech, 1, [0])}


def test_who_says_nothing_listens_from_the_first_frame_to_the_last():
    speech = Speech((Phrase(0, "", (Said("", 1200, 1200),)),), (), 1200, FPS, (Elsewhere(0, 100, -1.0),))
    (heard,) = [one for one in thoughts(speech, 1) if one.listening]
    assert (heard.frame, heard.end) == (6, 106)
    assert all(abs(one.x) < 1 for one in thoughts(speech, 1) if not one.listening)
    for name in ("head", "eyes", "lids"):
        assert propose(name, speech=speech, numbers=[0]), name
    assert {one.kind for one in propose("head", speech=speech, numbers=[0])} <= {"turn", "agree"}


def test_two_who_speak_on_either_side_of_a_short_phrase_are_looked_at_each_for_themselves():
    own = Phrase(3, "", (Said("well", 200, 206, 1.2),))
    speech = Speech((own,), (), 400, FPS, (Elsewhere(100, 198, 1.0), Elsewhere(204, 300, 1.0)))
    assert [(one.frame, one.end) for one in thoughts(speech, 1) if one.listening] == [(106, 199), (210, 306)]


@pytest.mark.parametrize("frames", [range(0), range(0, 60), range(55, 65), range(59, 400), range(180, 240), range(900)])
def test_what_is_heard_is_what_lies_on_the_frames(frames):
    others = tuple(Elsewhere(at, at + far, 1.0) for at, far in ((0, 300), (60, 10), (60, 120), (240, 1), (400, 9)))
    wanted = [one for one in others if set(range(one.frame, one.end)) & set(frames)]
    assert Speech((), (), 900, FPS, others).said_elsewhere(frames) == wanted


def test_a_body_follows_its_head_later_and_less_and_does_not_nod():
    speech, body = SPEECH, Part("body", role="body")
    heads = propose("head", wish=TURNING)
    bodies = proposed(body, EMPTY, speech, TURNING, EVERY)
    assert bodies
    assert not {"nod", "shake", "narrow", "agree"} & {one.kind for one in bodies}
    firsts = {one.frame + 3 for one in heads}
    for one in bodies:
        assert one.frame in firsts
        (head,) = [own for own in heads if own.frame + 3 == one.frame and own.kind == one.kind]
        assert head.frames < one.frames + 3
        for dial, points in one.dials.items():
            if dial in head.dials and "facing" not in head.dials:
                assert max(abs(v) for _, v in points) <= 0.5 * max(abs(v) for _, v in head.dials[dial]) + 0.001
            assert [at for at, _ in points] == sorted({at for at, _ in points})


def test_near_by_little_is_much_and_from_afar_small_things_are_not_done():
    def sizes(framing):
        wish = replace(USUAL, framing=FRAMINGS[framing])
        nods = [one for one in propose("head", wish=wish) if one.kind == "nod"]
        return nods, propose("eyes", wish=wish), propose("head", wish=wish)

    (close, near_looks, _), (medium, looks, _), (wide, far_looks, far) = map(sizes, ("close", "medium", "wide"))
    most = [np.median([max(v for _, v in one.dials["y"]) for one in own]) for own in (close, medium, wide)]
    assert most[0] / most[1] == pytest.approx(0.55, abs=0.08)
    assert most[2] / most[1] == pytest.approx(1.6, abs=0.2)
    assert any(one.kind == "dart" for one in looks)
    assert any(one.kind == "dart" for one in near_looks)
    assert not any(one.kind == "dart" for one in far_looks)
    assert not {"narrow", "one brow"} & {one.kind for one in far}


def test_who_stands_nearer_is_looked_at_less_far_to_the_side_and_is_turned_to_all_the_same():
    assert sides([3], 3) == {}
    assert sides([1, 2, 4, 5, 6], 3) == pytest.approx({1: -1.0, 2: -0.65, 4: 0.65, 5: 0.825, 6: 1.0})
    others = (Elsewhere(60, 180, 0.65), Elsewhere(190, 300, 1.0), Elsewhere(400, 500, -0.65))
    speech = Speech((Phrase(0, "", (Said("", 600, 600),)),), (), 600, FPS, others)
    looks = [one for one in propose("eyes", speech=speech, numbers=[0], wish=TURNING) if one.kind == "look"]
    assert [one.frame for one in looks] == [66, 196, 406]
    turned = faced(propose("head", speech=speech, numbers=[0], wish=TURNING))
    assert [round(far) for _, far in turned] == [22, 34, -22]


def test_looks_are_those_of_all_thoughts_that_go_so_far():
    for seed in range(8):
        others = tuple(Elsewhere(at, at + 70, 1.0) for at in range(100, 2600, 190))
        speech = replace(spoken(seed), others=others)
        wanted = [one.frame for one in thoughts(speech, seed) if one.is_look]
        assert sorted(looks(speech, seed)) == sorted(wanted)
        assert wanted


def test_a_body_goes_so_far_so_slowly_and_so_much_later():
    way = ((0, 0.0), (8, 10.0), (40, 0.0))
    head = Gesture(0, "turn", 100, 3, dials={dial: way for dial in ("x", "y", "turn", "size", "stretch")})
    (body,) = of_body([head], SPEECH)
    assert (body.kind, body.frame, body.line) == ("turn", 103, 3)
    assert {dial: points[1] for dial, points in body.dials.items()} == {
        "x": (10, 4.0),
        "y": (10, 3.0),
        "turn": (10, 3.0),
        "size": (10, 5.0),
    }
    assert {points[-1] for points in body.dials.values()} == {(50, 0.0)}
    (aside,) = of_body([Gesture(0, "turn", 100, dials={"facing": way})], SPEECH)
    assert aside.dials == {"x": ((0, 0.0), (10, 0.9), (50, 0.0))}


@pytest.mark.parametrize(("framing", "size"), [("close", 0.55), ("medium", 1.0), ("wide", 1.6)])
def test_a_framing_is_so_much_more_or_less(framing, size):
    assert for_framing(TEMPERS["grand"], FRAMINGS[framing]).size == pytest.approx(1.5 * size)
