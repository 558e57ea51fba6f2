"""Parts, lanes and what a person does to them."""

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.acting import passes, poses, verbs
from tinfork.core.acting.lanes import EASES, Amounts, Gesture, Key, Lane, ShownFor, Where, place
from tinfork.core.errors import ActingError, TrackError
from tinfork.core.exposure import verbs as exposing
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.face import Face, built_in_face, on_face
from tinfork.core.mouths.heads import FORMS
from tinfork.core.mouths.parts import DIALS, Part, PicturePiece, Pose, check_parts, matrices, svg_transform
from tinfork.core.mouths.raster import pixels
from tinfork.core.plain import plain, restore
from tinfork.core.sound.arrangement import Clip

FRAMES = 120
NO_CLIPS = Where((), FRAMES)
ALL, EMPTY = Amounts(), Lane()
CLIP = Clip(7, 1, 7, 20, 5, 60, 90)
HEAD = Part("head", 0, 90, role="head")
LIDS = Part("lids", 0, -50, "head", "lids", ("half", "shut"))
TABLE = Path(__file__).parents[1] / "acting.json"


def nod(frame=10, **more):
    return Gesture(0, "nod", frame, dials={"y": ((0, 0.0), (4, 6.0), (8, 0.0))}, **more)


def blink(frame=10, **more):
    return Gesture(
        0, "blink", frame, shown=(ShownFor(0, 1, "half"), ShownFor(1, 1, "shut"), ShownFor(2, 1, "half")), **more
    )


def curve(lane, dial="y", where=NO_CLIPS, amounts=ALL):
    return place(lane, where, amounts).curve(dial, range(FRAMES))


def set_keys(pairs, lane=EMPTY, dial="y", where=NO_CLIPS):
    for frame, value, *ease in pairs:
        lane = verbs.set_key(lane, where, dial, frame, value, *ease)
    return lane


def test_a_dial_goes_from_key_to_key_as_its_ease_says():
    own = curve(set_keys([(10, 0.0, "straight"), (20, 10.0, "hold"), (30, 20.0, "smooth"), (40, 0.0)]))
    assert own[:11].tolist() == [0.0] * 11
    assert own[15] == 5.0
    assert (own[20], own[29], own[30]) == (10.0, 10.0, 20.0)
    assert (own[35], own[32]) == (10.0, pytest.approx(20 - 20 * (0.04 * (3 - 0.4))))
    assert own[40:].tolist() == [0.0] * 80


def test_keys_at_one_time_are_one():
    lane = set_keys([(10, 1.0), (10, 3.0), (12, 5.0)])
    assert [key.value for key in lane.keys["y"]] == [3.0, 5.0]
    moved = verbs.move_keys(lane, NO_CLIPS, "y", [10], 2)
    assert [(key.frame, key.value) for key in moved.keys["y"]] == [(12, 3.0)]


@pytest.mark.parametrize(("dial", "value"), [("y", 900.0), ("bend", -1.5), ("wobble", 0.0), ("x", float("nan"))])
def test_a_dial_that_cannot_be_set_so_is_refused(dial, value):
    with pytest.raises(ActingError):
        verbs.set_key(Lane(), NO_CLIPS, dial, 3, value)


def test_a_gesture_is_added_to_the_keys_as_much_as_its_phrase_says():
    lane = verbs.put_gestures(set_keys([(0, 2.0)]), [nod(line=4)])
    assert curve(lane)[[9, 14, 18, 19]].tolist() == [2.0, 8.0, 2.0, 2.0]
    assert curve(lane, amounts=Amounts(0.5, {4: 3.0}))[14] == 2.0 + 0.5 * 3.0 * 6.0
    assert curve(lane, amounts=Amounts(0.5, {5: 3.0}))[14] == 5.0


def test_a_blink_of_no_amount_is_not_seen():
    lane = verbs.put_gestures(Lane(), [blink(10, amount=0.0), blink(20, amount=-1.0), blink(30, amount=0.2)])
    shown = [n for n, drawing in enumerate(place(lane, NO_CLIPS).drawings(range(FRAMES))) if drawing]
    assert shown == [30, 31, 32]


