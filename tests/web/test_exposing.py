"""The verbs of a lane, asked for as the desk asks: what is seen afterwards, and that a reading keeps it."""

import itertools
from dataclasses import replace

import pytest
from django.contrib.messages import get_messages
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.web.test_correcting import reads
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.shapes import SHAPES
from tinfork.web.charts import actions as charts
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.handover.roles import role_of
from tinfork.web.productions.actions import create_character
from tinfork.web.productions.models import Production
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves import actions
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import placed_now
from tinfork.web.staves.planning import planned, scene_reading
from tinfork.web.staves.seeing import seen_throughout, track_of
from tinfork.web.tracks.takes import keep_take


def rows(stave):
    return rows_of(track_of(stave))


def rows_of(track):
    return [(e.frame, e.frames, e.drawing) for e in track]


def shown(stave):
    """The drawing of each frame."""
    return [e.drawing for e in track_of(stave) for _ in range(e.frames)]


def done(answer):
    assert answer.status_code == 200, answer.content
    return answer.json()


@pytest.fixture
def lane(ferry):
    """The ferry's stave, with a way to do a verb and see that reading again keeps it and undo takes it back."""

    def does(verb, **what):
        before = rows(ferry.fresh)
        answer = done(ferry.edit(ferry.owner, verb, **what))
        after = rows(ferry.fresh)
        reads(ferry)
        assert rows(ferry.fresh) == after
        while ferry.fresh.steps["undo"]:
            done(ferry.edit(ferry.owner, "undo"))
        assert rows(ferry.fresh) == before
        return after, answer

    return does


def test_another_drawing_for_several_and_for_all_of_one_drawing(ferry, lane):
    track = ferry.track
    frames = [track[2].frame, track[4].frame + 1]
    after, _ = lane("show", at=frames, drawing="purse")
    assert [drawing for frame, _, drawing in after if frame in (track[2].frame, track[4].frame)] == ["purse"] * 2
    name = track[2].drawing
    after, _ = lane("show", within=[0, 999], only=name, drawing="")
    own = [(e.frame, e.frames) for e in track if e.drawing == name]
    assert {(frame, frames) for frame, frames, drawing in after if not drawing} == set(own)


def test_rest_keep_free_and_make_one(ferry, lane):
    track = ferry.track
    after, _ = lane("rest", at=[track[3].frame])
    assert (track[3].frame, track[3].frames, "rest") in after
    after, _ = lane("merge", at=[track[3].frame, track[4].frame])
    assert (track[3].frame, track[3].frames + track[4].frames, track[3].drawing) in after
    done(ferry.edit(ferry.owner, "keep", within=[0, 999]))
    assert all(e.pinned for e in ferry.track)
    assert [replace(e, pinned=False) for e in ferry.track] == list(track)
    done(ferry.edit(ferry.owner, "settings", hold=6, lead=3, detail=0.0))
    assert [(e.frame, e.drawing) for e in ferry.track] == [(e.frame, e.drawing) for e in track]
    done(ferry.edit(ferry.owner, "free", at=[track[3].frame]))
    assert [e.frame for e in ferry.track if not e.pinned]
    assert ferry.edit(ferry.owner, "free", at=[track[3].frame]).status_code == 422


def test_timing_is_decided_by_split_seam_span_and_hold_to_the_next(ferry, lane):
    track = ferry.track
    long = max((e for e in track if e.drawing != "rest"), key=lambda e: e.frames)
    after, _ = lane("split", frame=long.frame + 1)
    assert [row for row in after if long.frame <= row[0] < long.end] == [
        (long.frame, 1, long.drawing),
        (long.frame + 1, long.frames - 1, long.drawing),
    ]
    before, own, next_one = track[2], track[3], track[4]
    after, _ = lane("seam", frame=own.frame, to=own.frame + 1)
    assert (own.frame + 1, own.frames - 1, own.drawing) in after
    assert (before.frame, before.frames + 1, before.drawing) in after
    after, _ = lane("span", frame=own.frame, first=own.frame, frames=own.frames + 1)
    assert (own.frame, own.frames + 1, own.drawing) in after
    after, _ = lane("hold on", frame=own.frame)
    assert next(frames for frame, frames, _ in after if frame == own.frame) > own.frames + next_one.frames


