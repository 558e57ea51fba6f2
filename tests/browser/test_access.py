"""Every view and window can be used by everybody: axe finds nothing, in daylight and at night."""

import time
from pathlib import Path

from tests.browser.steps import desk_ready, drawing, room_ready, view

AXE = Path(__file__).parents[2] / "node_modules" / "axe-core" / "axe.min.js"


def findings(page, where, within="html", only=()):
    """What axe finds amiss in a part of the page, in a line each; only: by these of its rules."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text())
    asked = {"resultTypes": ["violations"]} | ({"runOnly": list(only)} if only else {})
    found = page.evaluate("([within, asked]) => axe.run(within, asked)", [within, asked])
    return [
        f"{where}: {one['id']}: {node['html'][:120]} ({node['failureSummary'].splitlines()[-1].strip()})"
        for one in found["violations"]
        for node in one["nodes"]
    ]


def switched(page):
    """Night where it was day, at once."""
    page.emulate_media(reduced_motion="reduce")
    page.locator(".bar-end").get_by_role("button").first.click()


def in_both(page, where, address="**", within="html"):
    """What is found in daylight, and of colours at night, once the page of that address is there and has run."""
    page.wait_for_url(address, wait_until="load")
    if "script" in address:
        page.wait_for_selector("#script [data-line][data-number]")
    found = findings(page, where, within)
    switched(page)
    found += findings(page, f"{where}, at night", within, ["color-contrast"])
    switched(page)
    return found


def test_pages_before_and_around_a_scene(page, tmp_path):
    page.goto("/")
    found = in_both(page, "sign in")
    page.get_by_role("button", name="Enter as Demo Animator").click()
    page.get_by_text("The Salt Ferry").wait_for()
    found += in_both(page, "shelf", "**/")
    page.get_by_role("link", name="Bring a bundle in").click()
    found += in_both(page, "bringing a bundle in", "**/bundles/")
    page.go_back()
    page.get_by_text("The Salt Ferry").click()
    found += in_both(page, "production", "**/productions/*/")
    page.locator(".start summary").click()
    page.get_by_label("Who speaks?").fill("Marit, Brede")
    found += in_both(page, "start")
    page.get_by_placeholder("Chart").fill(f"Looked at {time.time()}")
    page.get_by_role("button", name="New chart").click()
    found += in_both(page, "empty chart", "**/charts/*/")
    page.locator("#drawing-files").set_input_files([drawing(tmp_path, name) for name in ("rest", "open")])
    page.get_by_role("button", name="Bring in").click()
    page.locator(".drawing-more summary").first.click()
    page.get_by_label("Name", exact=True).wait_for()
    found += in_both(page, "chart", "**/charts/*/")
    page.get_by_role("button", name="purse", exact=True).click()
    found += findings(page, "choosing a drawing")
    page.get_by_role("button", name="Leave it").click()
    page.get_by_role("link", name="The Salt Ferry").click()
    page.get_by_title("Pock's face").click()
    page.locator("#face[data-ready]").wait_for()
    found += in_both(page, "face", "**/face/")
    page.get_by_role("link", name="The Salt Ferry").click()
    page.get_by_role("link", name="Your library").click()
    found += in_both(page, "library", "**/library/")
    page.go_back()
    page.get_by_role("link", name="Lexicon").click()
    found += in_both(page, "lexicon", "**/lexicon/")
    assert not found, "\n".join(found)


def test_the_views_of_a_scene_and_their_windows(demo):
    page = demo
    page.get_by_text("The Salt Ferry").click()
    page.get_by_text("4 · Both").click()
    desk_ready(page)
    found = in_both(page, "desk")
    for tab in page.locator(".dock-tabs [role=tab]:visible").all():
        tab.click()
        found += in_both(page, f"desk, {tab.inner_text()}", within=".dock")
    page.get_by_role("button", name="Keys ?").click()
    found += findings(page, "keys")
    page.get_by_role("button", name="Close").click()
    view(page, "Sound")
    room_ready(page)
    found += in_both(page, "Sound")
    page.get_by_role("button", name="Keys ?").click()
    found += findings(page, "keys of Sound")
    page.get_by_role("button", name="Close").click()
    page.locator("#bring-for").focus()
    page.locator("#bring-for").select_option("new")
    found += findings(page, "somebody new")
    page.get_by_role("button", name="Cancel").click()
    view(page, "Script")
    found += in_both(page, "Script", "**/script/")
    page.locator(".word").first.click()
    found += findings(page, "word")
    page.keyboard.press("Escape")
    view(page, "Acting")
    page.wait_for_selector("#acting[data-ready=yes]")
    found += in_both(page, "Acting", "**/acting/")
    for tab in page.locator(".dock-tabs [role=tab]:visible").all():
        tab.click()
        found += in_both(page, f"Acting, {tab.inner_text()}", within=".dock")
    view(page, "Sheet")
    page.wait_for_selector("#sheet[data-ready=yes]")
    found += in_both(page, "Sheet", "**/sheet/")
    view(page, "Prompter")
    page.wait_for_selector("#prompter[data-ready=yes]")
    found += in_both(page, "Prompter", "**/prompter/")
    view(page, "Hand-over")
    found += in_both(page, "Hand-over", "**/hand-over/")
    assert not found, "\n".join(found)
