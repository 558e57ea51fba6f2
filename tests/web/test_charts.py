"""Anybody's drawings: brought in, changed, worn; a track keeps its timing whatever is worn."""

import io
import itertools
import zipfile

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from tests import drawings
from tests.web.remembered import once
from tinfork.core.errors import ChartError
from tinfork.core.mouths.chart import shape_at
from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES
from tinfork.web.charts import actions
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.handover import actions as handing
from tinfork.web.handover.tasks import make_handover
from tinfork.web.handover.wishes import Wish
from tinfork.web.productions.actions import create_character
from tinfork.web.staves.seeing import track_of

ODD = {"boot": "rest", "Ünder fog": "press", "7": "open", "goat": "purse", "season ticket": "half"}


def drawn(shape, name=None, ending="png"):
    """A drawing as an upload."""
    return SimpleUploadedFile(f"{name or shape}.{ending}", drawings.flat_png(shape))


@pytest.fixture
def chart(ferry):
    """Five drawings with odd names."""
    made = actions.create_chart(ferry.owner, ferry.scene.production, "Odd five")
    with once("tinfork.web.charts.actions.aside"):
        assert actions.bring_in(ferry.owner, made, [drawn(shape, name) for name, shape in ODD.items()]) == []
    return made


def shape_of(page, name):
    """What the page of a chart says a drawing is like."""
    return page.split(f'<strong class="drawing-name">{name}</strong>')[1].split("as ")[1].split("<")[0]


def test_drawings_of_any_name_are_measured_and_laid_on_one_anchor(ferry, chart):
    page = ferry.client(ferry.viewer).get(f"/charts/{chart.pk}/").content.decode()
    for name, shape in ODD.items():
        assert shape_of(page, name) == shape
    assert "stands in" in page
    lies = {(d.x, d.y, d.scale) for d in chart.drawings.all()}
    assert len(lies) == 1
    ((x, y, scale),) = lies
    assert (x, y) == (pytest.approx(150, abs=2), pytest.approx(86, abs=3))
    assert scale * 120 == pytest.approx(84, abs=6)


def test_a_swap_changes_drawings_and_no_timing_until_somebody_plans_anew(ferry, chart):
    before = track_of(ferry.fresh)
    actions.wear(ferry.owner, ferry.stave.character, chart)
    swapped = track_of(ferry.fresh)
    assert {e.frame for e in swapped} <= {e.frame for e in before}
    assert sorted(number for e in swapped for number in e.sounds) == sorted(n for e in before for n in e.sounds)
    assert {e.drawing for e in swapped} <= set(ODD)
    assert all(a.drawing != b.drawing for a, b in itertools.pairwise(swapped)), "what is shown as one is one"
    instead = {e.drawing: next(s.drawing for s in swapped if s.frame <= e.frame < s.end) for e in before}
    assert instead["rest"] == "boot"
    assert all(instead[e.drawing] == s.drawing for e in before for s in swapped if s.frame <= e.frame < s.end)
    seen = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()
    assert seen["newChart"]
    assert {one["name"] for one in seen["chart"]["drawings"]} == set(ODD)
    assert [e["drawing"] for e in seen["exposures"]] == [e.drawing for e in swapped]
    assert ferry.edit(ferry.owner, "plan with chart").status_code == 200
    anew = track_of(ferry.fresh)
    assert not ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["newChart"]
    assert [e.frame for e in anew] != [e.frame for e in swapped]
    ferry.edit(ferry.owner, "undo")
    assert track_of(ferry.fresh) == swapped
    actions.wear(ferry.owner, ferry.stave.character, None)
    assert track_of(ferry.fresh) == before


