"""What pages cost in headless Chromium: zooming and panning ten minutes of three tracks, and opening a full chart:
python -m bench.panning (see script/bench)"""

import numpy as np
import soundfile
from playwright.sync_api import Page

from tests.browser.steps import brings, new_scene

from . import charts
from .browsing import demo
from .importing import write_speech_like

_PICTURES = 400

# Turns the wheel on every picture and keeps how long each took: between pictures, and in our own drawing.
TRACE = """(count) => new Promise((done) => {
  const canvas = document.getElementById("tracks");
  const box = canvas.getBoundingClientRect();
  const apart = [], drawn = [];
  let last = performance.now(), n = 0;
  const original = window.requestAnimationFrame;
  window.requestAnimationFrame = (call) => original((now) => {
    const begun = performance.now();
    call(now);
    if (drawn.length) drawn[drawn.length - 1] += performance.now() - begun;
  });
  const turn = (now) => {
    if (n > 0) apart.push(now - last);
    last = now;
    if (n++ >= count) { window.requestAnimationFrame = original; return done({ apart, drawn }); }
    drawn.push(0);
    const zoom = n % 100 < 50;
    const inward = n % 200 < 100 ? -1 : 1;
    canvas.dispatchEvent(new WheelEvent("wheel", {
      ctrlKey: zoom, shiftKey: !zoom, deltaY: zoom ? inward * 40 : 60 * inward,
      clientX: box.x + 500, clientY: box.y + 60, bubbles: true, cancelable: true,
    }));
    original(turn);
  };
  original(turn);
})"""


def main() -> None:
    """Bring three ten-minute recordings in, zoom and pan, and print the trace."""
    with demo("tinfork_bench") as (page, _, folder):
        new_scene(page, "Ten minutes of fog")
        for number, who in enumerate(("Marit", "Brede", "Pock")):
            path = folder / f"{who}.wav"
            write_speech_like(path, 10, channels=1, seed=number)
            samples, rate = soundfile.read(path, dtype="float32")
            soundfile.write(path.with_suffix(".flac"), samples, rate)
            brings(page, path.with_suffix(".flac"), who)
        trace(page)
        page.goto("/")
        charts.page_time(page)


def trace(page: Page) -> None:
    """Print how long pictures took: from one to the next, and of that our own drawing."""
    found = page.evaluate(TRACE, _PICTURES)
    print("Zooming and panning 10 minutes with three tracks, headless Chromium, ms per picture")
    for name, values in (("from one to the next", found["apart"]), ("of that our drawing", found["drawn"])):
        median, p95, worst = np.percentile(values, [50, 95, 100])
        print(f"  {name:<22} median {median:5.1f}   p95 {p95:5.1f}   worst {worst:5.1f}")


if __name__ == "__main__":
    main()
