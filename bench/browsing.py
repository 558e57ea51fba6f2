"""The whole application with its demo, and a page of headless Chromium that has signed in to it, for benchmarks."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from tests.browser.application import Application, launch, prepare, running

PATIENCE_MS = 120_000


@contextmanager
def demo(database: str) -> Iterator[tuple[Page, Application, Path]]:
    """A page at the shelf, the application on a database of its own, and the folder of its data."""
    expect.set_options(timeout=PATIENCE_MS)
    with (
        tempfile.TemporaryDirectory() as folder,
        running(Path(folder), prepare(Path(folder), database)) as application,
        sync_playwright() as playwright,
    ):
        browser = launch(playwright, ["--autoplay-policy=no-user-gesture-required"])
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=application.address)
        page.set_default_timeout(PATIENCE_MS)
        page.goto("/")
        page.get_by_role("button", name="Enter as Demo Animator").click()
        yield page, application, Path(folder)
        browser.close()