def test_a_pin_keeps_its_drawing_through_renaming_and_a_stand_in_is_shown_when_it_is_gone(ferry, chart):
    actions.wear(ferry.owner, ferry.stave.character, chart)
    assert ferry.edit(ferry.owner, "pin", frame=4, frames=3, drawing="goat").status_code == 200
    assert ferry.edit(ferry.owner, "pin", frame=9, frames=3, drawing="purse").status_code == 422
    goat = chart.drawings.get(name="goat")
    actions.change_drawing(ferry.owner, goat, {"name": "billy goat"})

    def pinned():
        return [(e.frame, e.frames, e.drawing) for e in track_of(ferry.fresh) if e.pinned]

    assert pinned() == [(4, 3, "billy goat")]
    actions.remove(ferry.owner, chart.drawings.get(name="billy goat"))
    ((frame, frames, instead),) = pinned()
    assert (frame, frames) == (4, 3)
    assert instead in set(ODD) - {"goat"}
    away = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["pinsAway"]
    assert away == [
        {"drawing": "goat", "frame": 4, "frames": 3, "why": f"its drawing is not in the chart; {instead} stands in"}
    ]
    assert ferry.edit(ferry.owner, "settings", hold=3, lead=1, detail=0.5).status_code == 200
    assert pinned() == [(4, 3, instead)]
    actions.bring_back(ferry.owner, ChartDrawing.everything.get(name="billy goat"))
    assert pinned() == [(4, 3, "billy goat")]


def test_moods_and_special_drawings_are_for_hands(ferry, chart):
    actions.bring_in(ferry.owner, chart, [drawn("open", "7")])
    yell = chart.drawings.get(name="7 2")
    actions.change_drawing(ferry.owner, yell, {"name": "7", "mood": "Angry"})
    half = chart.drawings.get(name="season ticket")
    actions.change_drawing(ferry.owner, half, {"special": "yes"})
    assert {d.name for d in chart.planning().drawings} == {"boot", "Ünder fog", "7", "goat"}
    actions.wear(ferry.owner, ferry.stave.character, chart)
    assert {e.drawing for e in track_of(ferry.fresh)} <= {"boot", "Ünder fog", "7", "goat"}
    for name in ("angry · 7", "season ticket"):
        assert ferry.edit(ferry.owner, "pin", frame=5, frames=2, drawing=name).status_code == 200
        assert name in {e.drawing for e in track_of(ferry.fresh) if e.pinned}


def test_a_drawing_has_a_key_of_its_own_that_no_other_of_its_mood_has(ferry, chart):
    goat, boot = (chart.drawings.get(name=name) for name in ("goat", "boot"))
    actions.change_drawing(ferry.owner, goat, {"key": " F "})
    assert chart.drawings.get(name="goat").key == "f"
    for key, told in (("f", "F is goat's already"), ("ü", "one letter"), ("ab", "one letter"), ("-", "one letter")):
        with pytest.raises(ChartError, match=told):
            actions.change_drawing(ferry.owner, boot, {"key": key})
    actions.change_drawing(ferry.owner, boot, {"key": "f", "mood": "angry"})
    actions.duplicate(ferry.owner, chart.drawings.get(name="goat"))
    assert chart.drawings.get(name="goat 2").key == ""
    actions.remove(ferry.owner, goat)
    actions.change_drawing(ferry.owner, chart.drawings.get(name="goat 2"), {"key": "f"})
    actions.bring_back(ferry.owner, ChartDrawing.everything.get(name="goat"))
    assert list(chart.drawings.filter(mood="neutral", key="f").values_list("name", flat=True)) == ["goat 2"]
    assert actions.copy_chart(ferry.owner, chart, None).drawings.get(name="goat 2").key == "f"


