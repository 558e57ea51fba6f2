"""Charts that go from production to production, in moods, of whole heads; drawings that jump are found and cured."""

from dataclasses import replace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import Http404

from tests.web.remembered import once
from tests.web.test_charts import ODD, drawn
from tinfork.core.errors import ChartError
from tinfork.core.mouths import raster
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import shape_at
from tinfork.core.mouths.draw import STYLES, alone, styled
from tinfork.core.mouths.face import face_svg
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.layers import by_layers
from tinfork.core.mouths.picture import open_picture
from tinfork.core.mouths.shapes import SHAPES
from tinfork.web.charts import actions
from tinfork.web.charts.mending import cure, jumps, own_lines
from tinfork.web.charts.models import MouthChart
from tinfork.web.handover.roles import role_of
from tinfork.web.productions.actions import create_character, create_production
from tinfork.web.staves.planning import planned
from tinfork.web.staves.seeing import track_of


@pytest.fixture
def ours(ferry):
    """Our thirteen in the library of the production's owner."""
    made = actions.create_chart(ferry.owner, None, "Everybody's")
    with once("tinfork.web.charts.actions.open_picture", "tinfork.web.charts.actions.as_brought"):
        actions.draw(ferry.owner, made, STYLES["paper"], NEUTRAL)
    return made


