"""The whole application, web server and worker, on a database of its own; and a headless Chromium that stays home."""

import os
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from urllib.parse import urlsplit

import psycopg
import pytest
from playwright.sync_api import expect, sync_playwright

from tests.speech import speak

ROOT = Path(__file__).parents[2]
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


def _fresh_database(url):
    parts = urlsplit(url)
    with psycopg.connect(parts._replace(path="/postgres").geturl(), autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {DATABASE} WITH (FORCE)")
        admin.execute(f"CREATE DATABASE {DATABASE}")
    return parts._replace(path=f"/{DATABASE}").geturl()


def _free_port():
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return one.getsockname()[1]


def _wait_for(address):
    for _ in range(150):
        try:
            with urllib.request.urlopen(address):
                return
        except (urllib.error.URLError, ConnectionError):
            time.sleep(0.2)
    raise TimeoutError(address)


@pytest.fixture(scope="session")
def address(tmp_path_factory):
    """Where the application answers."""
    data = tmp_path_factory.mktemp("application")
    port = _free_port()
    environment = os.environ | {
        "TINFORK_DATA": str(data),
        "TINFORK_DATABASE_URL": _fresh_database(os.environ["TINFORK_DATABASE_URL"]),
        "TINFORK_DEMO": "1",
    }
    manage = [sys.executable, str(ROOT / "manage.py")]
    for command in (["migrate", "--noinput"], ["collectstatic", "--noinput"], ["load_demo"]):
        subprocess.run([*manage, *command], env=environment, check=True, stdout=subprocess.DEVNULL, cwd=ROOT)
    web = [sys.executable, "-m", "gunicorn", "tinfork.web.wsgi", "--bind", f"127.0.0.1:{port}", "--threads", "4"]
    worker = [*manage, "procrastinate", "worker", "--concurrency", "1"]
    log = (data / "log").open("wb")
    running = [
        subprocess.Popen(command, env=environment, cwd=ROOT, stdout=log, stderr=log) for command in (web, worker)
    ]
    try:
        _wait_for(f"http://127.0.0.1:{port}/sign-in/")
        yield f"http://127.0.0.1:{port}"
    finally:
        for process in running:
            process.terminate()
        for process in running:
            process.wait(20)


@pytest.fixture(scope="session")
def chromium(tmp_path_factory):
    """Debian's Chromium, without a screen or the habit of calling home, and with a recording for a microphone."""
    voice = speak(tmp_path_factory.mktemp("microphone") / "voice.wav")
    arguments = ["--disable-background-networking", "--no-first-run", "--disable-gpu", "--disable-component-update"]
    arguments += ["--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream"]
    arguments.append(f"--use-file-for-fake-audio-capture={voice}")
    if os.getuid() == 0:
        arguments.append("--no-sandbox")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=arguments)
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
