"""Somebody's own drawings: brought in with odd names, looked at, mended, given to a character, seen speaking."""

import json
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.steps import desk_ready, drawing
from tests.drawings import flat_bar, png
from tinfork.core.mouths.face import VIEW

ODD = {"boot": "rest", "salt": "press", "gull": "open", "goat": "purse", "ticket": "half", "fog": "ajar"}


@pytest.fixture
def chart(demo, tmp_path):
    """The page of a chart with six drawings, just brought in."""
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_role("link", name="Cast and charts").click()
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
    expect(page.locator(".shape-cell.uncovered").first).to_contain_text("stands in")
    gull = page.locator(".drawing", has_text="gull")
    gull.locator("summary").press("Enter")
    gull.get_by_label("Name").fill("gull in the fog")
    gull.get_by_label("Its key on the desk").fill("h")
    gull.get_by_role("button", name="Keep").click()
    expect(page.locator(".drawing-name", has_text="gull in the fog")).to_be_visible()
    ticket = page.locator(".drawing", has_text="ticket")
    ticket.locator("summary").click()
    ticket.get_by_role("button", name="Delete ticket").click()
    expect(page.locator(".drawing")).to_have_count(5)
    page.get_by_role("button", name="bring back ticket").click()
    expect(page.locator(".drawing")).to_have_count(6)

    page.get_by_role("button", name="Give it to Brede").click()
    page.get_by_role("link", name="The Salt Ferry", exact=True).click()
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
    expect(page.locator("#mouth-map [data-drawing='gull in the fog'] kbd")).to_have_text("H")
    page.locator("#staves").focus()
    page.keyboard.press("Home")
    page.keyboard.press("n")
    page.keyboard.press("h")
    expect(page.locator("#told")).to_contain_text("1 exposure")
    expect(page.locator("#mirror")).to_have_attribute("data-drawing", "gull in the fog")
    page.keyboard.press("Control+z")
    expect(undo).to_have_attribute("title", what_was_done)
    page.goto("/")
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_role("link", name="Cast and charts").click()
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
    sample = panel.get_by_alt_text("Thirteen mouths in this style")
    before = sample.get_attribute("src")
    panel.get_by_label("Style").select_option("tar")
    panel.get_by_label("Mood").fill("happy")
    panel.get_by_label("corners").press("End")
    expect(sample).not_to_have_attribute("src", before)
    assert sample.evaluate("image => image.decode().then(() => image.naturalWidth)")
    panel.get_by_role("button", name="See it speak").click()
    speaking = panel.locator(".draw-speaking image")
    expect(speaking).not_to_have_attribute("x", "-75")
    panel.get_by_role("button", name="Stop").click()
    panel.get_by_role("button", name="Draw thirteen").click()
    expect(page.locator(".drawing")).to_have_count(19)
    expect(page.get_by_role("heading", name="happy", exact=True)).to_be_visible()
    expect(page.locator(".shape-cell.uncovered").first).to_contain_text("stands in")


def test_a_sheet_is_cut_and_drawings_are_put_onto_their_shapes_by_mouse_and_by_key(demo, tmp_path):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_role("link", name="Your library").click()
    page.get_by_placeholder("Chart").fill(f"Sheet {tmp_path.name}")
    page.get_by_role("button", name="New chart").click()
    hostile = tmp_path / "crow.svg"
    hostile.write_text('<svg xmlns="http://www.w3.org/2000/svg"><script>window.crowed = true</script><g/></svg>')
    page.locator("#drawing-files").set_input_files(hostile)
    page.get_by_role("button", name="Bring in").click()
    expect(page.get_by_role("alert")).to_contain_text("crow.svg holds a <script>")
    assert page.evaluate("window.crowed") is None
    page.locator("#drawing-files").set_input_files(sheet(tmp_path))
    page.get_by_label("It is").select_option("a sheet, cut by a grid")
    page.get_by_label("across").fill("3")
    page.get_by_label("down").fill("2")
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator(".drawing")).to_have_count(6)
    cell = {name: page.locator(f".shape-cell[data-shape={name}]") for name in ("press", "teeth", "spread")}
    expect(cell["press"].get_by_role("link", name="sheet 2")).to_be_visible()

    cell["press"].get_by_role("link", name="sheet 2").drag_to(cell["teeth"])
    expect(cell["teeth"].get_by_role("link", name="sheet 2")).to_be_visible()
    cell["spread"].get_by_role("button", name="spread").press("Enter")
    page.get_by_role("dialog").get_by_role("button", name="sheet 2").press("Enter")
    expect(cell["spread"].get_by_role("link", name="sheet 2")).to_be_visible()
    expect(cell["teeth"]).to_have_class(re.compile("uncovered"))

    page.get_by_label("On the face of").select_option(label="Pock")
    page.get_by_role("button", name="Speak").click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    expect(page.locator(".try-face [data-mouth]").filter(visible=True)).to_have_count(1)
    page.get_by_role("button", name="Stop").click()
    expect(page.locator(".try [role=status]")).to_contain_text("drawings were seen")

    # A shut bar looks like a slit that is open; its name says what it is.
    (tmp_path / "zu_MBP.png").write_bytes(png(flat_bar()))
    page.locator("#drawing-files").set_input_files(tmp_path / "zu_MBP.png")
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator(".drawing", has_text="zu_MBP")).to_contain_text("as press")