def test_what_is_kept_goes_with_its_sound_and_is_hidden_with_it():
    where = Where((CLIP,), FRAMES)
    lane = verbs.put_gestures(set_keys([(30, 4.0)], where=where), [nod(15, source_id=7)])
    lane = verbs.expose(lane, where, "", lambda track: exposing.lay(track, 40, [exposing.Piece(0, 2, "shut")]))
    assert lane.keys["y"][0] == Key(15, 4.0, "smooth", 7)
    later = place(lane, Where((Clip(7, 1, 7, 50, 5, 60, 90),), FRAMES))
    assert later.keys["y"].frames == (60,)
    assert [one.frame for one in later.gestures] == [60]
    assert [pin.frame for pin in later.shows] == [70]
    cut = place(lane, Where((Clip(7, 1, 7, 20, 30, 10, 90),), FRAMES))
    assert not cut.keys["y"].frames
    assert not cut.gestures
    assert not cut.shows


@given(st.integers(-20, 20))
def test_a_lead_shifts_all_of_a_lane_and_edits_go_on_where_they_are_seen(frames):
    lane = verbs.put_gestures(set_keys([(40, 0.0), (50, 9.0), (60, 0.0)]), [nod(70)])
    shifted = verbs.lead(lane, frames)
    before, after = curve(lane), curve(shifted)
    inside = range(30, 90)
    assert after[inside.start - frames : inside.stop - frames] == pytest.approx(before[inside.start : inside.stop])
    again = verbs.set_key(shifted, NO_CLIPS, "y", 25, 3.0)
    assert curve(again)[25] == pytest.approx(3.0)
    shown = verbs.expose(shifted, NO_CLIPS, "", lambda t: exposing.lay(t, 25, [exposing.Piece(0, 3, "shut")]))
    assert place(shown, NO_CLIPS).drawings(range(24, 29)) == [None, "shut", "shut", "shut", None]


def test_what_a_person_shows_lies_over_a_blink_and_freed_it_is_seen_again():
    lane = verbs.put_gestures(Lane(), [blink(10)])
    held = verbs.expose(lane, NO_CLIPS, "", lambda t: exposing.lay(t, 9, [exposing.Piece(0, 3, "half")]))
    assert place(held, NO_CLIPS).drawings(range(8, 14)) == [None, "half", "half", "half", "half", None]
    assert held.gestures == lane.gestures
    assert verbs.free(held, NO_CLIPS, [10]) == lane
    with pytest.raises(TrackError):
        verbs.free(lane, NO_CLIPS, [10])


def test_the_verbs_of_mouths_work_on_parts():
    lane = verbs.expose(Lane(), NO_CLIPS, "", lambda t: exposing.lay(t, 20, [exposing.Piece(0, 6, "shut")]))
    slid = verbs.expose(lane, NO_CLIPS, "", lambda t: exposing.slide(t, [20], 4, exposing.Border.OVERWRITE))
    assert [n for n, name in enumerate(place(slid, NO_CLIPS).drawings(range(FRAMES))) if name == "shut"] == [
        *range(24, 30)
    ]
    two = verbs.expose(lane, NO_CLIPS, "", lambda t: exposing.split(t, 23))
    swapped = verbs.expose(two, NO_CLIPS, "", lambda t: exposing.show(t, [23], "half"))
    assert place(swapped, NO_CLIPS).drawings(range(19, 27)) == [
        None,
        "shut",
        "shut",
        "shut",
        "half",
        "half",
        "half",
        None,
    ] or (place(swapped, NO_CLIPS).drawings(range(20, 26)) == ["shut", "shut", "shut", "half", "half", "half"])


def test_gestures_are_changed_one_by_one_and_become_a_persons():
    lane = verbs.put_gestures(Lane(), [nod(10, line=1), nod(40, line=2)])
    moved = verbs.change_gestures(lane, [1], NO_CLIPS, by=5, amount=2.0)
    assert [(g.frame, g.amount, g.accepted) for g in moved.gestures] == [(15, 2.0, True), (40, 1.0, False)]
    assert [g.id for g in verbs.drop_gestures(moved, [1]).gestures] == [2]
    with pytest.raises(ActingError):
        verbs.drop_gestures(moved, [9])
    with pytest.raises(ActingError):
        verbs.change_gestures(lane, [1], NO_CLIPS, by=-50)
    with pytest.raises(ActingError):
        verbs.change_gestures(lane, [1], NO_CLIPS, amount=40.0)


