"""What lies beneath a scene becomes another: a new mix, another take, another rate; a shot cut in two and joined; a
wait in the middle of a shoot."""

import re
from contextlib import suppress

import numpy as np
import soundfile
from playwright.sync_api import TimeoutError as TookTooLong
from playwright.sync_api import expect

from tests.browser.spare import BREDE_READ
from tests.browser.steps import desk_ready, stave_of, tab_of
from tests.browser.test_board import board_ready, chosen
from tests.speech import LINE, speak


def desk(page, scene):
    page.goto(f"/scenes/{scene}/reading/")
    desk_ready(page)


def pinned(page):
    """The frames on which something is pinned, with what."""
    return [(e["frame"], e["drawing"]) for e in stave_of(page)["exposures"] if e["pinned"]]


def pins(page, frame):
    """Put the mouth at rest on a frame, by keys."""
    page.locator("#staves").focus()
    for key in ("Home", *["ArrowRight"] * frame):
        page.keyboard.press(key)
    with page.expect_response("**/edit"):
        page.keyboard.press("q")


def compares(page, path):
    """Bring another version in and look at what becomes of the old one."""
    page.get_by_label("Its new version, a file").set_input_files(path)
    page.get_by_role("button", name="Compare").click()
    expect(page.get_by_role("img", name="The old sound above")).to_be_visible(timeout=60_000)


def test_a_new_mix_another_take_and_another_rate_take_hand_work_along(demo, scenes, tmp_path):
    page, scene = demo, next(scenes[BREDE_READ])
    samples, rate = soundfile.read(speak(tmp_path / "line.wav"), dtype="float32")
    mix = np.concatenate([np.zeros(rate, np.float32), samples * 0.5])
    soundfile.write(tmp_path / "mix two.wav", mix, rate)
    desk(page, scene)
    pins(page, 20)
    before = pinned(page)
    assert before
    page.goto(f"/scenes/{scene}/changes")
    compares(page, tmp_path / "mix two.wav")
    expect(page.locator(".compared-same")).to_contain_text("moved by +24 frames")
    page.get_by_label("what is new before and after is heard too").check()
    page.get_by_role("button", name="Take the new version").click()
    expect(page.get_by_role("heading", name="Taken")).to_be_visible()
    page.get_by_role("link", name="To the desk").click()
    desk_ready(page)
    assert pinned(page) == [(frame + 24, drawing) for frame, drawing in before]

    page.goto(f"/scenes/{scene}/changes")
    compares(page, speak(tmp_path / "another.wav", LINE, "rms"))
    expect(page.locator(".note").first).to_contain_text("two recordings")
    page.get_by_role("button", name="Take the new version").click()
    page.get_by_role("link", name="To the desk").click()
    desk_ready(page)
    assert [drawing for _, drawing in pinned(page)] == [drawing for _, drawing in before]
    at_24 = pinned(page)

    page.goto(f"/scenes/{scene}/changes")
    page.get_by_label("Frames a second").fill("25")
    page.get_by_role("button", name="Look first").click()
    expect(page.get_by_text("Nothing is changed yet.")).to_be_visible()
    page.get_by_label("Frames a second").fill("25")
    page.get_by_role("button", name="Set both").click()
    expect(page.get_by_text("It is 25 frames a second")).to_be_visible()
    desk(page, scene)
    assert pinned(page) == [(int(frame * 25 / 24 + 0.5), drawing) for frame, drawing in at_24]
    page.locator("#staves").focus()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("first frame is another now")).to_be_visible()
    page.get_by_role("button", name="Load again").click()
    desk_ready(page)
    assert pinned(page) == at_24
    for _ in range(2):
        with page.expect_response("**/edit"):
            page.keyboard.press("Control+z")
    desk(page, scene)
    assert pinned(page) == before


def test_a_shot_is_cut_in_two_and_joined_and_waits_at_the_camera(demo, scenes):
    page, scene = demo, next(scenes[BREDE_READ])
    desk(page, scene)
    pins(page, 40)
    before, name = pinned(page), page.title().split(" · ")[0]
    page.goto("/")
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    board_ready(page)
    chosen(page, name)
    bar = page.get_by_role("region", name="What is done with the shots")
    bar.get_by_role("button", name="Cut…").click()
    page.get_by_label("In two, the second from frame").fill("25")
    page.get_by_role("button", name="Cut it in two").click()
    expect(page.locator("#board-said")).to_contain_text("2 shots made")
    chosen(page, f"{name} A", f"{name} B")
    bar.get_by_role("button", name="Join").click()
    expect(page.locator("#board-said")).to_contain_text("which are put away")
    page.locator(".shot-name", has_text=re.compile(f"^{name} A 2$")).click()
    desk_ready(page)
    assert pinned(page) == before

    tab_of(page, "Prompter").click()
    page.wait_for_selector("#prompter[data-ready=yes]")
    page.get_by_label("Go to frame").fill("30")
    page.get_by_label("Go to frame").press("Tab")
    page.get_by_text("Wait here …").click()
    page.get_by_label("frames", exact=True).fill("8")
    page.get_by_role("button", name="What would move").click()
    expect(page.locator("#wait-told")).to_contain_text("From frame 30 on everything comes 8 frames later")
    with page.expect_event("load"):
        page.get_by_role("button", name="Wait", exact=True).click()
    page.wait_for_selector("#prompter[data-ready=yes]")
    expect(page.locator("#prompter-frame")).to_have_text("30")
    tab_of(page, "Reading").click()
    desk_ready(page)
    assert pinned(page) == [(frame + 8 if frame >= 29 else frame, drawing) for frame, drawing in before]
    tab_of(page, "Prompter").click()
    page.get_by_text("Wait here …").click()
    with page.expect_event("load"):
        page.get_by_role("button", name="Take the last wait back").click()
    # The page hears of it too and is loaded once more, which takes back a press that came before.
    until_there(page, "Reading", re.compile("/reading/"))
    desk_ready(page)
    assert pinned(page) == before


def until_there(page, tab, address):
    """Press a tab until its page comes."""
    for _ in range(4):
        tab_of(page, tab).click()
        with suppress(TookTooLong):
            return page.wait_for_url(address, timeout=8_000)
    raise AssertionError(page.url)
