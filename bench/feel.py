"""How the desk feels in headless Chromium with ten minutes of three people: python -m bench.feel (see script/bench)"""

import json
import os
import subprocess
import sys
from pathlib import Path

import django
import numpy as np
from playwright.sync_api import Page

from tests.browser.application import ROOT

from .browsing import demo

PICTURES = 300
KEYS = 24
PLAY_SECONDS = 60
SCENE = "Ten minutes of three"
CAST = 3
"""Their heads turn."""

# Moves something on every picture and keeps how far pictures lie apart, and how long our own code took in each.
TRACE = """([what, count]) => new Promise((done) => {
  const canvas = document.getElementById("staves");
  const box = canvas.getBoundingClientRect();
  const apart = [], drawn = [];
  let last = performance.now(), n = 0;
  const original = window.requestAnimationFrame;
  window.requestAnimationFrame = (call) => original((now) => {
    const begun = performance.now();
    call(now);
    if (drawn.length) drawn[drawn.length - 1] += performance.now() - begun;
  });
  const y = box.y + Number(canvas.dataset.ribbon);
  const pointer = (type, x, buttons) => canvas.dispatchEvent(new PointerEvent(type, {
    pointerId: 1, clientX: box.x + x, clientY: y, buttons, bubbles: true, cancelable: true, isPrimary: true,
  }));
  if (what === "drag") { canvas.setPointerCapture = () => {}; pointer("pointerdown", 400, 1); }
  const turn = (now) => {
    if (n > 0) apart.push(now - last);
    last = now;
    if (n++ >= count) {
      window.requestAnimationFrame = original;
      if (what === "drag") document.dispatchEvent(new KeyboardEvent("keydown", { key: "Escape", bubbles: true }));
      return done({ apart, drawn });
    }
    const begun = performance.now();
    drawn.push(0);
    const inward = n % 200 < 100 ? -1 : 1;
    if (what === "drag") pointer("pointermove", 400 + 150 * Math.sin(n / 15), 1);
    else canvas.dispatchEvent(new WheelEvent("wheel", {
      ctrlKey: what === "zoom", shiftKey: what === "scroll", deltaY: what === "zoom" ? inward * 40 : 60 * inward,
      clientX: box.x + 500, clientY: y, bubbles: true, cancelable: true,
    }));
    drawn[drawn.length - 1] += performance.now() - begun;
    original(turn);
  };
  original(turn);
})"""

# Scrolls the sheet on every picture, down and up again, and keeps the same of it.
SCROLL = """(count) => new Promise((done) => {
  const sheet = document.getElementById("sheet");
  const apart = [], drawn = [];
  let last = performance.now(), n = 0, empty = 0, seen = 0;
  const original = window.requestAnimationFrame;
  window.requestAnimationFrame = (call) => original((now) => {
    const begun = performance.now();
    call(now);
    drawn.push(performance.now() - begun);
  });
  const turn = (now) => {
    if (n > 0) apart.push(now - last);
    last = now;
    const box = sheet.getBoundingClientRect();
    const there = document.elementFromPoint(box.x + 30, box.y + box.height - 30);
    seen += 1;
    if (!there?.closest("[data-row]")) empty += 1;
    if (n++ >= count) {
      window.requestAnimationFrame = original;
      return done({ apart, drawn, empty, seen, rows: Number(sheet.getAttribute("aria-rowcount")) });
    }
    sheet.scrollTop += n < (2 * count) / 3 ? 97 : -151;
    original(turn);
  };
  original(turn);
})"""

# Presses a key on one exposure after the other and waits until the mirror shows another drawing.
PRESS = """(count) => new Promise((done) => {
  const took = [];
  const mirror = document.getElementById("mirror");
  const how = { bubbles: true, cancelable: true };
  const press = (key) => document.body.dispatchEvent(new KeyboardEvent("keydown", { key, ...how }));
  const next = () => {
    if (took.length >= count) return done(took);
    press("n");
    setTimeout(() => {
      const shown = mirror.dataset.drawing;
      const begun = performance.now();
      const late = setTimeout(() => { seen.disconnect(); next(); }, 1500);  // It was that drawing already.
      const seen = new MutationObserver(() => {
        if (mirror.dataset.drawing === shown) return;
        clearTimeout(late);
        seen.disconnect();
        requestAnimationFrame(() => { took.push(performance.now() - begun); setTimeout(next, 120); });
      });
      seen.observe(mirror, { attributes: true });
      press("4");
    }, 60);
  };
  next();
})"""

# While it plays: how far the time that is shown lies from where the page's own clock says it should be.
PLAY = """(seconds) => new Promise((done) => {
  const desk = document.getElementById("desk");
  const points = [];
  const look = (now) => {
    points.push([now / 1000, Number(desk.dataset.time), Number(desk.dataset.frame)]);
    if (now / 1000 - points[0][0] < seconds) requestAnimationFrame(look);
    else done(points);
  };
  requestAnimationFrame(look);
})"""


# While it plays: how far pictures lie apart, and how long our own code took in each.
APART = """(seconds) => new Promise((done) => {
  const apart = [], drawn = [];
  const first = performance.now();
  let last = first;
  const original = window.requestAnimationFrame;
  window.requestAnimationFrame = (call) => original((now) => {
    const begun = performance.now();
    call(now);
    drawn.push(performance.now() - begun);
  });
  const look = (now) => {
    apart.push(now - last);
    last = now;
    if (now - first < seconds * 1000) return original(look);
    window.requestAnimationFrame = original;
    done({ apart: apart.slice(1), drawn });
  };
  original(look);
})"""


