"""Whatever is sent to whatever takes files: broken in any place, cut off, longer, or another kind than it says, it is
taken or refused with a sentence, and a bundle by its worker too."""

import io
import json
import wave
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from tests.web.test_charts import drawn
from tests.web.test_hostile_files import SVG
from tinfork.web.bundles import outgoing
from tinfork.web.bundles.tasks import bring_in_bundle
from tinfork.web.charts.actions import bring_in, create_chart
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.staves.models import Stave


def tone():
    out = io.BytesIO()
    with wave.open(out, "wb") as sound:
        sound.setparams((1, 2, 16_000, 0, "NONE", ""))
        sound.writeframes(bytes(range(256)) * 40)
    return out.getvalue()


def chart_zip():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("open.png", drawn("open").read())
        packed.writestr("chart.json", json.dumps({"drawings": [{"picture": "open.png", "mood": "glad"}]}))
    return out.getvalue()


SHAPE = '<g id="a"><rect width="300" height="200" fill="#c33"/></g><g id="b"><circle cx="200" cy="200" r="90"/></g>'
SEEDS = {
    "sound.wav": tone(),
    "open.png": drawn("open").read(),
    "open.svg": SVG.format(SHAPE).encode(),
    "chart.zip": chart_zip(),
    "lines.srt": b"1\n00:00:01,000 --> 00:00:02,000\nMarit: Fog &#8212; lifts.\n",
    "lines.vtt": b"WEBVTT\n\n00:01.000 --> 00:02.000\n<v Marit>Fog <00:01.500>lifts\n",
    "timing.json": json.dumps({"fps": "24", "exposures": [{"frame": 0, "frames": 4, "drawing": "open"}]}).encode(),
    "timing.csv": b"frame,frames,drawing\r\n0,4,open\r\n4,2,press\r\n",
    "timing.otio": b'{"OTIO_SCHEMA": "Timeline.1", "tracks": {"OTIO_SCHEMA": "Stack.1", "children": []}}',
    "reading.json": json.dumps({"tinfork_reading": 1, "lines": [{"text": "Fog", "words": []}]}).encode(),
    "reading.csv": b"line,line_text,word,word_text,ipa,start,end\n1,Fog,1,Fog,f,0.1,0.2\n",
    "words.csv": "word,language,ipa\nboot,en,buːt\n".encode(),
    "words.txt": b"MARIT\nFog lifts.\n",
}
ADDRESSES = {
    "/scenes/{scene}/sound/bring": "sound",
    "/scenes/{scene}/sound/take": "sound",
    "/productions/{production}/start": "sound",
    "/scenes/{scene}/script/import": "file",
    "/productions/{production}/lexicon/import": "file",
    "/charts/{chart}/bring": "file",
    "/drawings/{drawing}/change": "file",
    "/characters/{character}/face/bring": "file",
    "/scenes/{scene}/hand-over/picture": "picture",
    "/staves/{stave}/bring": "file",
    "/staves/{stave}/timing": "file",
    "/bundles/": "bundle",
}
PIECES = [
    *(b"", b"\0" * 64, b"\xff" * 9, b"9" * 5_000, b"[" * 3_000, b"&#" + b"9" * 5_000 + b";", b"\r", b"\r\n\r\n"),
    *(b"1e8000000", b'"', b"<", b"..", b"NaN", b"-1", "\ud7ff".encode(), b"\xed\xa0\x80", b"x" * 140_000),
]


@st.composite
def broken(draw):
    """A file of some kind, under a name, changed in some places."""
    kind = draw(st.sampled_from([*SEEDS, "bundle.zip"]))
    changes = draw(st.lists(st.tuples(st.floats(0, 1), st.integers(0, 60), st.sampled_from(PIECES)), max_size=3))
    cut = draw(st.none() | st.floats(0, 1))
    name = draw(st.sampled_from([kind, kind, kind, *SEEDS, "../up.wav", "\u202e.png"]))
    return kind, name, changes, cut


def changed(data, changes, cut):
    for where, many, piece in changes:
        at = int(where * len(data))
        data = data[:at] + piece + data[at + many :]
    return data if cut is None else data[: int(cut * len(data))]


@pytest.fixture
def places(ferry, tmp_path):
    chart = create_chart(ferry.owner, ferry.scene.production, "Odd")
    bring_in(ferry.owner, chart, [drawn("open")])
    outgoing.write(tmp_path / "bundle.zip", ferry.scene.production, None)
    return {
        "bundle": tmp_path / "bundle.zip",
        "scene": ferry.scene.pk,
        "production": ferry.scene.production_id,
        "chart": chart.pk,
        "drawing": ChartDrawing.objects.get().pk,
        "character": ferry.stave.character_id,
        "stave": ferry.stave.pk,
    }


@pytest.mark.slow
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.sampled_from(sorted(ADDRESSES)), broken(), st.sampled_from(["", "layers", "gaps", "grid"]))
@example("/staves/{stave}/timing", ("timing.json", "timing.json", [(0.3, 2, b"9" * 5_000)], None), "")
@example("/staves/{stave}/timing", ("timing.csv", "timing.csv", [(0.55, 2, b"\r")], None), "")
@example("/staves/{stave}/timing", ("timing.csv", "timing.csv", [(0.9, 0, b"x" * 140_000)], None), "")
@example("/scenes/{scene}/script/import", ("lines.srt", "lines.srt", [(0.8, 0, b"&#" + b"9" * 5_000 + b";")], None), "")
@example("/charts/{chart}/bring", ("chart.zip", "chart.zip", [(0.3, 20, b"\xff" * 9)], None), "")
@example("/bundles/", ("bundle.zip", "bundle.zip", [(0.5, 20, b"\xff" * 9)], None), "")
def test_no_upload_fails_whatever_it_holds(ferry, places, address, file, cut_as):
    kind, name, changes, cut = file
    data = changed(SEEDS.get(kind) or places["bundle"].read_bytes(), changes, cut)
    upload = SimpleUploadedFile("a", data)
    upload.name = name
    version = str(Stave.objects.get(pk=places["stave"]).version)
    form = {"version": version, "character": str(places["character"]), "who": "Marit", "do": "replace", "name": ""}
    form |= {"cut": cut_as, "columns": "2", "rows": "2", "start": "0", "key": "0" * 32}
    url = address.format(**places)
    answer = ferry.client(ferry.owner).post(url, form | {ADDRESSES[address]: upload})
    assert answer.status_code < 500
    for job in Job.objects.filter(kind="bring-in", state=Job.State.WAITING):
        bring_in_bundle(job_id=job.pk)
        job.refresh_from_db()
        assert job.state in (Job.State.DONE, Job.State.FAILED)
        assert "our side" not in job.message
    Scene.everything.exclude(pk=places["scene"]).filter(production=places["production"]).delete()
    Job.objects.all().delete()
