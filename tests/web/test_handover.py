import csv
import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from tinfork.core.errors import TinForkError
from tinfork.core.mouths.draw import alone, mouth
from tinfork.core.mouths.raster import png
from tinfork.core.mouths.shapes import SHAPES
from tinfork.web.handover import actions, rendering
from tinfork.web.handover.tasks import make_handover
from tinfork.web.jobs.models import Job
from tinfork.web.productions.actions import create_character
from tinfork.web.reading import planning
from tinfork.web.reading.actions import stave_for
from tinfork.web.reading.planning import scene_reading
from tinfork.web.reading.seeing import track_of


def test_pictures_are_made_and_fetched(ferry):
    client = ferry.client(ferry.viewer)
    page = client.post(f"/staves/{ferry.stave.pk}/hand-over/pictures").content.decode()
    job = Job.objects.get()
    assert "waiting for its turn" in page
    assert client.get(f"/jobs/{job.pk}/result").status_code == 404
    make_handover(job_id=job.pk)
    answer = client.get(f"/jobs/{job.pk}/result")
    assert answer.headers["Content-Disposition"] == 'attachment; filename="Fog_Marit_pictures.zip"'
    names = zipfile.ZipFile(io.BytesIO(answer.getvalue())).namelist()
    assert f"frames/Marit_{1001 + track_of(ferry.stave)[-1].end - 1:05d}.png" in names
    assert "Fog_Marit_pictures.zip" in client.get(f"/scenes/{ferry.stave.scene_id}/hand-over/").content.decode()


def test_an_unread_stave_has_nothing_to_hand_over(ferry):
    scene = ferry.stave.scene
    unread = stave_for(ferry.owner, scene, create_character(ferry.owner, scene.production, "Pock"))
    page = ferry.client(ferry.owner).post(f"/staves/{unread.pk}/hand-over/video").content.decode()
    assert "read its sound first" in page
    with pytest.raises(TinForkError, match="no such file"):
        actions.ask_for(ferry.owner, ferry.stave, "statue")


def test_a_failure_on_our_side_is_told_and_logged(ferry, monkeypatch):
    job = actions.ask_for(ferry.owner, ferry.stave, "pictures")

    def broken(job, report):
        raise ZeroDivisionError

    monkeypatch.setitem(actions.MAKERS, "pictures", broken)
    with pytest.raises(ZeroDivisionError):
        make_handover(job_id=job.pk)
    job.refresh_from_db()
    assert job.state == "failed"
    assert "Something went wrong on our side" in job.message


def test_what_is_handed_over_is_of_one_moment_though_somebody_edits_meanwhile(ferry, monkeypatch):
    ferry.sound(ferry.owner, "length", frames=2 * planning.AT_ONCE)
    ferry.edit(ferry.owner, "settings", hold=1, lead=0, detail=0.9)
    assert ferry.fresh.unplanned
    plan, edits = (
        planning._plan,
        [lambda: ferry.edit(ferry.owner, "split word", at=[0, 3], sound=1, first="w", second="ent")],
    )

    def meanwhile(placed, frames):
        if edits:
            edits.pop()()
        return plan(placed, frames)

    monkeypatch.setattr(planning, "_plan", meanwhile)
    ready = rendering._ready(ferry.stave.pk)
    assert not edits
    assert [word.text for word in ready.reading.words()] == [word.text for word in scene_reading(ferry.fresh).words()]
    assert ready.placed.stave.version == ferry.fresh.version
    assert ready.exposures == track_of(ferry.fresh)


def test_nothing_at_all_and_stretched_drawings_are_handed_over_as_they_are_seen(ferry):
    assert ferry.edit(ferry.owner, "lay", frame=4, pieces=[[0, 2, ""]]).status_code == 200
    assert ferry.edit(ferry.owner, "stretch", frame=20, frames=4, drawing="open").status_code == 200
    assert ferry.edit(ferry.owner, "bend stretch", frame=20, wide=1.5, tall=2, lean=10).status_code == 200
    job = actions.ask_for(ferry.owner, ferry.stave, "pictures")
    make_handover(job_id=job.pk)
    answer = ferry.client(ferry.viewer).get(f"/jobs/{job.pk}/result")
    with zipfile.ZipFile(io.BytesIO(answer.getvalue())) as pictures:
        shown = {row["frame"]: row for row in csv.DictReader(io.StringIO(pictures.read("exposures.csv").decode()))}
        drawn = {frame: pictures.read(f"frames/Marit_{1001 + frame:05d}.png") for frame in (4, 20, 30)}
    assert (shown["4"]["drawing"], shown["4"]["shape"]) == ("", "")
    assert (shown["20"]["drawing"], shown["20"]["shape"]) == ("open (1.5 x 2, 10°)", "open")
    empty, bent = (np.asarray(Image.open(io.BytesIO(drawn[frame])))[..., 3] for frame in (4, 20))
    assert not empty.any()
    usual = np.asarray(Image.open(io.BytesIO(png(alone(mouth(SHAPES["open"].place, "m")), 720))))[..., 3]
    assert np.count_nonzero(bent) > 1.5 * np.count_nonzero(usual)
