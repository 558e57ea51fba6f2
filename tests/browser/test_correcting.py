"""Correcting a reading on the desk: what is dragged is pinned and stays; doubtful words; another person's edit."""

import json
import re

import pytest
from playwright.sync_api import expect

from tests.browser.spare import MARIT_READ
from tests.browser.steps import brings, desk_ready, new_scene, reads, room_ready, stave_of, view
from tests.speech import LINE, speak

FPS = 24


def words_of(page):
    return [word for line in stave_of(page)["lines"] for word in line["words"]]


def lane(page, name, seconds):
    """Where a moment lies in a lane of the active stave, on the page."""
    box = page.locator("#staves").bounding_box()
    drawn = page.locator("#staves").evaluate("canvas => ({...canvas.dataset})")
    x = (seconds * FPS - float(drawn["left"])) * float(drawn["perFrame"])
    return box["x"] + x, box["y"] + float(drawn[name])


def drags(page, name, seconds, by):
    """Drag what lies in a lane by seconds, and wait until the desk has the answer."""
    x, y = lane(page, name, seconds)
    to, _ = lane(page, name, seconds + by)
    with page.expect_response("**/edit"):
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move((x + to) / 2, y, steps=4)
        page.mouse.move(to, y, steps=4)
        page.mouse.up()


def read_again(page, button):
    with page.expect_response("**/reading/read"):
        page.get_by_role("button", name=button).click()
    expect(page.locator("#desk")).to_have_attribute("data-reading", "no", timeout=60_000)


@pytest.fixture
def desk(demo, scenes):
    """Marit's line, read, on the desk."""
    demo.goto(f"/scenes/{next(scenes[MARIT_READ])}/reading/")
    desk_ready(demo)
    return demo


def test_a_dragged_seam_is_pinned_and_survives_every_reading(desk):
    page = desk
    before = words_of(page)
    seam = before[4]["start"]
    drags(page, "words", seam, 0.08)
    moved = words_of(page)
    assert moved[4]["start"] == pytest.approx(seam + 0.08, abs=0.005)
    assert moved[3]["end"] == moved[4]["start"]
    assert moved[4]["end"] == before[4]["end"]
    assert moved[:3] == before[:3]
    assert moved[5:] == before[5:]
    expect(page.locator("#dock-word")).to_contain_text("set by hand")

    read_again(page, "Read line")
    after = words_of(page)
    assert after[4]["start"] == moved[4]["start"]
    assert after[4]["pinned"] == [0]

    view(page, "Script")
    reads(page, "Read all again")
    view(page, "Reading")
    desk_ready(page)
    assert words_of(page)[4]["start"] == moved[4]["start"]
    while words_of(page)[4]["start"] != seam:
        expect(page.get_by_role("button", name="Undo")).to_have_attribute(
            "title", re.compile("Undo: (read|move a seam)")
        )
        with page.expect_response("**/edit"):
            page.get_by_role("button", name="Undo").click()


def test_what_is_inside_a_moved_seam_is_read_again_when_asked(desk):
    page = desk
    page.mouse.click(*lane(page, "words", words_of(page)[3]["start"] + 0.05))
    page.get_by_label("when a seam moves, read again").check()
    with page.expect_response("**/reading/read"):
        drags(page, "words", words_of(page)[3]["start"], 0.05)
    expect(page.locator("#desk")).to_have_attribute("data-reading", "no", timeout=60_000)
    document = stave_of(page)
    assert document["undo"]
    with page.expect_response("**/edit"):
        page.keyboard.press("Control+z")
    once = stave_of(page)
    assert once["lines"][0]["words"][3]["pinned"] == [0]
    with page.expect_response("**/edit"):
        page.keyboard.press("Control+z")
    assert not any(word["pinned"] for word in words_of(page))


def test_sounds_are_changed_by_picker_and_words_go_by_key(desk):
    page = desk
    word = words_of(page)[1]
    page.mouse.click(*lane(page, "sounds", sum(word["sounds"][0][1:3]) / 2))
    expect(page.locator("#desk")).to_have_attribute("data-word", "0.1")
    page.get_by_label("IPA signs").select_option("m")
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Change").click()
    assert words_of(page)[1]["sounds"][0][0] == "m"
    with page.expect_response("**/edit"):
        page.keyboard.press("j")
    assert words_of(page)[1]["text"] == "left boot"
    with page.expect_response("**/edit"):
        page.keyboard.press("Delete")
    assert not words_of(page)[1]["said"]
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Unpin", exact=True).click()
    for _ in range(4):
        with page.expect_response("**/edit"):
            page.keyboard.press("Control+z")
    assert words_of(page)[1]["text"] == "left"


