"""Files that are made to take more than anybody's do: each is a sentence, and the process that asked stays so."""

import io
import resource
import time
import zipfile
import zlib

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from tests.hungry import eat, hurried, sleep
from tests.web.test_charts import drawn
from tinfork.core.errors import BundleError
from tinfork.core.formats import bundle
from tinfork.core.mouths import prepared
from tinfork.web.charts.actions import create_chart
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.files import aside as aside_module
from tinfork.web.files.aside import TooMuchError, aside, in_turn

SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 400">{}</svg>'
SLOW = {
    "octaves": SVG.format(
        '<filter id="f" x="0" y="0" width="1" height="1"><feTurbulence baseFrequency="0.05" numOctaves="2000000"/>'
        '</filter><rect width="400" height="400" filter="url(#f)"/>'
    ),
    "matrices": SVG.format(
        '<filter id="f"><feConvolveMatrix order="300" kernelMatrix="{}"/></filter>'
        '<rect width="400" height="400" filter="url(#f)"/>'.format("1 " * 90_000)
    ),
    "blurs": SVG.format(
        '<filter id="f" x="-9" y="-9" width="19" height="19">'
        + '<feMorphology operator="dilate" radius="300"/>' * 60
        + '</filter><rect width="400" height="400" filter="url(#f)"/>'
    ),
}


def packed(files, method=zipfile.ZIP_DEFLATED):
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", method) as out:
        for name, content in files.items():
            out.writestr(name, content)
    return data.getvalue()


def peak():
    """The most memory this process has held, in MB."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


@pytest.fixture
def chart(ferry):
    return create_chart(ferry.owner, ferry.scene.production, "Odd")


@pytest.fixture
def bring(ferry, chart):
    def send(name, data):
        page = ferry.client(ferry.owner).post(f"/charts/{chart.pk}/bring", {"file": SimpleUploadedFile(name, data)})
        return page.status_code, page.content.decode()

    return send


@pytest.mark.parametrize("kind", SLOW)
def test_what_draws_for_minutes_is_stopped(kind, tmp_path):
    path = tmp_path / "slow.svg"
    path.write_text(SLOW[kind])
    begun = time.monotonic()
    with pytest.raises(TooMuchError, match=r"slow\.svg .*(takes|cannot)"):
        aside(hurried, prepared.PictureSource("slow.svg", path), tmp_path)
    assert time.monotonic() - begun < prepared.SECONDS_A_FILE


def test_what_is_packed_small_takes_no_memory_here(bring, chart):
    bomb = packed({"chart.json": b"[]," * 40_000_000, "a.png": drawn("open").read()})
    huge = io.BytesIO()
    Image.fromarray(np.full((6300, 6300, 4), 200, np.uint8)).save(huge, "PNG")
    before = peak()
    status, page = bring("bomb.zip", bomb)
    assert status == 422
    assert "chart.json is larger than 2 MB" in page
    status, _ = bring("huge.png", huge.getvalue())
    assert status == 302
    status, page = bring("noise.png", b"\x89PNG\r\n\x1a\n" + b"\0" * 1000)
    assert status == 422
    assert peak() < before + 60
    assert chart.drawings.count() == 1


def test_a_damaged_stream_is_a_sentence(bring):
    data = bytearray(packed({"open.png": drawn("open").read() * 3}))
    middle = len(data) // 2
    data[middle : middle + 40] = zlib.compress(b"x" * 40)[:40].ljust(40, b"\xff")
    status, page = bring("damaged.zip", bytes(data))
    assert status == 422
    assert "pack the drawings again" in page or "cannot be opened" in page


def test_memory_and_time_of_what_runs_aside_are_limited():
    assert aside(eat, 1_000_000) == 1_000_000
    with pytest.raises(TooMuchError, match="more memory"):
        aside(eat, 900_000_000, megabytes=300)
    with pytest.raises(TooMuchError, match="too long"):
        aside(sleep, 30, seconds=0.5)


def test_what_is_said_aside_is_said_here(tmp_path):
    (tmp_path / "x.png").write_bytes(b"")
    with pytest.raises(Exception, match=r"x\.png is empty"):
        aside(prepared.one_picture, prepared.PictureSource("x.png", tmp_path / "x.png"), tmp_path)


def test_those_who_would_wait_too_long_are_told(monkeypatch):
    monkeypatch.setattr(aside_module, "_SECONDS_TO_WAIT", 0.2)
    with in_turn():
        with pytest.raises(TooMuchError, match="Others' pictures"), in_turn():
            pass
        aside_module._next.acquire()
        with pytest.raises(TooMuchError, match="just now"), in_turn():
            pass
        aside_module._next.release()
    with in_turn():
        pass


def test_a_bundle_says_no_more_than_a_production_has(tmp_path):
    path = tmp_path / "bundle.zip"
    path.write_bytes(packed({"bundle.json": b'{"bundle": 2, "production": [' + b"[]," * 30_000_000 + b"[]]}"}))
    before = peak()
    with pytest.raises(BundleError), bundle.open_bundle(path):
        pass
    assert peak() < before + 60


def test_a_chart_that_came_with_notes_is_not_doubled_by_a_reload(ferry, chart):
    client = ferry.client(ferry.owner)
    files = [drawn("open"), drawn("open", "again"), drawn("press")]
    first = client.post(f"/charts/{chart.pk}/bring", {"file": files})
    assert first.status_code == 302
    assert "the same picture as" in client.get(first.headers["Location"]).content.decode()
    assert "the same picture as" not in client.get(first.headers["Location"]).content.decode()
    assert ChartDrawing.objects.filter(chart=chart).count() == 2