def test_accepting_a_phrase_changes_nothing_that_is_seen_and_throwing_away_takes_only_what_is_proposed():
    lane = verbs.put_gestures(set_keys([(0, 1.0)]), [nod(10, line=1), nod(30, line=2), nod(50, line=1, accepted=True)])
    accepted = verbs.accept(lane, 1)
    assert curve(accepted).tolist() == curve(lane).tolist()
    assert [g.accepted for g in accepted.gestures] == [True, False, True]
    assert [g.frame for g in verbs.throw_away(accepted, 1).gestures] == [10, 30, 50]
    assert [g.frame for g in verbs.throw_away(lane, 1).gestures] == [30, 50]


@given(st.lists(st.tuples(st.integers(0, 119), st.floats(-20, 20)), max_size=8), st.integers(4, 100))
def test_a_gesture_written_into_keys_is_seen_as_it_was(pairs, frame):
    lane = verbs.put_gestures(set_keys(pairs), [nod(frame, amount=1.5), blink(30), nod(40)])
    keyed = verbs.as_keys(lane, NO_CLIPS, [1])
    assert curve(keyed) == pytest.approx(curve(lane), abs=0.04)
    assert [g.id for g in keyed.gestures] == [2, 3]
    shown = verbs.as_keys(lane, NO_CLIPS, [2])
    assert place(shown, NO_CLIPS).drawings(range(29, 34)) == place(lane, NO_CLIPS).drawings(range(29, 34))


@given(
    st.lists(st.tuples(st.integers(0, 119), st.floats(-20, 20)), max_size=8), st.integers(10, 60), st.integers(1, 40)
)
def test_a_pass_takes_only_the_place_of_its_own_frames(pairs, first, long):
    lane = set_keys(pairs)
    end = first + long
    new = verbs.lay_curve(
        lane, NO_CLIPS, "y", range(first, end), [(first, 5.0, "straight"), (end - 1, 5.0, "straight")]
    )
    before, after = curve(lane), curve(new)
    assert after[first:end] == pytest.approx([5.0] * long)
    if pairs and min(frame for frame, _ in pairs) < first:
        assert after[: first - 1] == pytest.approx(before[: first - 1], abs=0.05 + abs(before).max() * 0.2)
        assert after[first - 1] == pytest.approx(before[first - 1], abs=1e-3)
    if pairs and max(frame for frame, _ in pairs) >= end:
        assert after[end] == pytest.approx(before[end], abs=1e-3)


waves = st.lists(st.floats(-15, 15), min_size=2, max_size=120)


@given(waves, st.floats(0.05, 3.0))
def test_few_keys_miss_the_hand_by_no_more_than_is_told(values, allowed):
    own = np.array(values)
    keys, missed = passes.fitted(own, 0, allowed)
    lane = verbs.lay_curve(Lane(), Where((), len(own)), "x", range(len(own)), keys)
    seen = place(lane, Where((), len(own))).curve("x", range(len(own)))
    assert abs(seen - own).max() <= missed + 1e-9
    assert missed <= allowed + 1e-3


def test_a_sine_needs_few_keys():
    own = 10 * np.sin(np.arange(240) / 240 * 2 * np.pi * 3)
    keys, missed = passes.fitted(own, 0, 0.3)
    print(f"a sine of 240 frames, three waves, error allowed 0.3: {len(keys)} keys, off by {missed:.3f}")
    assert len(keys) <= 16
    assert missed <= 0.301


def test_the_hand_is_late_by_as_much_as_is_told():
    samples = [(frame + 0.5, float(frame >= 20)) for frame in range(60)]
    on_time = passes.on_frames(samples, range(60), 0.0)
    corrected = passes.on_frames(samples, range(60), 3.0)
    assert int(np.argmax(on_time > 0.5)) - int(np.argmax(corrected > 0.5)) == 3
    with pytest.raises(ActingError):
        passes.on_frames(samples, range(10_000_000), 0.0)
    with pytest.raises(ActingError):
        passes.on_frames([], range(60), 0.0)


