"""A part that is killed is started again by itself, the other goes on, and nothing that was acknowledged is lost."""

import os
import signal
import subprocess
import time

from playwright.sync_api import Error, expect

from tests.browser.steps import desk_ready, its_job_is_done, stave_of, view


def parts(application):
    """The numbers of the processes that are kept running, by what they are."""
    listed = subprocess.run(
        ["ps", "-ww", "-o", "pid=,args=", "--ppid", str(application.keeper)],
        capture_output=True,
        text=True,
        check=True,
    ).stdout.splitlines()
    signs = {"web": "gunicorn", "stream": "uvicorn", "worker": "manage.py work waited-for", "front": "nginx: master"}
    return {name: int(line.split()[0]) for line in listed for name, sign in signs.items() if sign in line}


def all_of(application, seconds=60):
    """The numbers of the parts, once all of them run."""
    end = time.monotonic() + seconds
    while len(running := parts(application)) < 4:
        assert time.monotonic() < end, f"only these run: {running}"
        time.sleep(0.2)
    return running


def again(application, name, before, seconds=60):
    """Wait until a part runs under another number than before."""
    end = time.monotonic() + seconds
    while all_of(application)[name] == before[name]:
        assert time.monotonic() < end, f"{name} was not started again"
        time.sleep(0.2)


def settled(page, seconds=60):
    """Wait until the old server's children are gone and the new one answers, time after time."""
    end = time.monotonic() + seconds
    answered = 0
    while answered < 8:
        assert time.monotonic() < end, "the web server does not answer"
        try:
            answered = answered + 1 if page.request.get("/sign-in/").ok else 0
        except Error:
            answered = 0
        time.sleep(0.25)


def test_a_killed_part_comes_back_while_the_other_goes_on(demo, application):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("1 · Fog").click()
    desk_ready(page)
    page.locator("#staves").click(position={"x": 250, "y": 10})
    page.get_by_role("button", name="exposure ▸").click()
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Pin", exact=True).click()
    edited = stave_of(page)

    before = all_of(application)
    os.kill(before["web"], signal.SIGKILL)
    again(application, "web", before)
    settled(page)
    assert all_of(application)["worker"] == before["worker"]
    assert stave_of(page)["version"] == edited["version"]
    assert stave_of(page)["exposures"] == edited["exposures"]

    # What tells pages of changes: another page hears again of what is done after it was killed.
    other = page.context.new_page()
    other.goto(page.url)
    desk_ready(other)
    before = all_of(application)
    os.kill(before["stream"], signal.SIGKILL)
    again(application, "stream", before)
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Undo").click()
    expect(other.get_by_role("alert").filter(has_text="changed elsewhere")).to_be_visible(timeout=30_000)
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Redo").click()
    other.close()

    view(page, "Script")
    with page.expect_response("**/script/read") as asked:
        page.get_by_role("button", name="Read all again").click()
    before = all_of(application)
    os.kill(before["worker"], signal.SIGKILL)
    again(application, "worker", before)
    assert all_of(application)["web"] == before["web"]
    its_job_is_done(page, asked.value)
    view(page, "Reading")
    desk_ready(page)
    after = stave_of(page)
    assert [line["text"] for line in after["lines"]] == [line["text"] for line in edited["lines"]]
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Undo").click()
