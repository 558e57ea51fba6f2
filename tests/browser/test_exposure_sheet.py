"""The exposure sheet: read, edited by key alone and by mouse, noted on, and taken away as files."""

import re

import pypdf
from playwright.sync_api import expect

from tests.browser.steps import desk_ready, view


def sheet_of(page, scene):
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text(scene).click()
    desk_ready(page)
    view(page, "Sheet")
    page.wait_for_selector("#sheet[data-ready=yes]")


def cell(page, row, column):
    return page.locator(f'.sheet-row[data-row="{row}"] [data-column="{column}"]')


def done(page, action):
    with page.expect_response("**/edit") as asked:
        action()
    assert asked.value.status == 200
    expect(page.locator("#sheet")).not_to_have_attribute("data-busy", "yes")


def test_the_sheet_is_read_edited_noted_on_and_printed(demo, tmp_path):
    page = demo
    sheet_of(page, "2 · The goat")
    expect(page.locator("#sheet-body .sheet-row")).not_to_have_count(0)
    assert page.locator("#sheet-body .sheet-row").count() < 80, "only what is in sight"
    page.get_by_label("Go to frame").fill("104")
    page.get_by_label("Go to frame").press("Tab")
    expect(cell(page, 103, "drawing 0")).to_be_focused()
    before = cell(page, 103, "drawing 0").inner_text()
    page.keyboard.press("ArrowDown")
    expect(cell(page, 104, "drawing 0")).to_be_focused()
    expect(cell(page, 104, "drawing 0").locator(".sheet-held")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("listbox", name="What begins here")).to_be_visible()
    page.keyboard.press("ArrowDown")
    wanted = page.locator("#sheet-choice button:focus").inner_text()
    done(page, lambda: page.keyboard.press("Enter"))
    expect(cell(page, 104, "drawing 0")).to_have_text(wanted)
    expect(cell(page, 104, "drawing 0")).to_be_focused()
    done(page, lambda: page.keyboard.press("Delete"))
    expect(cell(page, 104, "drawing 0").locator(".sheet-held")).to_be_visible()
    for _ in range(2):
        done(page, lambda: page.keyboard.press("Control+z"))
    expect(cell(page, 103, "drawing 0")).to_have_text(before)

    cell(page, 106, "drawing 0").click()
    done(page, lambda: page.get_by_role("option", name="nothing").click())
    expect(cell(page, 106, "drawing 0")).to_have_text("(nothing)")
    view(page, "Reading")
    desk_ready(page)
    page.locator("#staves").focus()
    with page.expect_response("**/edit"):
        page.keyboard.press("Control+z")
    view(page, "Sheet")
    page.wait_for_selector("#sheet[data-ready=yes]")

    page.get_by_label("Note beside frame 3", exact=True).fill("look left")
    with page.expect_response("**/note"):
        page.keyboard.press("Enter")
    expect(page.get_by_label("Note beside frame 4", exact=True)).to_be_focused()
    page.get_by_label("IPA").uncheck()
    expect(page.locator("#sheet-head")).not_to_contain_text("IPA")
    page.get_by_label("a row for").select_option("2")
    expect(page.locator('.sheet-row[data-row="1"] .sheet-frame')).to_have_text("3")
    page.get_by_text("Print and files").click()
    page.get_by_label("Last frame to print").fill("60")
    with page.expect_download() as download:
        page.get_by_role("link", name="PDF to print").click()
    read = pypdf.PdfReader(download.value.path())
    assert re.search(r"page 1 of 1", read.pages[0].extract_text())
    assert "look left" in read.pages[0].extract_text()
    assert "IPA" not in read.pages[0].extract_text()