def test_put_in_repeat_and_slide(ferry, lane):
    track = ferry.track
    after, answer = lane("lay", frame=12, pieces=[[0, 2, "press"], [3, 2, ""]])
    assert (12, 2, "press") in after
    assert (15, 2, "") in after
    assert not answer.get("notes")
    end = track[-1].end
    after, answer = lane("lay", frame=end - 3, pieces=[[0, 2, "press"], [2, 4, "purse"], [6, 2, "open"]])
    assert after[-1] == (end - 1, 1, "purse")
    assert answer["notes"] == ["1 of 3 did not fit before the end of the scene."]
    row = track[3]
    after, _ = lane("repeat", frame=row.frame, frames=row.frames, times=2)
    assert [d for f, n, d in after if row.end <= f < row.end + 2 * row.frames] == [row.drawing] * 2
    after, _ = lane("slide", at=[row.frame], by=1, border="overwrite")
    assert (row.frame + 1, row.frames, row.drawing) in after


def test_what_slides_takes_its_words_with_it(ferry):
    reading = scene_reading(ferry.fresh)
    word = reading.lines[0].words[-1]
    first = int(word.start * 24)
    own = [e for e in ferry.track if e.frame >= first]
    before = [e for e in ferry.track if e.end <= first - 2]
    done(ferry.edit(ferry.owner, "slide", at=[e.frame for e in own[:-1]], by=2, border="overwrite", words=True))
    now = scene_reading(ferry.fresh).lines[0].words
    assert now[-1].start == pytest.approx(word.start + 2 / 24, abs=1e-5)
    assert now[0] == reading.lines[0].words[0]
    drawn = [[(e.frame, e.frames, e.drawing) for e in track] for track in (ferry.track[: len(before)], before)]
    assert drawn[0] == drawn[1]
    done(ferry.edit(ferry.owner, "undo"))
    assert scene_reading(ferry.fresh) == reading


def test_what_is_taken_away_is_closed_up_by_the_sound_or_held(ferry, lane):
    track = ferry.track
    gone = track[3]
    after, _ = lane("remove", at=[gone.frame], hold=True)
    assert (track[2].frame, track[2].frames + gone.frames, track[2].drawing) in after
    after, _ = lane("remove", at=[gone.frame])
    names = {row[2] for row in after if gone.frame <= row[0] < gone.end}
    assert names <= {track[2].drawing, track[4].drawing}
    done(ferry.edit(ferry.owner, "show", at=[gone.frame], drawing="purse"))
    done(ferry.edit(ferry.owner, "remove", at=[gone.frame]))
    assert ferry.track == track


