"""A face of somebody's own pictures, under the mouth and over it, wherever the character is seen."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import Http404

from tinfork.core.errors import ChartError, TinForkError
from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Settings
from tinfork.core.limits import MAX_VIEWS
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.draw import STYLES
from tinfork.core.mouths.face import MOUTH_SCALE, VIEW, on_face
from tinfork.core.mouths.heads import COMMON, FORMS
from tinfork.core.mouths.parts import Pose
from tinfork.core.mouths.raster import pixels
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.sound.recording import load
from tinfork.core.speech import read
from tinfork.web.charts import actions as charts
from tinfork.web.faces import actions
from tinfork.web.faces.models import FaceLayer, face_of
from tinfork.web.handover.roles import _embedded
from tinfork.web.productions.actions import create_character
from tinfork.web.tracks import stock
from tinfork.web.tracks.trying import _STOCK_RATE

BOX = " ".join(map(str, VIEW))


def square(name, colour, box=BOX, rect='x="-60" y="-90" width="120" height="120"'):
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}"><rect {rect} fill="{colour}"/></svg>'
    return SimpleUploadedFile(f"{name}.svg", svg.encode())


@pytest.fixture
def marit(ferry):
    return ferry.stave.character


def colours(character):
    """What is seen of the face, with a red mouth."""
    face = face_of(character, _embedded)
    return pixels(on_face(face, '<rect x="-10" y="-10" width="20" height="20" fill="#ff0000"/>'), 300, 360)


def middle(picture, colour):
    """Where a colour is seen, in the face's units."""
    rows, columns = np.nonzero((np.abs(picture[:, :, :3].astype(int) - colour) < 40).all(axis=2))
    unit = VIEW[2] / picture.shape[1]
    return columns.mean() * unit + VIEW[0], rows.mean() * unit + VIEW[1]


def test_layers_lie_under_and_over_the_mouth_where_they_are_put(ferry, marit, editor):
    assert face_of(marit).size == MOUTH_SCALE
    assert actions.bring_layers(editor, marit, [square("head", "#0000ff"), square("hand", "#00ff00")]) == []
    head, hand = FaceLayer.objects.all()
    assert middle(colours(marit), (255, 0, 0)) == (pytest.approx(0, abs=1), pytest.approx(0, abs=1))
    actions.change_layer(editor, hand, {"in_front": "yes"})
    assert not (colours(marit)[:, :, 0] > 200).any()
    actions.change_layer(editor, hand, {"x": "80", "y": "40", "scale": str(hand.scale / 4)})
    assert middle(colours(marit), (0, 255, 0)) == (pytest.approx(80, abs=4), pytest.approx(40, abs=4))
    actions.place_mouth(editor, marit, {"x": "-30", "y": "12", "size": "2"})
    assert middle(colours(marit), (255, 0, 0)) == (pytest.approx(-30, abs=1.5), pytest.approx(12, abs=1.5))
    actions.change_layer(editor, head, {"hidden": "yes"})
    assert not (colours(marit)[:, :, 2] > 200).any()
    shown = ferry.client(ferry.viewer).get(f"/staves/{ferry.stave.pk}/").json()["chart"]
    pieces = [piece[2] for piece in shown["pieces"]]
    assert pieces[0] == ""
    assert f"/layers/{hand.pk}/picture/" in pieces[1]
    assert shown["mouth"] == "translate(-30.00 12.00) scale(2.0000)"
    for layer in (head, hand):
        actions.remove_layer(editor, layer)
    assert "<image" not in face_of(marit).behind
    actions.remove_layer(editor, head, back=True)
    assert FaceLayer.objects.get() == head


def test_a_face_is_changed_by_form_and_what_is_wrong_is_said(ferry, marit):
    client, page = ferry.client(ferry.owner), f"/characters/{marit.pk}/face/"
    files = [square("head", "#0000ff"), SimpleUploadedFile("x.png", b"no")]
    assert "x.png is no PNG" in client.post(f"{page}bring", {"file": files}, follow=True).content.decode()
    layer = FaceLayer.objects.get()
    assert layer.href in client.get(page).content.decode()
    change = f"/layers/{layer.pk}/change"
    assert client.post(change, {"x": "12.5", "turn": "10"}).json() == {}
    layer.refresh_from_db()
    assert (layer.x, layer.turn) == (12.5, 10)
    assert client.post(change, {"x": "nan"}).status_code == 422
    assert client.post(change, {"scale": "1e9"}).json()["problem"].endswith("is not from 0.0001 to 100.")
    assert client.post(f"{page}mouth", {"size": "big"}).json()["problem"].startswith("“big” is no number")
    assert client.post(change, {"do": "change", "name": " "}).status_code == 422
    assert client.post(change, {"do": "dance"}).status_code == 422
    for doing in ("over", "under", "remove", "over", "bring-back"):
        assert client.post(change, {"do": doing}).status_code == 302
    with pytest.raises(ChartError, match="No file came through"):
        actions.bring_layers(ferry.owner, marit, [])
    with pytest.raises(ChartError, match="40 layers"):
        actions.bring_layers(ferry.owner, marit, [square(f"n{n}", "#00ff00") for n in range(40)])
    with pytest.raises(Http404):
        actions.place_mouth(ferry.viewer, marit, {"x": "1"})
    with pytest.raises(TinForkError):
        actions.place_mouth(ferry.owner, marit, {"x": "1e400"})


