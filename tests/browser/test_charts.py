"""Somebody's own drawings: brought in with odd names, looked at, mended, given to a character, seen speaking."""

import json
import re

import pytest
from playwright.sync_api import expect

from tests.browser.steps import desk_ready, drawing

ODD = {"boot": "rest", "salt": "press", "gull": "open", "goat": "purse", "ticket": "half", "fog": "ajar"}


@pytest.fixture
def chart(demo, tmp_path):
    """The page of a chart with six drawings, just brought in."""
    page = demo
    page.get_by_text("The Salt Ferry").click()
    page.get_by_placeholder("Chart").fill(f"Odd {tmp_path.name}")
    page.get_by_role("button", name="New chart").click()
    expect(page.get_by_text("No drawing yet")).to_be_visible()
    page.locator("#drawing-files").set_input_files([drawing(tmp_path, shape, name) for name, shape in ODD.items()])
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator(".drawing")).to_have_count(6)
    return page


def test_odd_drawings_speak_for_a_character(chart, tmp_path):
    page = chart
    for name, shape in ODD.items():
        expect(page.locator(".drawing", has_text=name)).to_contain_text(f"as {shape}")
    expect(page.locator(".coverage .uncovered").first).to_contain_text("stands in")
    gull = page.locator(".drawing", has_text="gull")
    gull.locator("summary").press("Enter")
    gull.get_by_label("Name").fill("gull in the fog")
    gull.get_by_role("button", name="Keep").click()
    expect(page.locator(".drawing-name", has_text="gull in the fog")).to_be_visible()
    ticket = page.locator(".drawing", has_text="ticket")
    ticket.locator("summary").click()
    ticket.get_by_role("button", name="Delete ticket").click()
    expect(page.locator(".drawing")).to_have_count(5)
    page.get_by_role("button", name="bring back ticket").click()
    expect(page.locator(".drawing")).to_have_count(6)

    page.get_by_role("button", name="Give it to Brede").click()
    page.get_by_role("link", name="The Salt Ferry").click()
    page.get_by_text("3 · The lighthouse").click()
    desk_ready(page)
    page.get_by_role("tab", name="Brede").click()
    staves = json.loads(page.locator("#desk-document").text_content())["staves"]
    (worn,) = (one for one in staves if one["character"] == "Brede")
    assert {e["drawing"] for e in worn["exposures"]} <= {*ODD, "gull in the fog"}
    expect(page.locator("#mouth-map [data-drawing='gull in the fog'] image")).to_be_attached()
    loaded = "image => fetch(image.getAttribute('href')).then((answer) => answer.headers.get('content-type'))"
    assert page.locator("#mirror image").first.evaluate(loaded) == "image/png"
    undo = page.get_by_role("button", name="Undo")
    what_was_done = undo.get_attribute("title")
    page.get_by_role("button", name="Plan with these drawings").click()
    expect(undo).to_have_attribute("title", re.compile("plan with these drawings"))
    expect(page.get_by_role("button", name="Plan with these drawings")).to_be_hidden()
    undo.click()
    expect(undo).to_have_attribute("title", what_was_done)
    page.goto("/")
    page.get_by_text("The Salt Ferry").click()
    page.get_by_role("link", name=f"Odd {tmp_path.name}").click()
    page.get_by_role("button", name="Take it from Brede").click()
    page.get_by_role("button", name="Give it to Brede").wait_for()


def test_a_drawing_is_moved_on_the_light_table_by_key_and_by_its_outline(chart):
    page = chart
    table, lies = page.locator(".light-table"), page.locator("#light image").nth(1)

    def lays_goat_on_boot():
        table.locator("summary").press("Enter")
        table.get_by_label("The drawing to move").select_option(label="goat")
        table.get_by_label("The drawing beneath").select_option(label="boot")
        return float(lies.get_attribute("x"))

    def keeps():
        with page.expect_navigation():
            table.get_by_role("button", name="Keep it there").click()
        return lays_goat_on_boot()

    before = lays_goat_on_boot()
    page.locator("#light").focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    assert keeps() == pytest.approx(before + 7.5, abs=0.01)
    table.get_by_role("button", name="align by outline").click()
    expect(table).to_contain_text("units off")
    assert keeps() == pytest.approx(before, abs=1.0)


def test_a_happy_set_of_ours_is_drawn_beside_somebodys_own(chart):
    page = chart
    panel = page.locator(".draw-panel")
    panel.locator("summary").press("Enter")
    sample = panel.get_by_alt_text("Eight mouths in this style")
    before = sample.get_attribute("src")
    panel.get_by_label("Style").select_option("tar")
    panel.get_by_label("Mood").fill("happy")
    panel.get_by_label("corners").press("End")
    expect(sample).not_to_have_attribute("src", before)
    assert sample.evaluate("image => image.decode().then(() => image.naturalWidth)")
    panel.get_by_role("button", name="Draw thirteen").click()
    expect(page.locator(".drawing")).to_have_count(19)
    expect(page.get_by_role("heading", name="happy", exact=True)).to_be_visible()
    expect(page.locator(".coverage .uncovered").first).to_contain_text("stands in")
