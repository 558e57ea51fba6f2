"""The whole application, web server and worker, on a database of its own; and a headless Chromium that stays home."""

import fcntl
import os
import shutil

import pytest
from playwright.sync_api import expect, sync_playwright

from tests.browser.application import fresh_database, launch, prepare, running
from tests.speech import speak

expect.set_options(timeout=15_000)

DATABASE = f"tinfork_browser_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}"

# What leaves the page for the loudspeaker also goes to an ear the tests can ask how loud it is.
EAR = """
const connect = AudioNode.prototype.connect;
AudioNode.prototype.connect = function (target, ...rest) {
  if (target instanceof AudioDestinationNode && this.context instanceof AudioContext) {
    window.ear ??= new AnalyserNode(this.context, { fftSize: 2048 });
    connect.call(this, window.ear);
  }
  return connect.call(this, target, ...rest);
};
window.loudness = () => {
  if (!window.ear) return 0;
  const heard = new Float32Array(window.ear.fftSize);
  window.ear.getFloatTimeDomainData(heard);
  return Math.sqrt(heard.reduce((sum, x) => sum + x * x, 0) / heard.length);
};
"""


@pytest.fixture(scope="session")
def application(tmp_path_factory, worker_id):
    """The application, with all its parts. The demo is loaded once for all who test at the same time."""
    own = tmp_path_factory.mktemp("application")
    shared = own if worker_id == "master" else tmp_path_factory.getbasetemp().parent
    folder = shared / "demo"
    with (shared / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            folder.mkdir()
            prepare(folder, "tinfork_demo")
        url = fresh_database(DATABASE, os.environ["TINFORK_DATABASE_URL"], like="tinfork_demo")
    data = shutil.copytree(folder, own / "data")
    with running(data, url) as found:
        yield found


@pytest.fixture(scope="session")
def address(application):
    """Where the application answers."""
    return application.address


@pytest.fixture(scope="session")
def chromium(tmp_path_factory):
    """Debian's Chromium, without a screen or the habit of calling home, and with a recording for a microphone."""
    voice = speak(tmp_path_factory.mktemp("microphone") / "voice.wav")
    arguments = ["--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream"]
    arguments.append(f"--use-file-for-fake-audio-capture={voice}")
    with sync_playwright() as playwright:
        browser = launch(playwright, arguments)
        yield browser
        browser.close()


@pytest.fixture
def page(chromium, address):
    """A page that fails its test on any request to elsewhere, any script error and anything the policy stops."""
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    context.set_default_timeout(30_000)
    context.add_init_script(EAR)
    page = context.new_page()
    wrong = []

    def check(request):
        if not request.url.startswith((address, "data:", "blob:")):
            wrong.append(f"request to {request.url}")

    page.on("request", check)
    page.on("pageerror", lambda error: wrong.append(f"script error: {error}"))
    page.on("console", lambda said: wrong.append(said.text) if "Content Security Policy" in said.text else None)
    yield page
    context.close()
    assert not wrong


@pytest.fixture
def demo(page):
    """The page, signed in as the demo's person."""
    page.goto("/")
    page.get_by_role("button", name="Enter as Demo Animator").click()
    page.wait_for_url("**/")
    return page
