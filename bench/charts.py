"""What charts cost: planning with few drawings and many, measuring pictures, a chart's page in headless Chromium."""

import random
import tempfile
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Settings
from tinfork.core.formats import chart_folder
from tinfork.core.mouths.chart import Chart, Drawing, built_in
from tinfork.core.mouths.draw import STYLES, alone, styled
from tinfork.core.mouths.raster import png
from tinfork.core.mouths.shapes import SHAPES, Articulation
from tinfork.core.speech import read

from . import sentences, truth
from .planning import FPS, TEN_MINUTES, repeated

MANY = 60
ON_A_PAGE = 120
SIDE = 1_000
_SPREAD = 0.12


def table() -> None:
    """The engine's part."""
    line = truth.flite(sentences.ENGLISH[0], "slt")
    sounds = repeated(read.read(line.recording, line.text).sounds(), line.recording.seconds)
    shape = curves.curves(sounds, TEN_MINUTES, FPS)
    many = Chart(tuple(Drawing(f"drawing {number}", place) for number, place in enumerate(places(MANY))))
    plan.plan(curves.curves(sounds[:50], 5.0, FPS), built_in(), Settings())
    for name, chart in (("13 drawings", built_in()), (f"{MANY} drawings", many)):
        took(f"10 minutes planned with {name}", lambda chart=chart: plan.plan(shape, chart, Settings()))
    pictures = {f"drawing {number}.png": drawn(place) for number, place in enumerate(places(MANY))}
    took(f"{MANY} pictures of {SIDE}x{SIDE} opened and measured", lambda: chart_folder.read(pictures))


def took(what: str, do: Callable[[], object]) -> None:
    """A row: how long something took."""
    begun = time.perf_counter()
    do()
    print(f"{what:<48}{time.perf_counter() - begun:7.2f} s", flush=True)


def places(count: int) -> list[Articulation]:
    """Return places all around the thirteen shapes."""
    draw = random.Random(4)
    known = [shape.place for shape in SHAPES.values()]
    found = []
    for number in range(count):
        near = known[number % len(known)]
        found.append(tuple(min(1.0, max(0.0, value + draw.uniform(-_SPREAD, _SPREAD))) for value in near))
    return found


def drawn(place: Articulation, side: int = SIDE) -> bytes:
    """Return a mouth as a square PNG."""
    svg = alone(styled(place, "m", STYLES["plank"])).replace('viewBox="-90 -60 180 150"', 'viewBox="-90 -75 180 180"')
    return png(svg, side)


def page_time(page: Page) -> None:
    """How long until a shape of a full chart can be pressed and its drawings chosen from."""
    page.get_by_text("The Salt Ferry").first.click()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_placeholder("Chart").fill("As many as there may be")
    page.get_by_role("button", name="New chart").click()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "drawings.zip"
        with zipfile.ZipFile(path, "w") as packed:
            for number, place in enumerate(places(ON_A_PAGE)):
                packed.writestr(f"drawing {number}.png", drawn(place))
        page.locator("#drawing-files").set_input_files(path)
        page.get_by_role("button", name="Bring in").click()
        page.locator(".drawing").nth(ON_A_PAGE - 1).wait_for()
        page.wait_for_load_state("networkidle")
    for _ in range(3):
        _opened_twice(page)


def _opened_twice(page: Page) -> None:
    """Rows: the page in a browser that knows nothing yet, and once more."""
    browser, address = page.context.browser, page.url
    assert browser is not None
    fresh = browser.new_context(storage_state=page.context.storage_state()).new_page()
    took(f"page of {ON_A_PAGE} drawings until one can be chosen", lambda: _chosen(fresh, address))
    fresh.wait_for_load_state("networkidle")
    took("  again", lambda: _chosen(fresh, address))


def _chosen(page: Page, address: str) -> None:
    page.goto(address, wait_until="commit")
    page.get_by_role("button", name="half", exact=True).click()
    page.locator(".choose-drawing").wait_for()
