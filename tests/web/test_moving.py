"""Drawings that move: several pictures under one name, on the page, in what is handed over, and in bundles."""

import re

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tinfork.core.errors import ChartError
from tinfork.core.limits import MAX_PHASES
from tinfork.core.mouths.cycles import Moving
from tinfork.core.shot.shot import Shot
from tinfork.core.shot.stage import Frames, Look
from tinfork.web.charts import actions as charts
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.faces import actions as faces
from tinfork.web.handover.keeping import looks_of
from tinfork.web.handover.roles import role_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import mouths_of
from tinfork.web.staves.planning import planned

COLOURS = ("#ff0000", "#00ff00", "#0000ff")


def picture(name, colour, wide=120):
    shape = f'<ellipse cx="60" cy="60" rx="40" ry="24" fill="{colour}"/>'
    box = f'viewBox="0 0 {wide} 120" width="{wide}" height="120"'
    return SimpleUploadedFile(f"{name}.svg", f'<svg xmlns="http://www.w3.org/2000/svg" {box}>{shape}</svg>'.encode())


@pytest.fixture
def boiling(ferry, editor):
    """The only drawing Marit has, of three pictures."""
    chart = charts.create_chart(editor, ferry.scene.production, "Boiling")
    charts.bring_in(editor, chart, [picture("mouth", COLOURS[0])])
    drawing = chart.drawings.get()
    charts.add_pictures(editor, drawing, [picture("two", COLOURS[1]), picture("three", COLOURS[2])])
    charts.wear(editor, ferry.stave.character, chart)
    drawing.refresh_from_db()
    return drawing


def role(ferry):
    return role_of(planned(Stave.objects.select_related("character", "scene__production").get(pk=ferry.stave.pk)))


def seen(ferry, frames):
    """Which of the colours is seen on each of some frames."""
    own = role(ferry)
    pictures = Frames(Shot("Boil", ferry.scene.fps, 1, (own,)), Look(160, 120, "#ffffff", mouth=True))
    found = []
    for frame in frames:
        rgb = np.asarray(pictures[frame])[:, :, :3].astype(int)
        counts = [(np.abs(rgb - [int(c[i : i + 2], 16) for i in (1, 3, 5)]).sum(axis=2) < 60).sum() for c in COLOURS]
        found.append(int(np.argmax(counts)))
    return found


def test_a_drawing_moves_over_and_over_by_the_frames_of_the_scene_and_timing_stays(ferry, editor, boiling):
    assert seen(ferry, range(8)) == [0, 0, 1, 1, 2, 2, 0, 0]
    assert role(ferry).exposures[-1].end == ferry.track[-1].end
    charts.change_drawing(editor, boiling, {"each": "3", "once": "yes"})
    assert seen(ferry, range(12)) == [0, 0, 0, 1, 1, 1, 2, 2, 2, 2, 2, 2]
    boiling.refresh_from_db()
    charts.make_still(editor, boiling)
    assert seen(ferry, range(6)) == [0] * 6
    assert "picture" not in "".join(e.drawing for e in role(ferry).exposures)


def test_pages_are_sent_all_pictures_and_how_they_play(ferry, boiling):
    (document,) = mouths_of(ferry.stave).document("d")["drawings"]
    assert (document["moving"]["each"], document["moving"]["once"]) == (2, False)
    client = ferry.client(ferry.owner)
    urls = [svg.split('href="')[1].split('"')[0] for svg in document["moving"]["svgs"]]
    answers = [client.get(url) for url in urls]
    assert [answer.status_code for answer in answers] == [200, 200]
    assert len({b"".join(answer.streaming_content) for answer in answers}) == 2
    assert client.get(urls[0].replace("/further/1/", "/further/9/")).status_code == 404
    assert ferry.client(ferry.stranger).get(urls[0]).status_code == 404
    assert "It has 3 pictures" in client.get(f"/drawings/{boiling.pk}/form").content.decode()


def test_what_cannot_follow_is_refused_and_what_was_there_stays(ferry, editor, boiling):
    client = ferry.client(ferry.owner)

    def refused(do, **more):
        answer = client.post(f"/drawings/{boiling.pk}/change", {"do": do, **more})
        assert answer.status_code == 422
        boiling.refresh_from_db()
        assert len(boiling.also) == 2
        return answer.content.decode()

    assert "one canvas" in refused("follow", file=picture("large", "#000000", 200))
    assert "24 pictures" in refused("follow", file=[picture(str(n), COLOURS[n % 3]) for n in range(MAX_PHASES)])
    assert "choose the pictures" in refused("follow")
    assert "1 to 24 frames" in refused("change", each="0")
    for wrong in ({"pictures": 200}, {"pictures": 3, "each": 25}):
        with pytest.raises(ChartError):
            Moving(**wrong)
    charts.replace_picture(editor, boiling, picture("another", COLOURS[0], 200))
    boiling.refresh_from_db()
    assert boiling.also == []


