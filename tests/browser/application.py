"""The whole application, web server and worker, on a database of its own; and Debian's Chromium."""

import fcntl
import getpass
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

import psycopg

ROOT = Path(__file__).parents[2]
DEMO = "tinfork_demo"
TABLES = "tinfork_tables"


def fresh_database(name, url, like="template1"):
    """The address of a new database of this name, beside the one at an address: empty, or like another one there."""
    parts = urlsplit(url)
    with psycopg.connect(parts._replace(path="/postgres").geturl(), autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        admin.execute(f"CREATE DATABASE {name} TEMPLATE {like}")
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


@dataclass(frozen=True)
class Application:
    """Where it answers, the number of the process that keeps its parts running, and their environment."""

    address: str
    keeper: int
    environment: dict


@contextmanager
def _made_once(folder):
    """Inside, a folder that is made by whoever asks first, or None where it is there; the others wait for it."""
    being_made = folder.with_name(f"{folder.name} being made")
    with folder.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if folder.exists():
            yield None
        else:
            being_made.mkdir()
            yield being_made
            being_made.rename(folder)


def tables_in(shared):
    """A database with all tables and nothing in them, for all who share a folder; its name."""
    with _made_once(shared / "tables") as folder:
        if folder:
            _manage(folder, fresh_database(TABLES, os.environ["TINFORK_DATABASE_URL"]), "migrate", "--noinput")
    return TABLES


def demo_in(shared):
    """The folder of the demo in a shared one; its database lies beside."""
    with _made_once(shared / "demo") as folder:
        if folder:
            url = prepare(folder, DEMO, tables_in(shared))
            _manage(folder, url, "shell", "-v", "0", "-c", "from tests.browser import spare; spare.make()")
    return shared / "demo"


def prepare(data, database, tables=None):
    """Fill a folder and a fresh database of this name with the demo; the database's address. tables: a database that
    has them already."""
    url = fresh_database(database, os.environ["TINFORK_DATABASE_URL"], tables or "template1")
    if not tables:
        _manage(data, url, "migrate", "--noinput")
    for command in (["collectstatic", "--noinput"], ["load_demo"]):
        _manage(data, url, *command)
    return url


def _manage(data, url, *command):
    command = [sys.executable, str(ROOT / "manage.py"), *command]
    subprocess.run(command, env=environment_of(data, url), check=True, stdout=subprocess.DEVNULL, cwd=ROOT)


def environment_of(data, url):
    """What a process of the application needs to know of its folder and its database."""
    return os.environ | {
        "TINFORK_DATA": str(data),
        "TINFORK_DATABASE_URL": url,
        "TINFORK_DEMO": "1",
        "TINFORK_KEEP_DATABASE": "false",
        "TINFORK_USER": getpass.getuser(),
    }


@contextmanager
def running(data, url):
    """Serve what was prepared in a folder and a database, its parts kept running as script/start does."""
    port, camera, run = _free_port(), _free_port(), tempfile.mkdtemp()
    environment = environment_of(data, url) | {
        "PORT": str(port),
        "TINFORK_BIND": "127.0.0.1",
        "TINFORK_WORKERS": "1",
        "TINFORK_READERS": "1",
        "TINFORK_RUN": run,
        "TINFORK_CAMERA": f"http://127.0.0.1:{camera}",
        "CAMERA_PORT": str(camera),
        "SIMULATED_CAMERA": "true",
    }
    (data / "log").mkdir(exist_ok=True)
    keeper = [sys.executable, "-m", "supervisor.supervisord", "-c", str(ROOT / "script" / "supervisord.conf")]
    with (data / "log" / "parts.log").open("wb") as log:
        process = subprocess.Popen(keeper, env=environment, cwd=ROOT, stdout=log, stderr=log)
    try:
        _wait_for(f"http://127.0.0.1:{port}/sign-in/")
        yield Application(f"http://127.0.0.1:{port}", process.pid, environment)
    finally:
        process.terminate()
        process.wait(30)
        shutil.rmtree(run)


# What its driver turns off, which naming others would turn on again; and two pages that each window makes for what its
# address bar might suggest, half of what a window costs.
NOT_NEEDED = [
    *("PaintHolding", "HttpsUpgrades", "HttpsFirstBalancedModeAutoEnable", "ThirdPartyStoragePartitioning"),
    *("AvoidUnnecessaryBeforeUnloadCheckSync", "AvoidCorsURLLoaderRestartOnRedirect", "DestroyProfileOnBrowserClose"),
    *("LensOverlay", "MediaRouter", "OptimizationHints", "NetworkTimeServiceQuerying", "PreconnectToSearch"),
    *("WebUIOmniboxPopup", "WebUIOmniboxAimPopup"),
]


def launch(playwright, arguments=()):
    """Debian's Chromium, without a screen or the habit of calling home."""
    always = ["--disable-background-networking", "--no-first-run", "--disable-gpu", "--disable-component-update"]
    always.append(f"--disable-features={','.join(NOT_NEEDED)}")
    if os.getuid() == 0:
        # Without a sandbox nothing needs the zygote, which now and then spins and takes all others' time.
        always += ["--no-sandbox", "--no-zygote"]
    return playwright.chromium.launch(executable_path="/usr/bin/chromium", args=[*always, *arguments])
