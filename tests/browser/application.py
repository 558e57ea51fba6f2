"""The whole application, web server and worker, on a database of its own; and Debian's Chromium."""

import os
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlsplit

import psycopg

ROOT = Path(__file__).parents[2]


def _fresh_database(name, url):
    parts = urlsplit(url)
    with psycopg.connect(parts._replace(path="/postgres").geturl(), autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        admin.execute(f"CREATE DATABASE {name}")
    return parts._replace(path=f"/{name}").geturl()


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


@contextmanager
def running(data, database):
    """Serve the demo from a folder and a fresh database of this name; where it answers."""
    port = _free_port()
    environment = os.environ | {
        "TINFORK_DATA": str(data),
        "TINFORK_DATABASE_URL": _fresh_database(database, os.environ["TINFORK_DATABASE_URL"]),
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


def launch(playwright, arguments=()):
    """Debian's Chromium, without a screen or the habit of calling home."""
    always = ["--disable-background-networking", "--no-first-run", "--disable-gpu", "--disable-component-update"]
    if os.getuid() == 0:
        always.append("--no-sandbox")
    return playwright.chromium.launch(executable_path="/usr/bin/chromium", args=[*always, *arguments])