def test_a_chart_in_which_nothing_rests_asks_which_drawing_does(ferry, chart):
    page = ferry.client(ferry.owner)
    at = f"/charts/{chart.pk}/"
    for one in chart.drawings.all():
        actions.change_drawing(ferry.owner, one, {"shape": "half"})
    boot = chart.drawings.get(name="boot")
    assert "Which drawing rests?" in page.get(at).content.decode()
    assert "Which drawing rests?" not in ferry.client(ferry.viewer).get(at).content.decode()
    assert "Choose the drawing" in page.post(f"{at}change", {"do": "rests", "drawing": "0"}).content.decode()
    page.post(f"{at}change", {"do": "rests", "drawing": boot.pk})
    boot.refresh_from_db()
    assert shape_at(boot.articulation) == "rest"
    assert "Which drawing rests?" not in page.get(at).content.decode()


def test_a_drawing_that_comes_later_is_measured_beside_those_that_are_there(ferry, chart):
    alone = actions.create_chart(ferry.owner, ferry.scene.production, "Alone")
    for one in (alone, chart):
        actions.bring_in(ferry.owner, one, [drawn("purse", "late")])
    by_itself, beside = (one.drawings.get(name="late").place for one in (alone, chart))
    assert shape_at(beside) == "purse"
    assert shape_at(by_itself) != "purse"


def test_what_is_so_on_purpose_is_not_listed_to_jump(ferry, chart):
    page, at = ferry.client(ferry.owner), f"/charts/{chart.pk}/"
    goat = chart.drawings.get(name="goat")
    actions.change_drawing(ferry.owner, goat, {"x": str(goat.x + 30), "y": str(goat.y + 25)})
    listed = "goat is meant so"
    assert listed in page.get(at).content.decode()
    page.post(f"/drawings/{goat.pk}/change", {"do": "meant"})
    assert listed not in page.get(at).content.decode()
    page.post(f"/drawings/{goat.pk}/change", {"do": "look-again"})
    assert listed in page.get(at).content.decode()


def test_an_unread_stave_is_planned_with_what_is_worn(ferry, chart):
    marit = ferry.stave.character
    actions.wear(ferry.owner, marit, chart)
    ferry.stave.delete()
    assert ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/reading/").status_code == 200
    (stave,) = ferry.scene.staves.all()
    assert [name for name, _, _ in stave.basis] == [d.called for d in chart.drawings.all()]


def test_pictures_are_handed_over_in_the_drawings_that_are_worn(ferry, chart):
    actions.wear(ferry.owner, ferry.stave.character, chart)
    job = handing.ask_for(ferry.owner, ferry.scene, Wish(kinds=["png"], mouth=True, width=360, height=300))
    make_handover(job_id=job.pk)
    packed = ferry.client(ferry.owner).get(f"/hand-over/files/{job.handover.files.get().pk}").getvalue()
    with zipfile.ZipFile(io.BytesIO(packed)) as found:
        first = next(e for e in track_of(ferry.fresh) if e.drawing == "7")
        picture = Image.open(io.BytesIO(found.read(f"frames/Marit_{1001 + first.frame:05d}.png"))).convert("RGBA")
    colours = np.asarray(picture).reshape(-1, 4)
    solid = colours[colours[:, 3] > 200][:, :3].astype(int)
    for colour in (drawings.LIP, drawings.DARK, drawings.WHITE):
        assert (np.abs(solid - np.array(colour[:3])).max(axis=1) < 12).mean() > 0.02


def test_dials_shapes_order_size_and_another_picture(ferry, chart):
    client = ferry.client(ferry.owner)

    def asks(name, **what):
        return client.post(f"/drawings/{chart.drawings.get(name=name).pk}/change", what)

    assert asks("boot", do="change", shape="press").status_code == 302
    assert chart.drawings.get(name="boot").articulation == SHAPES["press"].place
    assert asks("boot", do="change", **dict.fromkeys(ARTICULATORS, "0.25")).status_code == 302
    assert chart.drawings.get(name="boot").place == [0.25] * 8
    assert asks("goat", do="later").status_code == 302
    assert [d.name for d in chart.drawings.all()][-1] == "goat"
    size = chart.drawings.get(name="7").scale
    asks("7", do="change", size="2", turn="10", x="5", y="6")
    seven = chart.drawings.get(name="7")
    assert (seven.scale, seven.turn, seven.x, seven.y) == (2 * size, 10, 5, 6)
    assert 'transform="rotate(10.00)"' in seven.markup("a.png")
    old = seven.picture.name
    assert client.post(f"/drawings/{seven.pk}/change", {"do": "replace", "file": drawn("press")}).status_code == 302
    seven = chart.drawings.get(name="7")
    assert (seven.picture.name != old, seven.scale, seven.x) == (True, 2 * size, 5)
    assert client.post(f"/charts/{chart.pk}/change", {"do": "measure"}).status_code == 302
    assert chart.drawings.get(name="boot").place == [0.25] * 8
    assert chart.drawings.get(name="7").articulation[0] == 0