def main() -> None:
    """Build the scene, look, move, press and play, and print the table."""
    with demo("tinfork_feel") as (page, application, folder):
        building = [sys.executable, "-m", "bench.feel", "build", str(folder)]
        subprocess.run(building, env=application.environment, check=True, cwd=ROOT)
        page.get_by_text("The Salt Ferry").first.click()
        page.get_by_text(SCENE).click()
        measure(page)
        measure_sheet(page)
        measure_acting(page)


def measure(page: Page) -> None:
    """Everything there is to be felt on the desk that is open."""
    page.locator("#desk[data-ready=yes]").wait_for()
    address = page.url
    print(f"{'':<34}{'p50 ms':>8}{'p95 ms':>8}{'worst':>8}")
    views = []
    for _ in range(5):
        page.goto(address)
        page.locator("#desk[data-ready=yes]").wait_for()
        views.append(page.evaluate("performance.getEntriesByName('first view')[0].startTime"))
    row("first useful view", views)
    page.locator("#desk[data-whole=yes]").wait_for()
    page.wait_for_timeout(3000)
    for _ in range(12):
        page.keyboard.press("ArrowRight")
    for what in ("scroll", "zoom", "drag"):
        trace = page.evaluate(TRACE, [what, PICTURES])
        row(f"{what}: between pictures", trace["apart"])
        row(f"{what}: our own code", trace["drawn"])
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    row("key to changed mirror", page.evaluate(PRESS, KEYS))
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    page.keyboard.press("Space")
    page.wait_for_timeout(1500)
    points = np.array(page.evaluate(PLAY, PLAY_SECONDS))
    clock, shown = points[:, 0] - points[0, 0], points[:, 1] - points[0, 1]
    off = np.abs(shown - clock - np.median(shown - clock)) * 1000
    row(f"{PLAY_SECONDS} s of play: off the clock", off.tolist())
    frames = points[:, 2].astype(int)
    late = np.abs(points[:, 1] * 24 - frames - 0.5) > 0.51
    print(f"pictures {len(points)}, of another frame than their time {int(late.sum())}, frames passed over ", end="")
    print(f"{int((np.diff(frames) > 1).sum())}")


def measure_acting(page: Page) -> None:
    """How the lanes of the scene that is open move, close up and zoomed out, with one face in the mirror and with
    all."""
    page.goto(page.url.replace("/sheet/", "/acting/"))
    page.wait_for_selector("#acting[data-ready=yes]")
    page.wait_for_timeout(3000)
    for what in ("scroll", "zoom"):
        row(f"acting, {what}: between pictures", page.evaluate(TRACE, [what, PICTURES])["apart"])
    page.get_by_role("button", name="All", exact=True).click()
    page.locator("#staves").focus()
    measure_play(page, "play of all")
    page.keyboard.press("0")
    trace = page.evaluate(TRACE, ["zoom", PICTURES])
    row("acting, all of it: between pictures", trace["apart"])
    row("acting, all of it: our own code", trace["drawn"])
    page.keyboard.press("0")
    measure_play(page, "play, all of it")


def measure_play(page: Page, name: str) -> None:
    """How the Acting view that is open plays from the beginning."""
    page.keyboard.press("Home")
    page.keyboard.press("Space")
    page.wait_for_timeout(1500)
    trace = page.evaluate(APART, PLAY_SECONDS // 3)
    row(f"acting, {name}: between pictures", trace["apart"])
    row(f"acting, {name}: our own code", trace["drawn"])
    page.keyboard.press("Space")


def measure_sheet(page: Page) -> None:
    """How the exposure sheet of the scene that is open scrolls."""
    page.goto(page.url.replace("/reading/", "/sheet/"))
    page.wait_for_selector("#sheet[data-ready=yes]")
    page.wait_for_timeout(2000)
    trace = page.evaluate(SCROLL, PICTURES)
    row(f"sheet of {trace['rows']} rows: between pictures", trace["apart"])
    row("sheet: our own code", trace["drawn"])
    print(f"rows that were still empty when they were seen: {trace['empty']} of {trace['seen']}")


def row(name: str, took: list[float]) -> None:
    """One line of the table."""
    p50, p95, worst = np.percentile(took, [50, 95, 100])
    print(f"{name:<34}{p50:8.1f}{p95:8.1f}{worst:8.1f}", flush=True)


def build(folder: str) -> None:
    """The scene, in the application's database."""
    django.setup()
    from django.contrib.auth.models import User  # noqa: PLC0415

    from bench.edits import speaks  # noqa: PLC0415
    from tinfork.web.acting.gesturing import propose  # noqa: PLC0415
    from tinfork.web.acting.models import acting_of  # noqa: PLC0415
    from tinfork.web.productions.actions import create_scene  # noqa: PLC0415
    from tinfork.web.productions.models import Production  # noqa: PLC0415
    from tinfork.web.staves.models import Stave  # noqa: PLC0415
    from tinfork.web.staves.mouths import face_shown  # noqa: PLC0415
    from tinfork.web.staves.planning import planned  # noqa: PLC0415

    person, production = User.objects.get(username="demo-animator"), Production.objects.get(name="The Salt Ferry")
    scene = create_scene(person, production, SCENE, "24", "1")
    for who in [one for one in production.characters.all() if face_shown(one).slides][:CAST]:
        speaks(person, scene, who, Path(folder), clips=1)
    for stave in Stave.objects.filter(scene=scene):
        acting = acting_of(scene, stave.character)
        propose(person, acting, acting.version, [], [])
    counts = {str(s.character): len(planned(s).stave.track.exposures()) for s in Stave.objects.filter(scene=scene)}
    print(f"Ten minutes at 24 fps: {json.dumps(counts)} exposures", flush=True)


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.web.settings")
    build(sys.argv[2]) if sys.argv[1:2] == ["build"] else main()
