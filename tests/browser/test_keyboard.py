"""A day at the keyboard: everything is reached, chosen and moved without a mouse, and the focus is always somewhere."""

import re

from playwright.sync_api import expect

from tests.browser.steps import arrangement, changed, desk_ready, its_job_is_done, room_ready, stave_of, tab_of, until


def focused(page):
    """What has the focus, as an id, a name or a label."""
    return page.evaluate(
        "(({ id, name, ariaLabel, tagName }) => id || name || ariaLabel || tagName)(document.activeElement)"
    )


def presses(page, *keys):
    """Press keys; the focus is then not on the page itself."""
    for key in keys:
        page.keyboard.press(key)
        until(page, "document.activeElement !== document.body")


def edits(page, key):
    """Press a key that changes the reading; the stave then."""
    with page.expect_response("**/edit"):
        presses(page, key)
    return stave_of(page)


def test_sound_by_keyboard(demo):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("4 · Both").click()
    desk_ready(page)
    tab_of(page, "Sound").press("Enter")
    room_ready(page)
    page.locator("#tracks").focus()
    before = arrangement(page)
    clip = before["tracks"][0]["clips"][0]

    presses(page, "n")
    expect(page.locator("#inspector h2")).to_have_text(clip["name"])
    presses(page, "Home", "ArrowRight", "ArrowRight", "Shift+ArrowRight")
    assert changed(page, lambda: presses(page, "s"))["tracks"][0]["clips"][0]["frames"] == 26
    presses(page, "Escape", "n", "n")
    moved = changed(page, lambda: presses(page, "Alt+ArrowRight"))
    assert moved["tracks"][0]["clips"][1]["start"] == 27
    presses(page, "ArrowDown")
    expect(page.locator(".track-head.chosen")).to_have_count(1)

    presses(page, "Escape", "Home", "i", "Shift+ArrowRight", "o")
    page.get_by_role("tab", name="Who speaks when").press("Enter")
    page.get_by_role("button", name="Mark in–out").focus()
    (mark,) = changed(page, lambda: presses(page, "Enter"))["marks"]
    assert (mark["start"], round(mark["end"] * 24)) == (0, 25)
    page.locator("#tracks").focus()
    presses(page, "m")
    expect(page.locator("#voices-panel")).to_contain_text("Drag its edges")
    (longer,) = changed(page, lambda: presses(page, "Alt+Shift+ArrowRight"))["marks"]
    assert longer["end"] > mark["end"]
    who = page.locator("#voices-panel [data-who]")
    who.focus()
    (given,) = changed(page, lambda: presses(page, "ArrowDown"))["marks"]
    assert given["character"] != mark["character"]
    page.locator("#tracks").focus()
    presses(page, "m")
    assert changed(page, lambda: presses(page, "Delete"))["marks"] == []

    frame = page.locator("#frame-number")
    frame.focus()
    presses(page, "Enter")
    assert focused(page) == "tracks"
    undo = page.locator("#undo")
    undo.focus()
    while not undo.is_disabled():
        changed(page, lambda: presses(page, "Enter"))
        page.wait_for_timeout(50)
    assert arrangement(page)["tracks"][0]["clips"][0]["frames"] == clip["frames"]


