"""Kills the database of a Tin Fork that script/start serves while it edits and reads: script/outage

Every edit that was acknowledged must be there afterwards, and the reading must end by itself within a minute.
"""

import http.cookiejar
import json
import os
import re
import signal
import sys
import time
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path
from typing import Any

WITHIN_SECONDS = 60.0
ROUNDS = 3


class Visitor:
    """The demo's person, with a browser of sorts."""

    def __init__(self, address: str) -> None:
        self._address = address
        self._jar = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._jar))
        self.get("/sign-in/")
        self.post("/demo/", {})

    def get(self, path: str) -> str:
        """A page as text."""
        with self._opener.open(self._address + path, timeout=30) as answer:
            return str(answer.read().decode())

    def post(self, path: str, what: Any, as_json: bool = False) -> str:
        """The answer to a form, or to JSON."""
        token = next(cookie.value for cookie in self._jar if cookie.name == "csrftoken") or ""
        body = json.dumps(what) if as_json else urllib.parse.urlencode(what)
        kind = "application/json" if as_json else "application/x-www-form-urlencoded"
        headers = {"X-CSRFToken": token, "Content-Type": kind, "Referer": self._address}
        request = urllib.request.Request(self._address + path, body.encode(), headers)
        with self._opener.open(request, timeout=60) as answer:
            return str(answer.read().decode())


def main() -> int:
    """Rounds of edits, each with the database killed amid a reading; 1 when anything was lost."""
    visitor = Visitor(f"http://127.0.0.1:{os.environ.get('TINFORK_PORT', '8040')}")
    scene = re.search(r"/scenes/(\d+)/", visitor.get(re.search(r'"(/productions/\d+/)', visitor.get("/"))[1]))[1]  # type: ignore[index]
    desk = visitor.get(f"/scenes/{scene}/reading/")
    address = json.loads(re.search(r'id="desk-document"[^>]*>(.*?)</script>', desk, re.S)[1])["staves"][0]["url"]  # type: ignore[index]
    for number in range(ROUNDS):
        stave = json.loads(visitor.get(address))
        pin = {"verb": "pin", "version": stave["version"], "frame": 4 * number, "frames": 3, "drawing": "purse"}
        acknowledged = json.loads(visitor.post(stave["editUrl"], pin, True))["document"]["version"]
        job = re.search(r'id="job-(\d+)"', visitor.post(f"/scenes/{scene}/script/read", {"all": "1"}))[1]  # type: ignore[index]
        kill_database()
        print(f"round {number + 1}: database killed, answers {status_of(visitor, address)}", end="", flush=True)
        begun = time.monotonic()
        state = wait_for(visitor, f"/jobs/{job}/")
        seconds = time.monotonic() - begun
        after = json.loads(visitor.get(address))
        kept = any(e["pinned"] and e["frame"] == 4 * number for e in after["exposures"])
        print(f", reading {state} after {seconds:.0f} s, edit {acknowledged} {'kept' if kept else 'LOST'}")
        visitor.post(stave["editUrl"], {"verb": "unpin", "version": after["version"], "frame": 4 * number}, True)
        if not kept or state != "done" or seconds > WITHIN_SECONDS:
            return 1
    return 0


def kill_database() -> None:
    """kill -9 of the database's own process."""
    os.kill(int(Path(os.environ["TINFORK_DATA"], "postgres", "postmaster.pid").read_text().split()[0]), signal.SIGKILL)


def status_of(visitor: Visitor, path: str) -> int:
    """What an address answers at the moment."""
    try:
        visitor.get(path)
    except urllib.error.HTTPError as refused:
        return refused.code
    return 200


def wait_for(visitor: Visitor, path: str) -> str:
    """How a job ended; asks until it has."""
    end = time.monotonic() + 2 * WITHIN_SECONDS
    while time.monotonic() < end:
        try:
            page = visitor.get(path)
        except (urllib.error.URLError, ConnectionError):
            page = ""
        for state in ("done", "failed", "cancelled"):
            if f"job-{state}" in page:
                return state
        time.sleep(0.5)
    return "not ended"


if __name__ == "__main__":
    sys.exit(main())
