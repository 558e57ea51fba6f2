"""A character drawn in views: whatever its head shows, mouths are timed as before, and shut lips are shut."""

import pytest

from tests.web.test_acting import Asked
from tests.web.test_faces import square
from tinfork.core.exposure.track import Exposure
from tinfork.core.mouths.draw import STYLES
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.web.acting.models import acting_of
from tinfork.web.charts import actions as charts
from tinfork.web.charts.moods import in_view, lacking, views_of
from tinfork.web.faces.actions import add_part, bring_layers
from tinfork.web.handover.roles import in_views, role_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import face_shown, mouths_of
from tinfork.web.staves.planning import planned
from tinfork.web.staves.seeing import Seen

SIDE, RIGHT = "side right", "three-quarter right"


@pytest.fixture
def chart(ferry, editor):
    """Marit's chart: neutral and happy, and neutral from the side, of which but six drawings are there."""
    made = charts.create_chart(editor, ferry.scene.production, "Drawn all round")
    for mood in (NEUTRAL, "happy", SIDE):
        charts.draw(editor, made, STYLES["plank"], mood)
    kept = ("rest", "press", "open", "round", "spread", "teeth")
    for drawing in made.drawings.filter(mood=SIDE).exclude(name__in=kept):
        charts.remove(editor, drawing, sure=True)
    charts.wear(editor, ferry.stave.character, made)
    return made


@pytest.fixture
def acting(ferry, chart):
    return Asked(ferry, acting_of(ferry.scene, ferry.stave.character))


def role(ferry):
    return role_of(planned(Stave.objects.select_related("character", "scene__production").get(pk=ferry.stave.pk)))


def test_a_turn_changes_drawings_and_no_timing(ferry, acting, chart):
    before = role(ferry)
    assert {e.drawing for e in before.exposures} <= {d.name for d in chart.drawings.filter(mood=NEUTRAL)}
    acting.do("show", part="head", frame=20, frames=31, drawing=SIDE)
    after = role(ferry)
    own = list(before.on_each_frame())
    turned = list(after.on_each_frame())
    for frame, (was, now) in enumerate(zip(own, turned, strict=True)):
        inside = 20 <= frame < 51
        assert now.drawing.startswith(SIDE) == inside, frame
        if not inside:
            assert now.drawing == was.drawing
        elif before.chart.shape_of(was.drawing) in ("press", "rest"):
            assert after.chart.shape_of(now.drawing) in ("press", "rest")
        elif before.chart.shape_of(was.drawing) == "open":
            assert after.chart.shape_of(now.drawing) == "open"
    # It is cut where the head turns, and nowhere else.
    edges = {e.frame for e in after.exposures} - {e.frame for e in before.exposures}
    assert edges <= {20, 51}
    assert set(after.drawn) >= {e.drawing for e in after.exposures}
    acting.do("undo")
    assert role(ferry).exposures == before.exposures


def test_a_view_that_is_lacking_is_mirrored_and_a_mood_in_a_view_is_that_of_both(ferry, acting, chart, editor):
    drawings = list(chart.drawings.all())
    assert views_of(drawings) == [SIDE]
    assert in_view(drawings, "front") == {}
    assert in_view(drawings, SIDE)["open"] == (f"{SIDE} · open", False)
    assert in_view(drawings, "side left")["open"] == (f"{SIDE} · open", True)
    assert in_view(drawings, SIDE)["happy · press"] == (f"{SIDE} · press", False)
    assert in_view(drawings, SIDE)["tuck"][0] in (f"{SIDE} · press", f"{SIDE} · rest")
    assert "tuck" in lacking(drawings, SIDE)
    charts.draw(editor, chart, STYLES["plank"], f"happy {SIDE}")
    both = list(chart.drawings.all())
    assert in_view(both, SIDE)["happy · press"] == (f"happy {SIDE} · press", False)
    assert in_view(both, SIDE)["press"] == (f"{SIDE} · press", False)
    acting.do("show", part="head", frame=0, frames=60, drawing=SIDE)
    seen = role(ferry).exposures[0].drawing
    left = in_view(both, "side left")
    assert left[seen] == (seen, True)
    page = (
        ferry.client(ferry.owner).get(f"/characters/{ferry.stave.character.pk}/face/?view=side+left").content.decode()
    )
    assert f"those of the {SIDE} are shown, mirrored" in page


