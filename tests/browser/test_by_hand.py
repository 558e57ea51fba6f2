"""A scene nobody read: words and mouths are put in on the desk by hand, and shown at once."""

import re

from playwright.sync_api import expect

from tests.browser.steps import brings, desk_ready, new_scene, reads, view, writes
from tests.speech import LINE, speak


def test_words_and_mouths_are_put_in_by_hand_and_a_reading_keeps_them(demo, tmp_path):
    page = demo
    new_scene(page, f"By hand {tmp_path.name}")
    brings(page, speak(tmp_path / "left boot.wav"), "Marit")
    view(page, "Script")
    writes(page, f"Marit: {LINE}")
    view(page, "Reading")
    desk = desk_ready(page)

    # A mouth from in to out, with nothing chosen.
    page.locator("#staves").focus()
    page.keyboard.press("Shift+ArrowRight")
    at = int(desk.get_attribute("data-frame"))
    for key in ("o", "ArrowLeft", "i", "ArrowRight", "g"):
        page.keyboard.press(key)
    expect(page.locator("#map-hint")).to_contain_text("a drawing fills 24 to 25")
    page.locator("#mouth-map button[data-drawing=purse]").click()
    expect(page.locator("#told")).to_contain_text("1 exposure, 2 frames, from 24")
    page.keyboard.press("Escape")
    expect(page.locator("#in-out")).to_have_text("24 to 25")
    page.keyboard.press("Escape")
    expect(page.locator("#in-out")).to_have_text("– to –")
    expect(page.locator("#why")).to_contain_text("a person pinned it")

    # Words of one's own, from the playhead on; then the script's line.
    page.get_by_role("tab", name="Word").click()
    page.get_by_label("Words to put here").fill("Ahoy")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Nothing is read yet: press Read")).to_be_hidden()
    expect(page.locator("#why")).to_contain_text("Ahoy")
    page.locator("#staves").focus()
    page.keyboard.press("w")
    expect(page.locator("#dock-word .word-title")).to_have_text("Ahoy")
    expect(page.locator("#dock-word")).to_contain_text("set by hand")
    begins = page.locator("#dock-word .mono").first.inner_text()
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    page.get_by_role("button", name=re.compile("^put here")).click()
    expect(page.locator("#problem")).to_contain_text("is said there already")

    # What is read afterwards keeps the word where it was put, and the mouth.
    view(page, "Script")
    writes(page, "Marit: Fog.")
    reads(page)
    expect(page.locator("#script .line-state a")).to_have_count(3)
    view(page, "Reading")
    desk_ready(page)
    page.get_by_role("tab", name="Word").click()
    for _ in range(at):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("w")
    expect(page.locator("#dock-word .mono").first).to_have_text(begins)