def test_script_by_keyboard(demo):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("1 · Fog").click()
    desk_ready(page)
    tab_of(page, "Script").press("Enter")
    first, second = (page.get_by_role("textbox", name=f"Line {n}", exact=True) for n in (1, 2))
    first.focus()
    presses(page, "Tab")
    expect(page.locator(".line-open .word").first).to_be_focused()
    presses(page, "ArrowLeft")
    expect(first).to_be_focused()
    presses(page, "ArrowDown")
    expect(second).to_be_focused()
    # The line that was left is one stop of the Tab key again.
    expect(page.locator(".line").first.locator("[tabindex='0']")).to_have_count(1)
    presses(page, "ArrowUp", "Home", "ArrowLeft")
    expect(page.get_by_label("Who speaks line 1")).to_be_focused()
    presses(page, "ArrowRight", "End", "ArrowRight")
    expect(page.locator(".word").first).to_be_focused()
    presses(page, "Enter")
    expect(page.locator("#word[open]")).to_be_visible()
    page.keyboard.press("Escape")
    until(page, "document.activeElement !== document.body")
    presses(page, "?")
    expect(page.locator("#keys")).to_contain_text("who speaks the line")
    page.keyboard.press("Escape")
    expect(page.locator("#keys")).to_be_hidden()
    page.get_by_label("Move line 1 down").focus()
    with page.expect_response("**/script/edit"):
        presses(page, "Enter")
    until(page, "document.activeElement !== document.body")
    with page.expect_response("**/script/edit"):
        page.locator("#undo").press("Enter")
    until(page, "document.activeElement !== document.body")
    with page.expect_response("**/script/read") as asked:
        page.get_by_role("button", name="Read", exact=True).press("Enter")
    its_job_is_done(page, asked.value)


def test_the_desk_by_keyboard(demo):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("2 · The goat").click()
    desk_ready(page)
    page.locator("#staves").focus()
    before = stave_of(page)
    word = before["lines"][0]["words"][0]

    presses(page, "Home", "w")
    expect(page.locator("#dock-word strong")).to_have_text(word["text"])
    presses(page, ".")
    expect(page.locator("#dock-word strong")).to_have_text(before["lines"][0]["words"][1]["text"])
    presses(page, ",", "]", "]")
    expect(page.locator(".sound-chip[aria-pressed=true]")).to_have_text(word["sounds"][1][0])
    seam = edits(page, "Alt+ArrowLeft")["lines"][0]["words"][0]
    assert seam["sounds"][1][1] < word["sounds"][1][1]
    assert seam["pinned"] == [1]
    until(page, "document.querySelector('.word-title')")
    page.get_by_role("button", name="Looks right").focus()
    assert edits(page, "Enter")["lines"][0]["words"][0]["pinned"] != [1]
    until(page, "document.activeElement !== document.body")
    page.locator("#staves").focus()
    edits(page, "Control+z")
    edits(page, "Control+z")

    presses(page, "Escape", "n", "n")
    expect(page.locator("#pin")).to_be_enabled()
    pinned = edits(page, "p")
    assert len([e for e in pinned["exposures"] if e["pinned"]]) == 1
    other = edits(page, "Alt+ArrowUp")
    assert [e["drawing"] for e in other["exposures"] if e["pinned"]] != [
        e["drawing"] for e in pinned["exposures"] if e["pinned"]
    ]
    edits(page, "Control+z")
    edits(page, "Control+z")
    assert stave_of(page)["exposures"] == before["exposures"]
    _a_key_of_ones_own(page)
    presses(page, "d")
    expect(page.locator("#problem, #dock-word strong")).to_contain_text([re.compile("doubtful|.")])


def _a_key_of_ones_own(page):
    skin = page.get_by_role("button", name="onion skin")
    presses(page, "?")
    page.locator("#keys").get_by_role("button", name="U", exact=True).focus()
    presses(page, "Enter", "p")
    expect(page.locator("#keys [role=status]")).to_have_text("P is “pin or unpin” already. Swap the two")
    presses(page, "Enter", "Alt+Enter")
    expect(page.locator("#keys [role=status]")).to_contain_text("choose another key")
    presses(page, "Enter")
    with page.expect_response("**/preferences/keys/desk/"):
        presses(page, "#")
    presses(page, "Escape", "u")
    expect(skin).to_have_attribute("aria-pressed", "false")
    presses(page, "#")
    expect(skin).to_have_attribute("aria-pressed", "true")
    assert skin.get_attribute("title").endswith("(#)")
    presses(page, "#", "?")
    with page.expect_response("**/preferences/keys/desk/"):
        page.get_by_role("button", name="All keys as usual").press("Enter")
    presses(page, "Escape")