def test_a_mood_over_a_range_changes_drawings_and_no_timing(ferry):
    chart = undrawn(ferry.owner, ferry.scene.production, "Paper", NEUTRAL, "happy")
    charts.wear(ferry.owner, ferry.stave.character, chart)
    done(ferry.edit(ferry.owner, "show", at=[ferry.track[3].frame], drawing="purse"))
    before = ferry.track
    long = max((e for e in before if not e.pinned), key=lambda e: e.frames)
    done(ferry.edit(ferry.owner, "mood", frame=long.frame, frames=long.frames // 2 - 1, mood="happy"))
    assert next(e for e in ferry.track if e.frame == long.frame).drawing == long.drawing
    done(ferry.edit(ferry.owner, "undo"))
    first, end = before[2].frame, before[5].end
    done(ferry.edit(ferry.owner, "mood", frame=first, frames=end - first, mood="happy"))
    after = ferry.track
    assert [(e.frame, e.frames) for e in after] == [(e.frame, e.frames) for e in before]
    inside = [e.drawing.startswith("happy · ") for e in after]
    assert inside == [first <= (e.frame + e.end - 1) // 2 < end for e in after]
    assert after[3].drawing == "happy · purse"
    half = before[4].frame
    done(ferry.edit(ferry.owner, "mood", frame=half, frames=end - half, mood=""))
    assert [e.drawing.startswith("happy") for e in ferry.track[2:6]] == [True, True, False, False]
    assert "no mood" in ferry.edit(ferry.owner, "mood", frame=0, frames=4, mood="sly").json()["problem"]
    for _ in range(2):
        done(ferry.edit(ferry.owner, "undo"))
    assert ferry.track == before


def test_settings_of_a_range_are_of_that_range_alone(ferry):
    before = ferry.track
    middle = before[len(before) // 2].frame
    done(ferry.edit(ferry.owner, "settings of a range", frame=middle, frames=200, hold=1, lead=1, detail=1.0))
    after = ferry.track
    assert len(after) > len(before)
    assert [e for e in after if e.end < middle - 12] == [e for e in before if e.end < middle - 12]
    head = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()
    assert head["passages"][0][:2] == [middle, ferry.track[-1].end - middle]
    done(ferry.edit(ferry.owner, "no settings of a range", frame=middle, frames=200))
    assert ferry.track == before


def test_a_stretch_of_its_own_lies_on_the_track_and_never_leaks(ferry):
    before = shown(ferry.fresh)
    first, end = 10, 22
    done(ferry.edit(ferry.owner, "stretch", frame=first, frames=end - first))
    assert shown(ferry.fresh) == before
    done(ferry.edit(ferry.owner, "show", at=[first], drawing="purse"))
    done(ferry.edit(ferry.owner, "lay", frame=end - 2, pieces=[[0, 2, "open"]]))
    done(ferry.edit(ferry.owner, "bend stretch", frame=first, wide=1.5, tall=2.0, lean=10.0))
    own = shown(ferry.fresh)
    assert own[first] == "purse"
    assert own[end - 2 : end] == ["open", "open"]
    assert own[:first] + own[end:] == before[:first] + before[end:]
    refused = ferry.edit(ferry.owner, "lay", frame=end - 1, pieces=[[0, 3, "open"]]).json()
    assert "choose inside it, or outside" in refused["problem"]
    done(ferry.edit(ferry.owner, "settings", hold=1, lead=0, detail=1.0))
    reads(ferry)
    assert shown(ferry.fresh)[first:end] == own[first:end]
    clip = arrangement_of(ferry.scene).value.clips[0]
    ferry.sound(ferry.owner, "slide", clips=[clip.id], by=5, ripple=False)
    assert shown(ferry.fresh)[first + 5 : end + 5] == own[first:end]
    bends = [one.bend.tall for one in seen_throughout(placed_now(ferry.fresh)) if one.own]
    assert bends
    assert set(bends) == {2.0}
    while ferry.fresh.steps["undo"] != "bend a stretch":
        done(ferry.edit(ferry.owner, "undo"))
    done(ferry.edit(ferry.owner, "drop stretch", frame=first))
    assert shown(ferry.fresh) == before
    assert ferry.edit(ferry.owner, "drop stretch", frame=first).status_code == 422
    assert ferry.edit(ferry.owner, "stretch", frame=9999, frames=3).status_code == 422


def test_another_character_speaks_the_same_with_its_own_drawings(ferry):
    pock = create_character(ferry.owner, ferry.scene.production, "Pock")
    chart = undrawn(ferry.owner, ferry.scene.production, "Slots", NEUTRAL)
    for one in chart.drawings.exclude(name__in=["rest", "open", "purse"]):
        charts.remove(ferry.owner, one)
    charts.wear(ferry.owner, pock, chart)
    other = actions.stave_for(ferry.owner, ferry.scene, pock)
    first, end = ferry.track[1].frame, ferry.track[-1].frame
    answer = done(ferry.edit(ferry.owner, "copy to", frame=first, frames=end - first, to=[pock.pk]))
    assert answer["notes"] == ["Copied to Pock."]
    theirs = Stave.objects.get(pk=other.pk)
    assert [(f, n) for f, n, _ in rows(theirs) if first <= f < end] == [
        (f, n) for f, n, _ in rows(ferry.fresh) if first <= f < end
    ]
    assert {d for _, _, d in rows(theirs)} <= {"rest", "open", "purse"}
    ferry.edit(ferry.owner, "undo")
    assert {d for _, _, d in rows(Stave.objects.get(pk=other.pk))} == {"rest"}
    assert "Choose who else" in ferry.edit(ferry.owner, "copy to", frame=0, frames=4, to=[]).json()["problem"]


@pytest.mark.parametrize(
    ("verb", "what", "why"),
    [
        ("show", {"at": [99999], "drawing": "open"}, "No exposure"),
        ("show", {"at": [], "drawing": "open"}, "Select an exposure"),
        ("show", {"at": [3], "drawing": "nobody"}, "no drawing “nobody”"),
        ("show", {"within": [5, 5], "drawing": "open"}, "No exposure begins there"),
        ("lay", {"frame": 9999, "pieces": [[0, 2, "open"]]}, "outside the scene"),
        ("lay", {"frame": 3, "pieces": []}, "no room"),
        ("lay", {"frame": 3, "pieces": [[0, 2, "nobody"]]}, "no drawing"),
        ("repeat", {"frame": 3, "frames": 4, "times": 0}, "1 to 100 times"),
        ("repeat", {"frame": 3, "frames": 0, "times": 2}, "at least one frame"),
        ("slide", {"at": [3], "by": 9999, "border": "overwrite"}, "out of the scene"),
        ("slide", {"at": [3], "by": 1, "border": "fly"}, "squeezes them, covers them"),
        ("seam", {"frame": 0, "to": 4}, "no seam"),
        ("span", {"frame": 3, "first": 9999, "frames": 2}, "at least one frame inside"),
        ("bend stretch", {"frame": 3, "wide": 1, "tall": 1, "lean": 0}, "no stretch"),
        ("mood", {"frame": 3, "frames": 0, "mood": "x"}, "Set in and out"),
    ],
)
def test_what_cannot_be_done_is_said_and_nothing_changes(ferry, verb, what, why):
    before = ferry.track
    answer = ferry.edit(ferry.owner, verb, **what)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert ferry.track == before
    assert ferry.edit(ferry.viewer, verb, **what).status_code in (403, 404)


def test_ten_thousand_exposures_are_kept_at_once(ferry, long_scene):
    frames = arrangement_of(long_scene.scene).value.frames
    pieces = [[2 * n, 2, ("open", "press")[n % 2]] for n in range(10_000)]
    done(ferry.edit(ferry.owner, "lay", frame=0, pieces=pieces))
    assert sum(e.pinned for e in ferry.track) == min(10_000, -(-frames // 2))
    done(ferry.edit(ferry.owner, "free", within=[0, 10_000_000]))
    assert not any(e.pinned for e in ferry.track)


def test_a_file_is_not_taken_for_a_verb(ferry):
    answer = ferry.client(ferry.owner).post(f"/staves/{ferry.stave.pk}/edit", {"f": SimpleUploadedFile("a", b"x")})
    assert answer.status_code == 422


def test_choosing_everything_leaves_a_stretch_of_its_own_as_it_is(ferry):
    before = ferry.track
    done(ferry.edit(ferry.owner, "stretch", frame=10, frames=12, drawing="purse"))
    done(ferry.edit(ferry.owner, "show", within=[0, 999], drawing="open"))
    assert shown(ferry.fresh) == ["purse" if 10 <= frame < 22 else "open" for frame in range(before[-1].end)]
    done(ferry.edit(ferry.owner, "undo"))
    done(ferry.edit(ferry.owner, "rest", at=[9, 15, 30]))
    assert shown(ferry.fresh)[15] == "purse"
    assert {shown(ferry.fresh)[frame] for frame in (9, 30)} == {"rest"}


def test_nothing_beneath_a_stretch_of_its_own_is_unpinned_unseen(ferry):
    done(ferry.edit(ferry.owner, "pin", frame=12, frames=3, drawing="purse"))
    done(ferry.edit(ferry.owner, "stretch", frame=10, frames=12, drawing="open"))
    answer = ferry.edit(ferry.owner, "free", at=[12])
    assert answer.status_code == 422
    assert "take it back into the plan" in answer.json()["problem"]
    done(ferry.edit(ferry.owner, "drop stretch", frame=12))
    assert shown(ferry.fresh)[12:15] == ["purse"] * 3


def test_another_chart_over_a_range_shows_its_drawings_by_shape_and_no_timing(ferry):
    production = ferry.scene.production
    chart = undrawn(ferry.owner, production, "Carved", NEUTRAL)
    for one in chart.drawings.exclude(name__in=["rest", "open", "press"]):
        charts.remove(ferry.owner, one)
    before = ferry.track
    chosen = next(e for e in before if e.drawing not in ("rest", "open", "press"))
    done(ferry.edit(ferry.owner, "show", at=[chosen.frame], drawing="purse"))
    decided, first, end = ferry.track, before[1].frame, before[-1].frame
    done(ferry.edit(ferry.owner, "mood", frame=first, frames=end - first, mood="", chart=chart.pk))
    after = ferry.track
    assert {e.frame for e in after} <= {e.frame for e in decided}
    free = [(a, b) for a, b in itertools.pairwise(after) if not a.pinned and not b.pinned]
    assert all(a.drawing != b.drawing for a, b in free), "what is shown as one is one"
    assert {e.drawing for e in after[1:-1]} <= {"Carved · rest", "Carved · open", "Carved · press"}
    assert [after[0], after[-1]] == [decided[0], decided[-1]]
    document = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()
    assert document["moods"] == [[first, end - first, "Carved"]]
    assert {d["name"] for d in document["chart"]["drawings"] if d["lent"]} == {
        "Carved · rest",
        "Carved · open",
        "Carved · press",
    }
    reads(ferry)
    assert rows(ferry.fresh) == rows_of(after)
    charts.change_drawing(ferry.owner, chart.drawings.get(name="open"), {"name": "wide"})
    called = {"Carved · open": "Carved · wide"}
    assert rows(ferry.fresh) == [(frame, many, called.get(name, name)) for frame, many, name in rows_of(after)]
    charts.remove(ferry.owner, chart)
    assert [e.frame for e in ferry.track] == [e.frame for e in decided]
    assert not any(e.drawing.startswith("Carved") for e in ferry.track), "what is gone is stood in for"
    charts.bring_back(ferry.owner, chart)
    while not done(ferry.edit(ferry.owner, "undo"))["done"].startswith("Undone: drawings of Carved"):
        pass
    assert ferry.track == decided
    theirs = Production.objects.get(name="Elsewhere")
    elsewhere = undrawn(ferry.stranger, theirs, "Theirs", NEUTRAL)
    for number in (elsewhere.pk, 10**6):
        refused = ferry.edit(ferry.owner, "mood", frame=0, frames=4, mood="", chart=number)
        assert "cannot be shown here" in refused.json()["problem"]


def test_seams_are_eased_and_cut_again_and_move_with_their_sound(ferry):
    track = ferry.track
    one, *_, last = own = [track[3].frame, track[4].frame, track[6].frame]

    def eases():
        return ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["eases"]

    done(ferry.edit(ferry.owner, "ease", at=own, frames=4))
    assert eases() == [[one, track[4].frame - one + 1, 4, False], [last, 1, 4, False]]
    assert ferry.track == track
    done(ferry.edit(ferry.owner, "ease", at=[one], frames=0))
    assert eases() == [[one + 1, track[4].frame - one, 4, False], [last, 1, 4, False]]
    clip = arrangement_of(ferry.scene).value.clips[0]
    ferry.sound(ferry.owner, "slide", clips=[clip.id], by=5, ripple=False)
    assert eases()[1] == [last + 5, 1, 4, False]
    for _ in range(3):
        done(ferry.edit(ferry.owner, "undo"))
    assert eases() == []
    assert "0 to 12 frames" in ferry.edit(ferry.owner, "ease", at=[one], frames=99).json()["problem"]


def test_seams_flow_by_drawings_between_in_what_is_handed_over_and_not_in_the_track(ferry):
    track = ferry.track
    every = [e.frame for e in track]
    done(ferry.edit(ferry.owner, "ease", at=every, frames=2, drawn=True))
    assert ferry.track == track
    assert {row[3] for row in ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["eases"]} == {True}
    role = role_of(planned(Stave.objects.get(pk=ferry.stave.pk)))
    assert len(role.exposures) > len(track)
    assert not role.blends
    kept = {e.frame: e for e in role.exposures}
    for e in track:
        assert kept[e.frame].drawing == e.drawing
        assert kept[e.frame].frames >= min(e.frames, 2)
    assert set(role.drawn) >= {e.drawing for e in role.exposures}
    done(ferry.edit(ferry.owner, "undo"))
    assert len(role_of(planned(Stave.objects.get(pk=ferry.stave.pk))).exposures) == len(track)


def test_the_sound_goes_along_where_most_of_it_is_chosen(ferry):
    before = ferry.track
    own = before[3]
    done(ferry.edit(ferry.owner, "show", at=[own.frame], drawing="purse"))
    answer = done(ferry.edit(ferry.owner, "slide sound", within=[0, 9999], by=6))
    assert answer["done"] == "1 clip slid 6 frames later."
    assert answer["others"]
    assert arrangement_of(ferry.scene).value.clips[0].start == 6
    assert (own.frame + 6, own.frames, "purse") in rows(ferry.fresh)
    done(ferry.edit(ferry.owner, "undo"))
    done(ferry.edit(ferry.owner, "undo"))
    assert ferry.track == before
    assert "Less than half" in ferry.edit(ferry.owner, "slide sound", at=[own.frame], by=2).json()["problem"]


def test_mouths_are_pasted_with_their_words(ferry):
    scene_reading_now = scene_reading(ferry.fresh)
    first = scene_reading_now.lines[0].words[0]
    frames = [int(first.start * 24) - 1, int(first.end * 24) + 1]
    end = arrangement_of(ferry.scene).value.frames
    ferry.sound(ferry.owner, "length", frames=end + 60)
    before = rows(ferry.fresh)
    what = {"frame": end + 5, "pieces": [[0, 3, "open"]]}
    done(ferry.edit(ferry.owner, "lay", words=frames, **what))
    again = scene_reading(ferry.fresh).lines[-1]
    by = (end + 5 - frames[0]) / 24
    assert [(w.text, round(w.start - by, 3), w.is_set) for w in again.words] == [
        (first.text, round(first.start, 3), True)
    ]
    assert [s.ipa for s in again.words[0].sounds] == [s.ipa for s in first.sounds]
    assert (end + 5, 3, "open") in rows(ferry.fresh)
    assert script_of(ferry.scene).value.lines[-1].text == first.text
    after = rows(ferry.fresh)
    reads(ferry)
    assert [row for row in rows(ferry.fresh) if row[0] >= end] == [row for row in after if row[0] >= end]
    there = ferry.edit(ferry.owner, "lay", words=frames, **what)
    assert "is said there already" in there.json()["problem"]
    while ferry.fresh.steps["undo"] != "put in":
        done(ferry.edit(ferry.owner, "undo"))
    done(ferry.edit(ferry.owner, "undo"))
    assert rows(ferry.fresh) == before, "one step, with the script"
    assert script_of(ferry.scene).value.lines[-1].text != first.text


def test_an_exposure_that_became_another_is_left_as_it_is(ferry):
    """Two pages: what one chose, the other made longer meanwhile."""
    own, after = ferry.track[2], ferry.track[3]
    done(ferry.edit(ferry.owner, "seam", frame=after.frame, to=after.frame + 1))
    before = rows(ferry.fresh)
    refused = ferry.edit(ferry.owner, "show", at=[own.frame], long=[own.frames], drawing="purse")
    assert refused.status_code == 422
    assert "another by now" in refused.json()["problem"]
    assert rows(ferry.fresh) == before
    done(ferry.edit(ferry.owner, "show", at=[own.frame], long=[own.frames + 1], drawing="purse"))
    assert (own.frame, own.frames + 1, "purse") in rows(ferry.fresh)


def test_what_is_chosen_is_said_for_each_or_for_none(ferry):
    frames = [e.frame for e in ferry.track[1:3]]
    assert ferry.edit(ferry.owner, "keep", at=frames, long=[ferry.track[1].frames]).status_code == 422


def undrawn(person, production, name, *moods):
    """A chart with a drawing for each shape, in moods; their pictures are looked at by nobody."""
    chart = charts.create_chart(person, production, name)
    known = [(mood, shape) for mood in moods for shape in SHAPES.values()]
    ChartDrawing.objects.bulk_create(
        ChartDrawing(
            chart=chart,
            mood=mood,
            name=shape.name,
            number=number,
            place=list(shape.place),
            **{"x": 0, "y": 0, "scale": 1, "width": 80, "height": 60, "picture": "none.png"},
        )
        for number, (mood, shape) in enumerate(known)
    )
    return chart


@pytest.fixture
def two_moods(ferry):
    """Marit speaks with a chart in two moods, of which the happy one has no purse, nor anything like it."""
    chart = undrawn(ferry.owner, ferry.scene.production, "Paper", NEUTRAL, "happy")
    for name in ("purse", "round", "push"):
        charts.remove(ferry.owner, chart.drawings.get(mood="happy", name=name), sure=True)
    charts.wear(ferry.owner, ferry.stave.character, chart)
    return chart


def test_a_mood_reaches_what_was_set_by_hand_and_says_what_it_has_nothing_for(ferry, two_moods):
    track = ferry.track
    hand = {track[2].frame: "open", track[3].frame: "purse", track[4].frame: ""}
    for frame, drawing in hand.items():
        done(ferry.edit(ferry.owner, "show", at=[frame], drawing=drawing))
    long = track[5]
    first, end = track[1].frame, long.frame + long.frames // 2 + 1
    done(ferry.edit(ferry.owner, "show", at=[long.frame], drawing="open"))
    answer = done(ferry.edit(ferry.owner, "mood", frame=first, frames=end - first, mood="happy"))
    number = track[3].frame + ferry.scene.start_frame
    assert answer["notes"] == [f"It has nothing for “purse”: what you set stays as it is on frame {number}."]
    after = {e.frame: e.drawing for e in ferry.track}
    assert [after[frame] for frame in hand] == ["happy · open", "purse", ""]
    assert after[long.frame] == "happy · open"  # its middle lies in the range, and its end does not
    again = done(ferry.edit(ferry.owner, "mood", frame=first, frames=end - first, mood=""))
    assert again.get("notes") is None
    assert {e.frame: e.drawing for e in ferry.track}[track[2].frame] == "open"


def test_a_mood_reaches_a_stretch_of_its_own_and_a_passage_that_is_brought_back(ferry, two_moods):
    track = ferry.track
    first, end = track[2].frame, track[5].end
    take = keep_take(ferry.owner, ferry.fresh, "Neutral")
    done(ferry.edit(ferry.owner, "stretch", frame=first, frames=end - first, drawing="open"))
    done(ferry.edit(ferry.owner, "mood", frame=first, frames=end - first, mood="happy"))
    assert set(shown(ferry.fresh)[first:end]) == {"happy · open"}
    done(ferry.edit(ferry.owner, "drop stretch", frame=first))
    done(ferry.edit(ferry.owner, "restore range", take=take.pk, frame=first, frames=end - first))
    has = {d.name for d in two_moods.drawings.filter(mood="happy", removed=None)}
    planned = {e.drawing for e in track if first <= e.frame < end}
    assert {f"happy · {name}" for name in planned & has} <= set(shown(ferry.fresh)[first:end])
    assert not planned & has & set(shown(ferry.fresh)[first:end])


def test_the_mood_a_character_is_put_into_reaches_what_was_set_by_hand(ferry, two_moods):
    track = ferry.track
    hand = {track[2].frame: "open", track[3].frame: "purse", track[4].frame: "", track[6].frame: "ajar"}
    for frame, drawing in hand.items():
        done(ferry.edit(ferry.owner, "show", at=[frame], drawing=drawing))
    for name in ("open", "ajar"):  # The name it is pinned by is one it had before.
        charts.change_drawing(ferry.owner, two_moods.drawings.get(name=name, mood=NEUTRAL), {"name": f"my {name}"})
        charts.change_drawing(ferry.owner, two_moods.drawings.get(name=name, mood="happy"), {"name": f"my {name}"})
    own = track[6]
    done(ferry.edit(ferry.owner, "mood", frame=own.frame, frames=own.frames, mood="neutral"))
    wear = {"do": "wear", "character": ferry.stave.character_id, "mood": "happy"}
    answer = ferry.client(ferry.owner).post(f"/charts/{two_moods.pk}/change", wear)
    (told,) = get_messages(answer.wsgi_request)
    number = track[3].frame + ferry.scene.start_frame
    assert str(told) == f"Fog: It has nothing for “purse”: what you set stays as it is on frame {number}."

    def by_hand():
        after = {e.frame: e.drawing for e in ferry.track}
        return [after[frame] for frame in hand]

    assert by_hand() == ["happy · my open", "purse", "", "my ajar"]  # The last lies in a range of another mood.
    charts.wear(ferry.owner, ferry.stave.character, two_moods)
    assert by_hand() == ["my open", "purse", "", "my ajar"]
    charts.wear(ferry.owner, ferry.stave.character, two_moods, "happy")
    done(ferry.edit(ferry.owner, "undo"))
    assert by_hand() == ["my open", "purse", "", "my ajar"]


def test_what_was_set_by_hand_is_shown_by_shape_in_a_mood_of_another_chart_and_comes_back(ferry, two_moods):
    frame = ferry.track[2].frame
    other = undrawn(ferry.owner, ferry.scene.production, "Tar", NEUTRAL, "happy")
    for one in (*two_moods.drawings.all(), *other.drawings.all()):
        charts.change_drawing(ferry.owner, one, {"name": f"{one.name} {one.chart}"})
    ChartDrawing.objects.update(formerly=[])
    charts.wear(ferry.owner, ferry.stave.character, two_moods, "happy")
    done(ferry.edit(ferry.owner, "show", at=[frame], drawing="happy · open Paper"))
    shown = []
    for chart, mood in ((other, "happy"), (other, NEUTRAL), (two_moods, "happy")):
        charts.wear(ferry.owner, ferry.stave.character, chart, mood)
        shown.append({e.frame: e.drawing for e in ferry.track}[frame])
    assert shown == ["happy · open Tar", "open Tar", "happy · open Paper"]


def test_what_the_page_shows_is_what_is_chosen_in_moods_and_beside_stretches(ferry, two_moods):
    """Every exposure as the page has it, where a mood and a stretch of its own meet: none is said to be another."""
    track = ferry.track
    first, end = track[2].frame + 1, track[6].end
    done(ferry.edit(ferry.owner, "mood", frame=first, frames=end - first, mood="happy"))
    done(ferry.edit(ferry.owner, "stretch", frame=track[4].frame + 1, frames=7))
    page = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["exposures"]
    for one in page:
        answer = ferry.edit(ferry.owner, "keep", at=[one["frame"]], long=[one["frames"]])
        assert "another by now" not in answer.json().get("problem", ""), one
        if ferry.fresh.steps["undo"] == "pin":
            done(ferry.edit(ferry.owner, "undo"))