def test_the_stock_phrase_is_as_it_reads_and_visits_every_shape():
    line, seconds = stock.phrase()
    again = read.read(load(stock.SOUND), stock.TEXT).lines[0]
    assert [(s.ipa, s.start, s.end) for w in line.words for s in w.sounds] == [
        (s.ipa, pytest.approx(s.start, abs=0.02), pytest.approx(s.end, abs=0.02)) for w in again.words for s in w.sounds
    ]
    sounds = [sound for word in line.words for sound in word.sounds]
    shown = plan.plan(curves.curves(sounds, seconds, _STOCK_RATE), built_in(), Settings())
    assert {e.drawing for e in shown} == set(SHAPES)


def test_a_chart_speaks_before_it_is_used(ferry, marit):
    client = ferry.client(ferry.viewer)
    address = f"/characters/{marit.pk}/speak"
    stock_said = client.get(address).json()
    assert {name for _, _, name in stock_said["exposures"]} == set(SHAPES)
    assert client.get(stock_said["sound"]).headers["content-type"] == "audio/flac"
    lines = client.get(f"/productions/{ferry.scene.production_id}/phrases").json()["lines"]
    assert lines[0]["who"] == "Marit"
    said = client.get(address, {"line": lines[0]["line"], "chart": "ours"}).json()
    assert said["fps"] == float(ferry.scene.fps)
    assert said["exposures"][0] == [0, said["exposures"][0][1], "rest"]
    assert len({name for _, _, name in said["exposures"]}) > 3
    assert client.get(said["sound"]).content[:4] == b"fLaC"
    for wrong in ({"line": "9-9"}, {"line": "x"}, {"chart": "0"}, {"chart": "²"}):
        assert client.get(address, wrong).status_code == 404


def test_a_cast_is_shown_as_it_looks(ferry, marit):
    client = ferry.client(ferry.viewer)
    pages = "/", f"/productions/{ferry.scene.production_id}/cast-and-charts/"
    assert "/layers/" not in client.get(pages[1]).content.decode()
    actions.bring_layers(ferry.owner, marit, [square("head", "#0000ff")])
    chart = charts.create_chart(ferry.owner, ferry.scene.production, "Ours")
    charts.draw(ferry.owner, chart, STYLES["tar"], "sly")
    charts.wear(ferry.owner, marit, chart, "sly")
    layer, rest = FaceLayer.objects.get(), chart.drawings.get(name="rest")
    for page in pages:
        shown = client.get(page).content.decode()
        assert layer.href in shown
        assert f"/drawings/{rest.pk}/small/" in shown


def test_a_head_of_ours_is_put_on_with_its_colours_and_what_is_none_is_refused(ferry, marit, editor):
    page = ferry.client(ferry.owner).get(f"/characters/{marit.pk}/face/").content.decode()
    assert page.count('name="form"') == len(FORMS)
    client = ferry.client(ferry.owner)
    asked = {"form": "goat", "skin": "#8A5A3C", "trim": "#111111", "lip": "#222222"}
    assert client.post(f"/characters/{marit.pk}/face/look", asked).status_code == 302
    marit.refresh_from_db()
    assert marit.look == FaceStyle("goat", "#8a5a3c", "#111111", "#222222")
    for wrong, why in (({"form": "dragon"}, "no head of ours"), ({"form": "bob", "skin": "red"}, "six digits")):
        answer = client.post(f"/characters/{marit.pk}/face/look", asked | wrong)
        assert answer.status_code == 422
        assert why in answer.content.decode()
    marit.refresh_from_db()
    assert marit.form == "goat"
    assert ferry.client(ferry.viewer).post(f"/characters/{marit.pk}/face/look", asked).status_code == 404


def test_nobody_is_made_a_captain_or_a_machine_unasked_and_no_two_are_alike_while_heads_last(ferry, editor):
    production = ferry.scene.production
    made = [create_character(editor, production, f"Guest {number}") for number in range(len(COMMON) + 3)]
    forms = [ferry.stave.character.form, *(one.form for one in made)]
    assert sorted(forms[: len(COMMON)]) == sorted(COMMON)
    assert set(forms) == set(COMMON)


def views_of_face(ferry, marit):
    return {(layer.name, layer.view) for layer in marit.face.layers.all()}