def test_a_turn_of_one_frame_is_seen_on_that_frame(ferry, acting):
    acting.do("show", part="head", frame=20, frames=1, drawing=SIDE)
    own = list(role(ferry).on_each_frame())
    assert [frame for frame, one in enumerate(own) if one.drawing.startswith(SIDE)] == [20]


def test_what_a_view_has_nothing_else_for_is_not_cut(ferry, acting, chart):
    acting.do("show", part="head", frame=20, frames=31, drawing=SIDE)
    own = mouths_of(ferry.stave)
    views = [(0, 20, "front"), (20, 51, SIDE), (51, 90, "front")]
    alone = [Seen(Exposure(10, 60, f"{SIDE} · open", True)), Seen(Exposure(70, 5, "open"))]
    assert [(e.exposure.frame, e.exposure.frames) for e in in_views(alone, own, views)] == [(10, 60), (70, 5)]


def test_pages_hear_what_is_seen_in_each_view(ferry, acting, chart):
    document = mouths_of(ferry.stave).document("d")
    head = next(part for part in document["parts"] if part[0] == "head")
    assert head[4:6] == ["front", ["front", "side left", SIDE]]
    by_name = {one["name"]: one for one in document["drawings"]}
    assert by_name["open"]["views"] == {"side left": [f"{SIDE} · open", True], SIDE: [f"{SIDE} · open", False]}
    assert by_name[f"{SIDE} · open"]["views"] == {"side left": [f"{SIDE} · open", True]}
    # Our own face has no pieces from the side: it turns there.
    assert document["faces"] == {"front": 0.0, "side left": -90.0, SIDE: 90.0}
    assert "it has front" in acting.refused("show", part="head", frame=3, frames=2, drawing="from below")


def test_a_look_turns_a_head_by_the_views_it_is_drawn_in(ferry, acting, editor, chart):
    # A head of ours turns by its dial, whatever views its mouths are drawn in.
    acting.do("look", frame=10, frames=24, x=1, y=0, head=True)
    assert acting.curve("head", "facing").max() > 25
    acting.do("undo")
    for view in ("front", SIDE, "side left"):
        bring_layers(editor, ferry.stave.character, [square(f"skull {view}", "#888888")], view)
    add_part(editor, ferry.stave.character, "eyes")
    acting.do("look", frame=10, frames=24, x=1, y=0, head=True)
    assert acting.drawings("head")[10:40].count(SIDE) > 15
    acting.do("undo")
    acting.do("look", frame=10, frames=24, x=-1, y=0, head=True)
    assert acting.drawings("head")[10:40].count("side left") > 15
    turned = next(e for e in role(ferry).exposures if e.frame <= 24 < e.end)
    assert turned.drawing.endswith(", mirrored")
    assert "scale(-1 1)" in role(ferry).drawn[turned.drawing]


def test_a_view_is_gone_with_the_last_of_its_drawings(ferry, chart, editor):
    assert SIDE in face_shown(ferry.stave.character).views
    for drawing in chart.drawings.filter(mood=SIDE):
        charts.remove(editor, drawing, sure=True)
    assert face_shown(ferry.stave.character).views == ()


def test_mouths_go_by_the_dial_of_a_head_that_turns_by_it_and_no_timing_does(ferry, acting, chart):
    """The chart has the front and one side, 90 degrees off: from halfway on the side is seen."""
    assert face_shown(ferry.stave.character).slides
    before = role(ferry)
    for frame, value in ((10, 0), (20, 80), (40, 80), (50, 0)):
        acting.do("key", part="head", dial="facing", frame=frame, value=value, ease="straight")
    after = role(ferry)
    facing = acting.curve("head", "facing")
    turned = list(after.on_each_frame())
    for frame, was in enumerate(before.on_each_frame()):
        assert turned[frame].drawing.startswith(SIDE) == bool(facing[frame] > 45), frame
        if before.chart.shape_of(was.drawing) in ("press", "rest"):
            assert after.chart.shape_of(turned[frame].drawing) in ("press", "rest")
    cuts = {e.frame for e in after.exposures} - {e.frame for e in before.exposures}
    assert cuts <= {frame for frame in range(1, len(turned)) if (facing[frame] > 45) != (facing[frame - 1] > 45)}
    assert cuts
    # To the other side their mirror images are seen.
    acting.do("key", part="head", dial="facing", frame=20, value=-80)
    acting.do("key", part="head", dial="facing", frame=40, value=-80)
    mirrored = role(ferry)
    assert "scale(-1 1)" in mirrored.drawn[list(mirrored.on_each_frame())[30].drawing]