def test_a_copy_moves_as_well(editor, boiling):
    charts.duplicate(editor, boiling)
    assert ChartDrawing.objects.exclude(chart=None).filter(also=boiling.also).count() == 2


@pytest.fixture
def flag(ferry, editor):
    """Marit's face: one layer of three pictures."""
    marit = ferry.stave.character
    faces.bring_layers(editor, marit, [picture("flag", COLOURS[0])])
    layer = marit.face.layers.get()
    faces.add_pictures(editor, layer, [picture("two", COLOURS[1]), picture("three", COLOURS[2])])
    layer.refresh_from_db()
    return layer


def test_a_layer_of_a_face_moves_in_pages_and_pictures_and_stands_still_again(ferry, editor, flag):
    def colour(frame):
        own = Frames(Shot("Boil", ferry.scene.fps, 1, (role(ferry),)), Look(170, 204, "#ffffff"))
        rgb = np.asarray(own[frame])[:, :, :3].astype(int)
        return int(
            np.argmax([(np.abs(rgb - [255 * (n == at) for n in range(3)]).sum(2) < 60).sum() for at in range(3)])
        )

    timing = [(e.frame, e.frames) for e in role(ferry).exposures]
    assert [colour(frame) for frame in range(8)] == [0, 0, 1, 1, 2, 2, 0, 0]
    pieces = [one for one in mouths_of(ferry.stave).document("m")["pieces"] if one[5]]
    assert [one[5] for one in pieces] == [[3, 2, False, 0], [3, 2, False, 1], [3, 2, False, 2]]
    client = ferry.client(ferry.owner)
    pictures = set()
    for one in pieces:
        answer = client.get(re.search(r'href="([^"]+)"', one[2])[1])
        assert answer["Content-Type"] == "image/png"
        pictures.add(b"".join(answer))
    assert len(pictures) == 3
    page = client.get(f"/characters/{ferry.stave.character_id}/face/").content.decode()
    assert "moves: 3 pictures" in page
    asked = {"do": "change", "each": "3", "once": "yes"}
    before = looks_of([ferry.stave.character_id])
    assert client.post(f"/layers/{flag.pk}/change", asked).status_code == 302
    assert looks_of([ferry.stave.character_id]) != before
    assert [colour(frame) for frame in range(10)] == [0, 0, 0, 1, 1, 1, 2, 2, 2, 2]
    assert [(e.frame, e.frames) for e in role(ferry).exposures] == timing
    assert client.post(f"/layers/{flag.pk}/change", {"do": "still"}).status_code == 302
    assert [colour(frame) for frame in range(10)] == [0] * 10


def test_what_cannot_follow_a_layer_is_refused_and_nobody_else_lets_it_move(ferry, editor, flag):
    before = list(flag.also)
    client = ferry.client(ferry.owner)

    def follow(*files):
        return client.post(f"/layers/{flag.pk}/change", {"do": "follow", "file": list(files)})

    assert "one canvas" in follow(picture("wide", COLOURS[0], 150)).content.decode()
    assert "24 pictures at the most" in follow(*(picture(str(n), COLOURS[0]) for n in range(30))).content.decode()
    assert "No file came through" in follow().content.decode()
    assert "1 to 24 frames" in client.post(f"/layers/{flag.pk}/change", {"do": "change", "each": "0"}).content.decode()
    for person in (ferry.viewer, ferry.stranger):
        asked = {"do": "follow", "file": [picture("more", COLOURS[1])]}
        assert ferry.client(person).post(f"/layers/{flag.pk}/change", asked).status_code == 404
    flag.refresh_from_db()
    assert flag.also == before


def test_a_mirrored_view_moves_as_its_side_does(ferry, editor, flag):
    faces.change_layer(editor, flag, {"view": "side left"})
    faces.mirror_view(editor, ferry.stave.character, "side left")
    other = ferry.stave.character.face.layers.get(view="side right")
    assert (len(other.also), other.each, other.once) == (2, flag.each, flag.once)
    assert set(other.files).isdisjoint(flag.files)