def test_a_word_that_was_not_said_is_doubtful_first_and_can_be_settled(desk):
    page = desk
    view(page, "Script")
    line = page.get_by_role("textbox", name="Line 1", exact=True)
    with page.expect_response("**/script/edit"):
        line.fill(LINE.replace("overboard", "yesterday overboard"))
        line.press("Tab")
    reads(page)
    view(page, "Reading")
    desk_ready(page)
    assert [word["text"] for word in words_of(page) if not word["said"]] == ["yesterday"]
    page.keyboard.press("d")
    expect(page.locator("#dock-word")).to_contain_text("written, but not heard")
    page.get_by_role("tab", name="Doubtful").click()
    first = page.locator("#dock-doubts button").first
    expect(first).to_contain_text("yesterday")
    with page.expect_response("**/edit"):
        page.keyboard.press("Enter")
    expect(page.locator("#dock-doubts")).not_to_contain_text("yesterday")


def test_an_edit_on_what_changed_meanwhile_is_refused_and_can_be_done_again(desk):
    page = desk
    page.route("**/versions", lambda route: route.abort())  # or it might learn of the change in time
    approved_elsewhere(page, 4)
    seam = words_of(page)[4]["start"]
    drags(page, "words", seam, 0.08)
    expect(page.locator("#problem")).to_contain_text("changed meanwhile (looks right, by")
    assert words_of(page)[4]["start"] == seam
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Do it again on what is there now").click()
    assert words_of(page)[4]["start"] == pytest.approx(seam + 0.08, abs=0.005)
    assert words_of(page)[4]["decided"]
    expect(page.locator("#problem")).to_be_hidden()


def approved_elsewhere(page, place):
    """Approve a word of the first line as another tab does, which the page does not hear of."""
    stave = stave_of(page)
    token = page.locator("body").get_attribute("hx-headers")
    answer = page.request.post(
        stave["editUrl"],
        data={"verb": "approve", "version": stave["version"], "at": [0, place]},
        headers={**json.loads(token), "Referer": page.url},
    )
    assert answer.status == 200


def test_an_edit_of_something_else_comes_on_top_of_what_changed_meanwhile(desk):
    page = desk
    page.route("**/versions", lambda route: route.abort())
    approved_elsewhere(page, 0)
    seam = words_of(page)[4]["start"]
    with page.expect_response("**/edit") as answered:
        drags(page, "words", seam, 0.06)
    assert answered.value.ok
    assert words_of(page)[4]["start"] == pytest.approx(seam + 0.06, abs=0.005)
    assert words_of(page)[0]["decided"]
    expect(page.locator("#problem")).to_be_hidden()


def test_a_reading_goes_out_and_comes_in(desk, tmp_path):
    page = desk
    page.get_by_role("tab", name="In and out").click()
    with page.expect_download() as taken:
        page.get_by_role("link", name="CTM", exact=True).click()
    path = tmp_path / "reading.ctm"
    rows = taken.value.path().read_text().splitlines()
    late = [row.replace(" 1 ", " 1 0", 1) for row in rows]
    path.write_text("\n".join(late))
    with page.expect_response("**/bring"):
        page.get_by_label("A reading to bring in").set_input_files(path)
    assert all(word["pinned"] for word in words_of(page))

    # The exposures of another program, matched by name.
    theirs = tmp_path / "theirs.csv"
    theirs.write_text("frame,frames,drawing\n3,4,mouth_MBP\n8,3,Shot 7\n")
    page.get_by_label("Exposures to bring in").set_input_files(theirs)
    expect(page.get_by_label("The drawing that mouth_MBP stands for")).to_have_value("press")
    expect(page.locator("#timing-lands")).to_have_text("the first lies on frame 4")
    page.get_by_label("The number its frames are counted from").select_option("1")
    expect(page.locator("#timing-lands")).to_have_text("the first lies on frame 3")
    page.get_by_label("The number its frames are counted from").select_option("0")
    expect(page.locator("#timing-lands")).to_have_text("the first lies on frame 4")
    row = page.locator(".timing-names label", has_text="Shot 7")
    expect(row.locator("svg")).to_have_count(0)
    row.get_by_label("The drawing that Shot 7 stands for").select_option("purse")
    expect(row.locator("svg")).to_have_count(1)
    with page.expect_response("**/edit") as asked:
        page.get_by_role("button", name="Lay them over the track").click()
    assert asked.value.ok
    expect(page.get_by_role("button", name="Lay them over the track")).to_be_hidden()
    laid = [(e["frame"], e["frames"], e["drawing"]) for e in stave_of(page)["exposures"] if e["pinned"]]
    assert laid == [(3, 4, "press"), (8, 3, "purse")]


def test_a_sound_without_words_is_heard(demo, tmp_path):
    new_scene(demo, f"Heard {tmp_path.name}", FPS)
    brings(demo, speak(tmp_path / "line.wav"), "Marit")
    view(demo, "Script")
    reads(demo)
    expect(demo.locator("#script")).to_contain_text("Heard, not written")
    expect(demo.locator(".job")).to_contain_text("the words were recognised")
    view(demo, "Sound")
    room_ready(demo)