WRONG = [
    ({"name": " "}, "name"),
    ({"name": "goat"}, "already"),
    (dict.fromkeys(ARTICULATORS, "high"), "is no number"),
    (dict.fromkeys(ARTICULATORS, "2"), "is not from 0 to 1"),
    (dict.fromkeys(ARTICULATORS, "nan"), "is not from 0 to 1"),
    ({"size": "0"}, "is not from"),
    ({"do": "fly"}, "could not be understood"),
    ({"do": "replace"}, "No file came through"),
]


def test_what_cannot_be_gets_a_sentence_and_changes_nothing(ferry, chart):
    boot = chart.drawings.get(name="boot")
    before = ChartDrawing.objects.values().get(pk=boot.pk)
    for what, why in WRONG:
        answer = ferry.client(ferry.owner).post(f"/drawings/{boot.pk}/change", {"do": "change"} | what)
        assert answer.status_code == 422, what
        assert why in answer.content.decode()
        assert ChartDrawing.objects.values().get(pk=boot.pk) == before


def test_what_cannot_be_used_of_an_upload_is_said_and_the_rest_is_kept(ferry, chart):
    client = ferry.client(ferry.owner)
    evil = SimpleUploadedFile("evil.svg", b"<svg xmlns='http://www.w3.org/2000/svg' onload='alert(1)'/>")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as out:
        out.writestr("happy/spread.png", drawings.flat_png("spread"))
    page = client.post(
        f"/charts/{chart.pk}/bring",
        {"file": [evil, drawn("tuck"), SimpleUploadedFile("more.zip", packed.getvalue())]},
        follow=True,
    ).content.decode()
    assert "evil.svg holds code that would run" in page
    assert {(d.mood, d.name) for d in chart.drawings.all()} > {("neutral", "tuck"), ("happy", "spread")}
    only = client.post(f"/charts/{chart.pk}/bring", {"file": [SimpleUploadedFile("evil.svg", b"<svg")]})
    assert only.status_code == 422
    assert client.post(f"/charts/{chart.pk}/bring", {}).status_code == 422


def test_mouths_of_ours_are_drawn_in_a_style_and_a_mood_with_the_places_they_were_drawn_from(ferry, chart):
    client = ferry.client(ferry.owner)
    chart.drawings.all().delete()
    for style, mood in (("tar", "neutral"), ("paper", "Happy")):
        asked = {"do": "draw", "style": style, "mood": mood, "lip": "#2f7d72", "line": "1.2", "corners": "1"}
        assert client.post(f"/charts/{chart.pk}/change", asked).status_code == 302
    own = {(d.mood, d.name): d for d in chart.drawings.all()}
    assert set(own) == {(mood, name) for mood in ("neutral", "happy") for name in SHAPES}
    assert all(d.articulation == SHAPES[name].place for (_, name), d in own.items())
    rest = own["neutral", "rest"].registration
    assert (rest.x * rest.scale, rest.y * rest.scale) == (pytest.approx(90), pytest.approx(60))
    sample = client.get("/charts/styles.svg?style=paper&lip=%232f7d72&corners=-1")
    assert sample.content.count(b"#2f7d72") == 13
    assert client.get("/charts/styles.svg?style=statue").status_code == 422
    for wrong, why in (
        ({"style": "statue"}, b"styles"),
        ({"style": "tar", "line": "soon"}, b"dials"),
        ({"style": "tar", "corners": "9"}, b"dials"),
    ):
        refused = client.post(f"/charts/{chart.pk}/change", {"do": "draw", "mood": "neutral"} | wrong)
        assert refused.status_code == 422
        assert why in refused.content