def test_layers_of_views_come_in_by_name_or_where_one_is_chosen_and_the_mouth_lies_in_each(ferry, marit, editor):
    client = ferry.client(ferry.owner)
    at = f"/characters/{marit.pk}/face/"

    def bring(files, **more):
        return client.post(f"{at}bring", {"file": files, **more})

    eye = square("side right eye", "#0000ff", rect='x="40" y="-60" width="20" height="20"')
    assert bring([square("skull", "#888888"), eye]).status_code == 302
    assert (
        bring(
            [square("hat", "#00ff00", rect='x="-60" y="-200" width="120" height="40"')], view="side right"
        ).status_code
        == 302
    )
    assert views_of_face(ferry, marit) == {("skull", ""), ("eye", "side right"), ("hat", "side right")}
    assert (
        client.post(f"{at}mouth?view=side+right", {"x": "44", "y": "3", "size": "0.8", "turn": "5"}).status_code == 200
    )
    face = face_of(marit)
    assert face.views == ("front", "side right")
    marit.face.refresh_from_db()
    assert (marit.face.x, marit.face.views) == (0, {"side right": {"x": 44, "y": 3, "size": 0.8, "turn": 5}})
    page = client.get(f"{at}?view=side+right").content.decode()
    assert "Mirror to side left" in page
    assert '"x": 44' in page
    assert client.post(f"{at}views", {"do": "mirror", "view": "side right"}).status_code == 302
    made = FaceLayer.objects.filter(view="side left")
    assert {layer.name for layer in made} == {"eye", "hat"}
    eye = FaceLayer.objects.get(view="side right", name="eye")
    assert middle(colours(marit), (0x88, 0x88, 0x88))
    seen = {
        view: middle(
            pixels(on_face(face_of(marit, _embedded), "", None, {"head": Pose({}, view)}), 300, 360), (0, 0, 255)
        )
        for view in ("side right", "side left")
    }
    assert seen["side right"][0] > 20
    assert seen["side left"] == (
        pytest.approx(-seen["side right"][0], abs=2),
        pytest.approx(seen["side right"][1], abs=2),
    )
    assert made.get(name="eye").x == -eye.x
    marit.face.refresh_from_db()
    assert marit.face.views["side left"] == {"x": -44, "y": 3, "size": 0.8, "turn": -5}
    for asked, why in (
        ({"do": "mirror", "view": "side right"}, "already"),
        ({"do": "mirror", "view": "back"}, "left or right"),
        ({"do": "add", "view": "front"}, "front is there"),
        ({"do": "spin", "view": "x"}, "reload"),
    ):
        answer = client.post(f"{at}views", asked)
        assert answer.status_code == 422, asked
        assert why in answer.content.decode()
    assert client.post(f"{at}views", {"do": "remove", "view": "side left"}).status_code == 302
    assert not FaceLayer.objects.filter(view="side left").exists()
    assert client.post(f"{at}views", {"do": "add", "view": "From Below"}).status_code == 302
    assert FaceLayer.objects.get(name="skull").view == ""
    assert face_of(marit).views == ("front", "side right", "from below")


def test_a_layer_that_has_depth_slides_when_the_head_turns(ferry, marit, editor):
    actions.bring_layers(
        editor,
        marit,
        [square("skull", "#888888"), square("nose", "#0000ff", rect='x="-10" y="-60" width="20" height="20"')],
    )
    nose = FaceLayer.objects.get(name="nose")
    assert not face_of(marit).turns
    actions.change_layer(editor, nose, {"depth": "1"})
    face = face_of(marit, _embedded)
    assert face.turns
    there = pixels(on_face(face, "", None, {"head": Pose({"facing": 40.0})}), 300, 360)
    assert 35 < middle(there, (0, 0, 255))[0] < 65
    with pytest.raises(TinForkError):
        actions.change_layer(editor, nose, {"depth": "2"})


def test_faces_have_so_many_views_and_no_more(ferry, marit, editor):
    for number in range(MAX_VIEWS):
        actions.add_view(editor, marit, f"view {number}")
    with pytest.raises(ChartError, match="16 views"):
        actions.add_view(editor, marit, "one more")


def test_what_was_there_is_the_fronts_as_a_face_gets_its_first_view(ferry, marit, editor):
    actions.bring_layers(editor, marit, [square("skull", "#888888")])
    assert actions.add_view(editor, marit, "side right") == "side right"
    assert FaceLayer.objects.get().view == "front"
    turned = on_face(face_of(marit, _embedded), "", "#ffffff", {"head": Pose({}, "side right")})
    # Until it has layers of its own the front is what comes nearest.
    assert middle(pixels(turned, 300, 360), (0x88, 0x88, 0x88))[0] == pytest.approx(0, abs=3)
    actions.bring_layers(editor, marit, [square("cheek", "#0000ff")], "side right")
    turned = pixels(on_face(face_of(marit, _embedded), "", "#ffffff", {"head": Pose({}, "side right")}), 300, 360)
    assert not (np.abs(turned.astype(int) - 0x88).max(axis=2) < 10).any()
    assert middle(turned, (0, 0, 255))