def sheet(folder):
    """Six drawings of one canvas, three across and two down."""
    cells = [np.asarray(Image.open(drawing(folder, shape))) for shape in ODD.values()]
    whole = np.vstack([np.hstack(cells[:3]), np.hstack(cells[3:])])
    path = folder / "sheet.png"
    Image.fromarray(whole).save(path)
    return path


def test_a_face_of_layers_is_placed_and_a_mood_is_put_on(demo, tmp_path):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_title("Pock's face").click()
    face = page.locator("#face[data-ready]")
    mouth = face.locator("[data-part=mouth]")
    before = mouth.get_attribute("transform")
    box = face.bounding_box()
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] * -VIEW[1] / VIEW[3] + 4
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 30, middle[1] + 15, steps=4)
    page.mouse.up()
    expect(page.locator(".face-do [role=status]")).to_have_text("Kept.")
    page.reload()
    moved = mouth.get_attribute("transform")
    assert moved != before
    across = float(moved.removeprefix("translate(").split()[0])
    assert across == pytest.approx(30 * VIEW[2] / box["width"], abs=1.5)
    page.get_by_label("What to move").select_option(label="slot")
    face.press("Shift+ArrowDown")
    face.press("+")
    expect(page.locator(".face-do [role=status]")).to_have_text("Kept.")
    for _ in range(2):
        face.press("Control+z")
    page.get_by_role("button", name="Put the mouth where ours is").click()
    expect(mouth).to_have_attribute("transform", before)
    expect(page.locator(".face-do [role=status]")).to_have_text("Kept.")

    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_role("link", name="Paper cut-outs").click()
    page.get_by_label("Mood of Marit", exact=True).select_option("cheerful")
    page.get_by_role("button", name="Set the mood of Marit").click()
    expect(page.get_by_label("Mood of Marit", exact=True)).to_have_value("cheerful")
    page.get_by_role("link", name="The Salt Ferry", exact=True).click()
    page.get_by_text("3 · The lighthouse").click()
    desk_ready(page)
    page.get_by_role("tab", name="Marit").click()
    expect(page.locator("#mirror")).to_have_attribute("data-drawing", re.compile("^cheerful · "))
    page.get_by_label("Mood of the drawings").select_option("neutral")
    expect(page.locator("#mouth-map [data-drawing=open]")).to_be_visible()
    page.go_back()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_role("link", name="Paper cut-outs").click()
    page.get_by_label("Mood of Marit", exact=True).select_option("neutral")
    page.get_by_role("button", name="Set the mood of Marit").click()
    expect(page.get_by_label("Mood of Marit", exact=True)).to_have_value("neutral")


def test_parts_of_a_face_that_are_moved_at_once_and_left_at_once_are_all_kept(demo):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_title("Pock's face").click()
    face, chosen = page.locator("#face[data-ready]"), page.get_by_label("What to move")
    parts = {"mouth": face.locator("[data-part=mouth]"), "slot": face.locator("[data-part]:has(image)").last}

    def moves(key):
        for name in parts:
            chosen.select_option(label="the mouth" if name == "mouth" else name)
            face.press(key)
        return lies()

    def lies():
        return [part.get_attribute("transform") for part in parts.values()]

    before, there = lies(), moves("Shift+ArrowRight")
    assert all(one != other for one, other in zip(before, there, strict=True))
    for _ in range(20):  # What is kept while the page is left may arrive after the next page was asked for.
        page.reload()
        expect(face).to_be_visible()
        if lies() == there:
            break
    assert lies() == there
    assert moves("Shift+ArrowLeft") == before
    expect(page.locator(".face-do [role=status]")).to_have_text("Kept.")
