"""An owner, an animator and a reviewer on a telephone: noted on, mended, approved, changed since, handed over."""

import json

from playwright.sync_api import expect

from tests.browser.spare import BREDE_READ
from tests.browser.steps import desk_ready, invited, tab_of


def rushes_of(page, scene):
    page.goto(f"/scenes/{scene}/rushes/")
    page.wait_for_selector("#rushes[data-ready=yes]")


def shows(page, version):
    page.get_by_role("button", name="Show for review").click()
    expect(page.locator("#standing")).to_have_text(f"Version {version} is to be looked at.")


def watches_and_notes(page):
    """Somebody plays a shot, and writes a note where it is seen."""
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.locator("#rushes")).not_to_have_attribute("data-frame", "0")
    page.get_by_role("button", name="Pause").click()
    page.get_by_label("Frame", exact=True).fill("12")
    page.get_by_label("Frame", exact=True).press("Enter")
    page.locator("#picture").click(position={"x": 120, "y": 60})
    page.get_by_label("Note on frame").fill("Opens before the word")
    page.get_by_role("button", name="Write note").click()
    expect(page.locator("#notes > li")).to_contain_text("Opens before the word")
    assert page.locator("#stage-over ellipse").count() == 1
    page.get_by_role("button", name="Wants changes").click()
    expect(page.locator("#standing")).to_contain_text("wants changes to version 1")


def puts_at_rest(page, frame):
    """Somebody changes what is seen on a frame, on the desk."""
    tab_of(page, "Reading").click()
    desk_ready(page)
    for key in ("Home", *["ArrowRight"] * frame):
        page.keyboard.press(key)
    with page.expect_response("**/edit"):
        page.keyboard.press("q")


def mends_and_answers(page, scene):
    """Somebody goes to the note on the desk, mends what it says and says that it is done, and answers in rushes."""
    expect(page.locator("#notes > li")).to_contain_text("Opens before the word")
    tab_of(page, "Reading").click()
    desk_ready(page)
    expect(page.get_by_role("tab", name="Notes 1")).to_be_visible()
    page.locator("#staves").focus()
    page.keyboard.press("v")
    expect(page.get_by_label("Frame", exact=True)).to_have_value("12")
    expect(page.locator("#dock-notes")).to_contain_text("Opens before the word")
    with page.expect_response("**/edit"):
        page.keyboard.press("q")
    page.locator("#dock-notes").get_by_role("button", name="Done", exact=True).click()
    expect(page.get_by_role("tab", name="Notes", exact=True)).to_be_visible()
    rushes_of(page, scene)
    expect(page.locator("#standing")).to_contain_text("It has changed since.")
    expect(page.locator("#notes-count")).to_have_text("0 open")
    page.locator("#rushes").focus()
    page.keyboard.press("n")
    expect(page.locator("#problem")).to_contain_text("No note is open")
    page.get_by_role("button", name="Answer", exact=True).click()
    page.get_by_label("Answer to").fill("At rest now")
    page.locator("#notes").get_by_role("button", name="Answer").last.click()
    expect(page.locator(".note-answer")).to_contain_text("At rest now")


def compares_and_approves(page):
    expect(page.locator("#notes > li")).to_contain_text("At rest now")
    page.get_by_label("A version beside what is watched").select_option("1")
    expect(page.locator("#problem")).to_contain_text("show something else than version 1")
    assert page.locator("#stage-before svg").count() == 1
    assert page.locator("#changes span").count() > 0
    count = page.locator("#changed li").count()
    assert count == page.locator("#changes span").count()
    page.get_by_label("What is watched", exact=True).select_option("2")
    expect(page.locator("#problem")).to_contain_text("show something else than version 1")
    assert page.locator("#changed li").count() == count
    page.get_by_label("How the version lies").select_option("over")
    expect(page.locator("#watched.over")).to_be_visible()
    page.locator("#changed button").first.click()
    expect(page.locator("#rushes")).to_have_attribute("data-frame", "11")
    page.get_by_label("What is watched", exact=True).select_option("")
    expect(page.locator("#changed li")).to_have_count(count)
    page.get_by_role("button", name="Approve").click()
    expect(page.locator("#standing")).to_contain_text("Version 2 was approved by director")


def hands_over_what_was_approved(page):
    page.get_by_role("link", name="Hand over version 2").click()
    expect(page.get_by_label("Of which version")).to_have_value("2")
    with page.expect_request("**/hand-over/files") as asked:
        page.get_by_label("CSV of exposures").check()
    assert json.loads(asked.value.post_data)["version"] == 2
    page.get_by_role("button", name="Make the files").click()
    made = page.locator(".made").first
    expect(made.get_by_role("link", name=".csv").first).to_be_visible()
    expect(made).to_contain_text("version 2")


def test_a_shot_is_reviewed_by_three_people(demo, scenes, guests, tmp_path):
    owner, scene, at = demo, next(scenes[BREDE_READ]), tmp_path.name[-8:]
    owner.locator(".shelf-item", has_text="The Salt Ferry").click()
    owner.get_by_role("link", name="People").click()
    animator = guests(invited(owner, "Hilde", "animator"), f"hilde{at}", (1280, 800))
    reviewer = guests(invited(owner, "The director", "reviewer"), f"director{at}", (390, 800))
    owner.get_by_role("link", name="Board").click()
    owner.wait_for_selector("#board-page[data-ready]")
    row = owner.locator(f".shot[data-id='{scene}']")
    row.locator(".shot-pick").check()
    owner.get_by_label("whose", exact=True).select_option(label=f"hilde{at}")
    expect(row).to_contain_text(f"hilde{at}")

    rushes_of(animator, scene)
    expect(animator.get_by_role("button", name="Approve")).to_be_hidden()
    shows(animator, 1)
    rushes_of(reviewer, scene)
    assert reviewer.evaluate("document.documentElement.scrollWidth <= innerWidth")
    watches_and_notes(reviewer)
    mends_and_answers(animator, scene)
    shows(animator, 2)
    rushes_of(reviewer, scene)
    compares_and_approves(reviewer)
    owner.reload()
    expect(row.locator(".shot-state")).to_have_text("approved")

    puts_at_rest(animator, 20)
    owner.reload()
    expect(row.locator(".shot-state")).to_have_text("changed since approved")
    rushes_of(owner, scene)
    hands_over_what_was_approved(owner)