def test_what_somebody_else_changed_of_a_drawing_meanwhile_stays(ferry, chart):
    mine, theirs = (chart.drawings.get(name="boot") for _ in range(2))
    actions.change_drawing(ferry.owner, theirs, {"name": "left boot"})
    actions.change_drawing(ferry.owner, mine, {"x": "5"})
    kept = chart.drawings.get(pk=mine.pk)
    assert (kept.name, kept.x) == ("left boot", 5)


def test_a_sheet_is_cut_as_it_is_brought_in(ferry, chart):
    client = ferry.client(ferry.owner)
    cells = [drawings.flat(SHAPES[name].place) for name in ("rest", "press", "open", "purse")]
    sheet = drawings.png(np.vstack([np.hstack(cells[:2]), np.hstack(cells[2:])]))

    def brings(**how):
        return client.post(f"/charts/{chart.pk}/bring", {"file": SimpleUploadedFile("gulls.png", sheet), **how})

    chart.drawings.all().delete()
    assert brings(cut="grid", columns="2", rows="2").status_code == 302
    assert [d.name for d in chart.drawings.all()] == ["gulls 1", "gulls 2", "gulls 3", "gulls 4"]
    assert {(d.width, d.height) for d in chart.drawings.all()} == {(300, 260)}
    assert shape_of(client.get(f"/charts/{chart.pk}/").content.decode(), "gulls 4") == "purse"
    refused = brings(cut="grid", columns="0", rows="9")
    assert refused.status_code == 422
    assert "across and down" in refused.content.decode()
    chart.drawings.all().delete()
    assert brings(cut="gaps").status_code == 302
    assert len({(d.width, d.height) for d in chart.drawings.all()}) == 4


def test_a_picture_is_served_as_a_png_of_our_making(ferry, chart):
    plain = b"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 9 9'><rect width='9' height='5'/></svg>"
    svg = SimpleUploadedFile("plain.svg", plain)
    actions.bring_in(ferry.owner, chart, [svg])
    answer = ferry.client(ferry.viewer).get(f"/drawings/{chart.drawings.get(name='plain').pk}/picture/x.png")
    assert answer.headers["Content-Type"] == "image/png"
    assert answer.getvalue().startswith(b"\x89PNG")


def test_charts_have_names_of_their_own_and_one_that_is_worn_is_not_deleted(ferry, chart):
    production = ferry.scene.production
    with pytest.raises(ChartError, match="already"):
        actions.create_chart(ferry.owner, production, "Odd five")
    with pytest.raises(ChartError, match="no drawing yet"):
        actions.wear(ferry.owner, ferry.stave.character, actions.create_chart(ferry.owner, production, "Empty"))
    actions.wear(ferry.owner, ferry.stave.character, chart)
    with pytest.raises(ChartError, match="is what Marit speaks with"):
        actions.remove(ferry.owner, chart)
    actions.wear(ferry.owner, ferry.stave.character, None)
    actions.remove(ferry.owner, chart)
    assert (
        "Odd five"
        not in ferry.client(ferry.owner).get(f"/productions/{production.pk}/cast-and-charts/").content.decode()
    )
    elsewhere = ferry.stranger.productions.get()
    other = create_character(ferry.stranger, elsewhere, "Brede")
    with pytest.raises(ChartError, match="another production"):
        actions.wear(ferry.stranger, other, chart)
