"""The whole application, web server and worker, on a database of its own; and a headless Chromium that stays home."""

import os
import shutil

import pytest
from playwright.sync_api import expect, sync_playwright

from tests.browser import spare
from tests.browser.application import DEMO, fresh_database, launch, running
from tests.speech import speak

expect.set_options(timeout=15_000)

PASSWORD = "fog over the pier 9"
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
def application(demo_folder, tmp_path_factory):
    """The application, with all its parts, on a demo of its own."""
    data = shutil.copytree(demo_folder.result(), tmp_path_factory.mktemp("application") / "data")
    url = fresh_database(DATABASE, os.environ["TINFORK_DATABASE_URL"], like=DEMO)
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


@pytest.fixture(scope="session")
def scenes(application):
    """The numbers of scenes that lie ready, by what they are; each is taken once."""
    ready = spare.listed(application.environment["TINFORK_DATA"])
    return {what: iter(numbers) for what, numbers in ready.items()}


@pytest.fixture(scope="session")
def context(chromium, address):
    """Where all pages are opened; what they fetched once stays known, as it does in anybody's browser."""
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    context.set_default_timeout(30_000)
    context.add_init_script(EAR)
    return context


@pytest.fixture
def page(context, address):
    """A page of nobody that fails its test on requests to elsewhere, script errors and what the policy stops, in any
    tab."""
    page = context.new_page()
    kept = context.new_cdp_session(page)
    kept.send("Storage.clearDataForOrigin", {"origin": address, "storageTypes": "cookies,local_storage"})
    wrong = []

    def asked(request):
        if not request.url.startswith((address, "data:", "blob:")):
            wrong.append(f"request to {request.url}")

    def failed(error):
        wrong.append(f"script error: {error.error}")

    def said(message):
        if "Content Security Policy" in message.text:
            wrong.append(message.text)

    listeners = {"request": asked, "weberror": failed, "console": said}
    for event, listener in listeners.items():
        context.on(event, listener)
    yield page
    for one in context.pages:
        one.close()
    for event, listener in listeners.items():
        context.remove_listener(event, listener)
    assert not wrong


@pytest.fixture(scope="session")
def signed_in():
    """The cookies of who signed in first; the other tests go on with them."""
    return []


@pytest.fixture
def demo(page, signed_in):
    """The page, signed in as the demo's person, at the shelf."""
    if signed_in:
        page.context.add_cookies(signed_in)
        page.goto("/")
        return page
    page.goto("/")
    page.get_by_role("button", name="Enter as Demo Animator").click()
    page.wait_for_url("**/")
    signed_in += page.context.cookies()
    return page


@pytest.fixture
def guests(chromium, address):
    """Browsers of people who are invited by a link, each at a size of its own."""
    made = []

    def joined(link, name, size):
        context = chromium.new_context(viewport=dict(zip(("width", "height"), size, strict=True)), base_url=address)
        made.append(context)
        page = context.new_page()
        page.goto(link)
        page.get_by_label("Your name, to sign in with").fill(name)
        page.get_by_label("A password").fill(PASSWORD)
        page.get_by_label("The password once more").fill(PASSWORD)
        page.get_by_role("button", name="Join").click()
        page.wait_for_selector("#board-page[data-ready]")
        return page

    yield joined
    for context in made:
        context.close()