def test_a_steady_hand_trembles_less_and_stays_where_it_was():
    own = np.where(np.arange(60) % 2, 5.5, 4.5)
    assert abs(passes.smoothed(own, 3)[4:-4] - 5).max() < 0.05
    assert passes.smoothed(own, 0).tolist() == own.tolist()
    assert len(passes.smoothed(own, 12)) == 60


def test_parts_hang_on_parts():
    parts = (HEAD, Part("hat", 0, -100, "head"), Part("lamp", 5, 5))
    placed = matrices(parts, {"head": Pose({"turn": 90.0}), "hat": Pose({"y": -10.0})})
    # About (0, 90) a quarter clockwise: what was above is to the right; the hat's own up is then to the right too.
    a, b, c, d, e, f = placed["hat"]
    assert (0 * a + -100 * c + e, 0 * b + -100 * d + f) == (pytest.approx(200.0), pytest.approx(90.0))
    assert placed["lamp"] == (1, 0, 0, 1, 0, 0)
    assert svg_transform(placed["lamp"]) == ""


@pytest.mark.parametrize(
    "parts",
    [
        [Part("a"), Part("a")],
        [Part("a", on="b"), Part("b", on="a")],
        [Part("a", on="a")],
        [Part("a", on="nothing")],
        [Part(str(n)) for n in range(60)],
    ],
)
def test_parts_that_do_not_hang_together_are_refused(parts):
    with pytest.raises(ActingError):
        check_parts(parts)


@pytest.mark.parametrize("form", FORMS)
def test_a_stretch_keeps_the_volume(form):
    face = built_in_face(FaceStyle(form))
    bare = Face.of(face.parts, tuple(p for p in face.pieces if p.part in ("head", "mouth")))

    def covered(stretch, bend=0.0):
        pose = {"head": Pose({"stretch": stretch, "bend": bend, "size": -0.3})}
        seen = pixels(on_face(bare, "", "#00ff00", pose), 600, 720)
        return int((seen != (0, 255, 0)).any(axis=2).sum())

    still = covered(0.0)
    for stretch in (-0.25, -0.1, 0.15, 0.4):
        assert covered(stretch, 0.1) == pytest.approx(still, rel=0.01)


def test_a_stretch_can_leave_what_hangs_on_it_alone():
    parts = (HEAD, LIDS)
    with_all = matrices(parts, {"head": Pose({"stretch": 0.5, "y": 3.0})})
    alone = matrices(parts, {"head": Pose({"stretch": 0.5, "y": 3.0}, alone=True)})
    assert alone["head"] == with_all["head"]
    assert with_all["lids"] == with_all["head"]
    assert alone["lids"] == (1.0, 0.0, 0.0, 1.0, 0.0, 3.0)


def test_a_pose_is_laid_mirrored_and_in_part():
    kept = poses.KeptPose({"left brow": Pose({"y": -6.0, "turn": 10.0}), "lids": Pose({}, "half")})
    other = kept.mirrored()
    assert other.parts["right brow"] == Pose({"y": -6.0, "turn": -10.0})
    brow = Part("right brow", on="head")
    lane = set_keys([(0, 2.0)])
    laid = poses.lay_pose(lane, NO_CLIPS, brow, other.parts["right brow"], 30, 0.5)
    assert curve(laid)[30] == -2.0
    assert curve(laid, "turn")[30] == -5.0
    assert "x" not in laid.keys
    half = poses.lay_pose(Lane(), NO_CLIPS, LIDS, kept.parts["lids"], 30)
    assert place(half, NO_CLIPS).drawings(range(29, 33)) == [None, "half", "half", None]
    assert poses.lay_pose(Lane(), NO_CLIPS, LIDS, kept.parts["lids"], 30, 0.3).is_empty
    assert poses.fitting((brow,), other) == {"right brow": other.parts["right brow"]}