def seen(ferry, person=None):
    return ferry.client(person or ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()


def upload(name, svg):
    return SimpleUploadedFile(name, svg.encode())


def test_a_library_chart_is_given_by_its_owner_and_seen_by_all_who_see_the_character(ferry, ours, editor):
    drawing = ours.drawings.first()
    picture = f"/drawings/{drawing.pk}/picture/x.png"
    viewer, stranger = ferry.client(ferry.viewer), ferry.client(ferry.stranger)
    assert viewer.get(picture).status_code == viewer.get(f"/charts/{ours.pk}/").status_code == 404
    with pytest.raises(Http404):
        actions.wear(editor, ferry.stave.character, ours)
    actions.wear(ferry.owner, ferry.stave.character, ours)
    assert viewer.get(picture).status_code == viewer.get(f"/charts/{ours.pk}/").status_code == 200
    assert stranger.get(picture).status_code == 404
    assert "Everybody" in viewer.get(f"/productions/{ferry.scene.production_id}/cast-and-charts/").content.decode()
    with pytest.raises(Http404):
        actions.change_drawing(editor, drawing, {"name": "mine"})
    other = create_character(ferry.owner, create_production(ferry.owner, "The Tar Barrel"), "Ilka")
    actions.wear(ferry.owner, other, ours)
    assert {one.character for one in ours.worn_by.all()} == {ferry.stave.character, other}
    assert "The Tar Barrel" in ferry.client(ferry.owner).get(f"/charts/{ours.pk}/").content.decode()


def test_a_copy_goes_its_own_way(ferry, ours, editor):
    client = ferry.client(ferry.owner)
    to = ferry.scene.production
    answer = client.post(f"/charts/{ours.pk}/change", {"do": "copy", "to": to.pk})
    copy = MouthChart.objects.get(production=to)
    assert answer.url == f"/charts/{copy.pk}/"
    assert copy.drawings.count() == 13
    actions.change_drawing(editor, copy.drawings.first(), {"name": "mine"})
    assert not ours.drawings.filter(name="mine").exists()
    again = actions.copy_chart(ferry.owner, copy, None)
    assert (again.owner, again.name) == (ferry.owner, "Everybody's, copy 1")
    with pytest.raises(Http404):
        actions.copy_chart(ferry.viewer, copy, to)
    actions.copy_chart(ferry.viewer, copy, None)
    assert client.get("/library/").content.decode().count("Everybody") == 2
    assert "Everybody" in ferry.client(ferry.viewer).get("/library/").content.decode()
    assert client.post("/library/", {"name": "Everybody's"}).status_code == 422


def test_a_mood_changes_drawings_and_no_timing_and_lacks_are_filled_by_neutral_ones(ferry, ours):
    happy = replace(STYLES["paper"], corners=1.0)
    actions.draw(ferry.owner, ours, happy, "Happy")
    actions.wear(ferry.owner, ferry.stave.character, ours)
    assert ferry.edit(ferry.owner, "pin", frame=4, frames=3, drawing="purse").status_code == 200
    before = track_of(ferry.fresh)
    actions.wear(ferry.owner, ferry.stave.character, ours, "happy")
    after = track_of(ferry.fresh)
    assert [(e.frame, e.frames) for e in after] == [(e.frame, e.frames) for e in before]
    assert [e.drawing for e in after if e.pinned] == ["happy · purse"]
    assert {e.drawing for e in after if not e.pinned} == {f"happy · {e.drawing}" for e in before if not e.pinned}
    rest, opens = (ours.drawings.get(mood="happy", name=name) for name in ("rest", "open"))
    actions.remove(ferry.owner, rest)
    actions.change_drawing(ferry.owner, opens, {"name": "wide smile"})
    partly = {e.drawing for e in track_of(ferry.fresh)}
    assert "rest" in partly
    assert "happy · wide smile" in partly
    page = ferry.client(ferry.owner).get(f"/charts/{ours.pk}/").content.decode()
    assert "Happy has nothing for rest; the neutral one is shown." in page
    with pytest.raises(ChartError, match="no drawing in the mood"):
        actions.wear(ferry.owner, ferry.stave.character, ours, "sly")
    answer = ferry.client(ferry.owner).post(
        f"/charts/{ours.pk}/change", {"do": "wear", "character": ferry.stave.character_id, "mood": NEUTRAL}
    )
    assert answer.status_code == 302
    assert track_of(ferry.fresh) == before


def test_whole_heads_need_no_face(ferry):
    chart = actions.create_chart(ferry.owner, ferry.scene.production, "Heads", "head")
    looks = [
        upload(f"{name}.svg", face_svg(FaceStyle("long"), SHAPES[name].place)) for name in ("rest", "open", "purse")
    ]
    actions.bring_in(ferry.owner, chart, looks)
    shapes = {d.name: d.place[0] for d in chart.drawings.all()}
    assert shapes["rest"] < 0.1 < shapes["open"]
    (lies,) = {(d.x, d.y, d.scale) for d in chart.drawings.all()}
    drawing = chart.drawings.first()
    assert (-lies[0] * lies[2], drawing.width * lies[2]) == (pytest.approx(-170, abs=30), pytest.approx(340, abs=60))
    later = raster.png(face_svg(FaceStyle("long"), SHAPES["purse"].place), 380)
    actions.bring_in(ferry.owner, chart, [SimpleUploadedFile("seven.png", later)])
    seven = chart.drawings.get(name="seven")
    assert shape_at(seven.place) == shape_at(chart.drawings.get(name="purse").place) == "purse"
    seven.delete()
    actions.wear(ferry.owner, ferry.stave.character, chart)
    shown = seen(ferry)["chart"]
    assert shown["pieces"] == [["mouth", None, "", None, None, None]]
    assert {e.drawing for e in track_of(ferry.fresh)} <= {"rest", "open", "purse"}
    assert set(role_of(planned(ferry.fresh)).drawn) <= {"rest", "open", "purse"}
    with pytest.raises(ChartError, match="What we draw are mouths"):
        actions.draw(ferry.owner, chart, STYLES["tar"], NEUTRAL)
    assert "Let us draw" not in ferry.client(ferry.owner).get(f"/charts/{chart.pk}/").content.decode()
    with pytest.raises(ChartError, match="mouths or whole heads"):
        actions.create_chart(ferry.owner, ferry.scene.production, "Feet", "feet")


def test_what_uses_a_drawing_is_said_before_it_is_deleted(ferry, ours):
    actions.wear(ferry.owner, ferry.stave.character, ours)
    for frame in (4, 9):
        ferry.edit(ferry.owner, "pin", frame=frame, frames=3, drawing="purse")
    purse = ours.drawings.get(name="purse")
    client, address = ferry.client(ferry.owner), f"/drawings/{purse.pk}/change"
    answer = client.post(address, {"do": "remove"})
    assert answer.status_code == 422
    assert f"purse was chosen by hand in “{ferry.scene}” for Marit, 2 times" in answer.content.decode()
    assert ours.drawings.filter(name="purse").exists()
    assert client.post(address, {"do": "remove", "sure": "yes"}).status_code == 302
    assert not ours.drawings.filter(name="purse").exists()
    (gone,) = seen(ferry)["pinsAway"]
    assert "here and in 1 more" in gone["why"]
    assert client.post(f"/drawings/{ours.drawings.get(name='tip').pk}/change", {"do": "remove"}).status_code == 302


def test_what_jumps_is_listed_and_cured_by_one_click(ferry, ours):
    client = ferry.client(ferry.owner)
    page = f"/charts/{ours.pk}/"
    assert "What would jump" not in client.get(page).content.decode()
    lift, half = (ours.drawings.get(name=name) for name in ("lift", "half"))
    actions.change_drawing(ferry.owner, lift, {"x": str(lift.x + 9 / lift.scale)})
    actions.change_drawing(ferry.owner, half, {"size": "1.5"})
    text = client.get(page).content.decode()
    assert "lift lies 9 too far left" in text
    assert "half is drawn 1.5 times as large as the others" in text
    assert client.post(f"{page}change", {"do": "cure", "drawing": lift.pk}).status_code == 302
    assert [d.name for d, _ in jumps(ours.drawings.all())] == ["half"]
    assert cure(ferry.owner, ours) == 1
    assert jumps(ours.drawings.all()) == []
    half.refresh_from_db()
    assert half.scale == pytest.approx(lift.scale, rel=0.08)


def test_lines_of_another_weight_are_drawn_like_the_others_and_the_picture_can_be_had_back(ferry):
    chart = actions.create_chart(ferry.owner, None, "Rope")
    actions.draw(ferry.owner, chart, STYLES["rope"], NEUTRAL)
    half = chart.drawings.get(name="half")
    thin = replace(STYLES["rope"], line=0.9)
    actions.replace_picture(ferry.owner, half, upload("half.svg", alone(styled(SHAPES["half"].place, "m", thin))))
    ((drawing, found),) = jumps(chart.drawings.all())
    assert (drawing.name, found.kind, found.times) == ("half", "line", pytest.approx(0.5, abs=0.12))
    before = drawing.picture.name
    cure(ferry.owner, chart)
    assert jumps(chart.drawings.all()) == []
    half.refresh_from_db()
    assert half.picture.name != before
    own_lines(ferry.owner, half)
    assert half.picture.name == before
    actions.change_drawing(ferry.owner, half, {"x": str(half.x + 9 / half.scale)})
    assert [found.kind for _, found in jumps(chart.drawings.all())] == ["place", "line"]
    cure(ferry.owner, chart)
    assert jumps(chart.drawings.all()) == []


def test_an_svg_with_layers_and_a_folder_with_moods_are_brought_in(ferry):
    chart = actions.create_chart(ferry.owner, None, "Layers")
    groups = "".join(
        f'<g id="{name}" style="display:none">{styled(SHAPES[shape].place, name, STYLES["plank"])}</g>'
        for name, shape in (("boot", "rest"), ("gull", "open"), ("goat", "purse"))
    )
    layered = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-90 -60 180 150"><g>{groups}</g></svg>'
    client = ferry.client(ferry.owner)
    answer = client.post(f"/charts/{chart.pk}/bring", {"file": upload("mouths.svg", layered), "cut": "layers"})
    assert answer.status_code == 302
    assert [(d.name, round(d.place[0], 1)) for d in chart.drawings.all()] == [
        ("boot", 0.0), ("gull", 1.0), ("goat", pytest.approx(0.2, abs=0.11))
    ]  # fmt: skip
    with pytest.raises(ChartError, match="has no layers"):
        by_layers("one.svg", alone(styled(SHAPES["open"].place, "m", STYLES["plank"])).encode())
    with pytest.raises(ChartError, match="code that would run"):
        by_layers("bad.svg", b'<svg xmlns="http://www.w3.org/2000/svg"><g onclick="x()"/><g/></svg>')
    folder = {"all/boot.png": "rest", "all/sad/boot.png": "press", "all/notes.txt": "open"}
    files = [drawn(shape, path.rpartition("/")[2][:-4], path[-3:]) for path, shape in folder.items()]
    actions.bring_in(ferry.owner, chart, files, paths=list(folder))
    assert set(chart.drawings.values_list("mood", "name")) >= {("all", "boot"), ("sad", "boot")}
    assert chart.drawings.count() == 5


def test_a_drawing_is_duplicated_after_itself(ferry):
    chart = actions.create_chart(ferry.owner, None, "Odd")
    actions.bring_in(ferry.owner, chart, [drawn(shape, name) for name, shape in ODD.items()])
    boot = chart.drawings.get(name="boot")
    actions.duplicate(ferry.owner, boot)
    assert [d.name for d in chart.drawings.all()][:3] == ["boot", "boot 2", "Ünder fog"]
    actions.move(ferry.owner, chart.drawings.get(name="boot"), 1)
    assert [d.name for d in chart.drawings.all()][:3] == ["boot 2", "boot", "Ünder fog"]
    boot = chart.drawings.get(name="boot")
    actions.remove(ferry.owner, boot)  # In another tab, where it is still shown, it is then moved.
    answer = ferry.client(ferry.owner).post(f"/drawings/{boot.pk}/change", {"do": "later"})
    assert answer.status_code == 302
    assert open_picture("a.png", chart.drawings.get(name="boot 2").data).pixels.shape == (260, 300, 4)


def test_what_we_drew_is_taken_away_as_svg_until_another_picture_takes_its_place(ferry, ours):
    client, open_mouth = ferry.client(ferry.owner), ours.drawings.get(name="open")
    address = f"/drawings/{open_mouth.pk}/drawing.svg"
    assert "Take it as SVG" in client.get(f"/drawings/{open_mouth.pk}/form").content.decode()
    answer = client.get(address)
    assert answer.headers["content-disposition"] == 'attachment; filename="open.svg"'
    again = open_picture("open.svg", answer.content)
    assert (again.pixels == open_picture("open.png", open_mouth.data).pixels).all()
    actions.replace_picture(ferry.owner, open_mouth, drawn("open"))
    assert client.get(address).status_code == 404
    assert actions.copy_chart(ferry.owner, ours, None).drawings.exclude(vector="").count() == 12