def test_only_the_pieces_of_what_is_shown_are_drawn():
    face = Face.of(
        (HEAD, LIDS, Part("mouth", on="head")),
        (PicturePiece("head", "<a/>"), PicturePiece("lids", "<b/>", "shut"), PicturePiece("mouth", "")),
    )
    assert (face.behind, face.before) == ("<a/>", "")
    assert "<b/>" not in on_face(face, "<m/>")
    shut = on_face(face, "<m/>", poses={"lids": Pose({}, "shut"), "head": Pose({"x": 4.0})})
    assert shut.count('transform="matrix(1 0 0 1 4 0)"') == 3


def test_lanes_are_kept_as_they_are():
    lane = verbs.put_gestures(set_keys([(10, 1.0), (20, 3.0, "hold")]), [nod(3), blink(40, accepted=True)])
    assert restore(plain(lane), Lane) == lane


@given(st.integers(0, 100), st.integers(5, 60))
def test_a_cut_shot_acts_as_the_whole_does(first, long):
    lane = place(verbs.put_gestures(set_keys([(10, 1.0), (90, 9.0)]), [nod(3), nod(50), blink(48)]), NO_CLIPS)
    cut = lane.between(range(first, first + long))
    assert cut.curve("y", range(long)) == pytest.approx(lane.curve("y", range(first, first + long)))
    assert cut.drawings(range(long)) == lane.drawings(range(first, first + long))


def cases():
    """What the page has to work out as the core does: lanes as it gets them, and what is seen on some frames."""
    dice = np.random.default_rng(5)
    found = []
    for number in range(6):
        keys = {}
        for dial in list(DIALS)[: number + 1]:
            frames = sorted(set(dice.integers(0, 100, 5).tolist()))
            keys[dial] = {str(f): [round(float(dice.uniform(-0.5, 0.9)), 3), int(dice.integers(0, 3))] for f in frames}
        own = {d: tuple(Key(int(f), v, EASES[e]) for f, (v, e) in of.items()) for d, of in keys.items()}
        gestures = (
            nod(20 + number, amount=0.5),
            nod(24, amount=-1.0),
            blink(60 + number),
            blink(61 + number, accepted=True),
        )
        lane = verbs.put_gestures(Lane(own, alone=number % 2 == 0), gestures)
        lane = verbs.expose(lane, NO_CLIPS, "", lambda t: exposing.lay(t, 80, [exposing.Piece(0, 4, "shut")]))
        placed = place(lane, NO_CLIPS, Amounts(1.2))
        head = Part("head", 3, 90)
        seen = []
        for frame in (0, 13, 22, 23, 25, 27, 61, 62, 63, 79, 80, 83, 84, 119):
            (pose,) = placed.poses(range(frame, frame + 1))
            matrix = matrices((head, Part("hat", -5, -60, "head")), {"head": pose, "hat": Pose({"turn": 20.0})})["hat"]
            seen.append(
                [
                    frame,
                    {d: round(float(v), 3) for d, v in pose.dials.items()},
                    pose.drawing,
                    [round(m, 3) for m in matrix],
                ]
            )
        maps = {
            "keys": {
                d: {str(f): [v, EASES.index(e)] for f, v, e in zip(k.frames, k.values, k.eases, strict=True)}
                for d, k in placed.keys.items()
            },
            "shows": {str(p.frame): [p.frames, p.drawing] for p in placed.shows},
            "gestures": {
                str(g.gesture.id): {
                    "frame": g.frame,
                    "frames": g.gesture.frames,
                    "kind": g.gesture.kind,
                    "line": 0,
                    "amount": g.gesture.amount,
                    "accepted": g.gesture.accepted,
                    "dials": plain(g.gesture.dials),
                    "shown": [[s.at, s.frames, s.drawing] for s in g.gesture.shown],
                }
                for g in placed.gestures
            },
            "of": {"lead": 0, "alone": lane.alone},
        }
        found.append({"lane": maps, "seen": seen})
    return found


def test_the_table_that_the_page_is_held_to_is_what_the_core_does():
    assert json.loads(TABLE.read_text()) == json.loads(json.dumps(cases()))
