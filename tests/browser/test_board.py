"""The board: shots found, sorted, changed many at once and taken back, kept as a view; people invited to it."""

import re

from playwright.sync_api import expect

from tests.browser.steps import new_production

TABLE = "number\tname\tsequence\tdue\n0020\tThe goat\tPier\t2020-01-02\n0010\tFog\tPier\t\n0030\tThe bill\tCrossing\t\n"


def names(page):
    return page.locator(".shot-name").all_text_contents()


def board_ready(page):
    page.wait_for_selector("#board-page[data-ready]")


def chosen(page, *shots):
    for name in shots:
        page.get_by_label(f"Choose {name}", exact=True).check()


def test_shots_are_found_changed_many_at_once_and_taken_back(demo, tmp_path):
    page = demo
    new_production(page, f"Board {tmp_path.name}")
    board_ready(page)
    page.get_by_label("Paste rows").fill(TABLE)
    page.get_by_role("button", name="Bring the table in").click()
    expect(page.locator("#board-said")).to_have_text("3 made, 0 found again.")
    assert names(page) == ["The goat", "Fog", "The bill"]
    expect(page.get_by_role("img", name="Pier: 2 no sound")).to_be_visible()
    expect(page.locator(".shot", has_text="The goat")).to_contain_text("late")

    page.get_by_label("In what order").select_option("by number")
    assert names(page) == ["Fog", "The goat", "The bill"]
    page.get_by_label("Find shots").fill("pier")
    assert names(page) == ["Fog", "The goat"]
    expect(page.locator("#board-count")).to_have_text("2 of 3")
    page.get_by_text("Views", exact=True).click()
    page.get_by_label("Name of the view").fill("The pier")
    with page.expect_event("load"):
        page.get_by_role("button", name="Keep this view").click()
    board_ready(page)
    page.get_by_label("Find shots").fill("")
    page.get_by_text("Views", exact=True).click()
    page.get_by_role("link", name="The pier").click()
    board_ready(page)
    assert names(page) == ["Fog", "The goat"]

    chosen(page, "Fog", "The goat")
    bar = page.get_by_role("region", name="What is done with the shots")
    bar.get_by_label("whose").select_option(index=2)
    expect(page.locator(".shot-who").first).to_have_text("Demo Animator")
    expect(page.locator("#board-undo")).to_contain_text("set whose it is of 2 shots")
    bar.get_by_label("sequence").fill("Harbour")
    bar.get_by_label("sequence").press("Tab")
    expect(page.get_by_role("img", name="Harbour: 2 no sound")).to_be_attached()
    expect(bar).to_be_hidden()  # They are no longer what is looked for.
    for _ in range(2):
        page.locator("#board-undo").get_by_role("button").click()
        expect(page.locator("#board-said")).to_contain_text("Taken back")
    expect(page.locator("#board-undo")).to_be_hidden()
    assert set(page.locator(".shot-who").all_text_contents()) == {""}

    page.get_by_role("button", name="Wall").click()
    expect(page.locator("#board-page")).to_have_class(re.compile("wall"))
    chosen(page, "The goat")
    bar.get_by_label("Name of the shot").fill("The goat waits")
    bar.get_by_role("button", name="Rename").click()
    board_ready(page)
    expect(page.locator("#board-page")).to_have_class(re.compile("wall"))
    assert names(page) == ["The goat waits", "Fog", "The bill"]
    page.get_by_role("button", name="Wall").click()


def test_somebody_who_is_invited_comes_in_and_is_out_when_taken_out(demo, chromium, address, tmp_path):
    page = demo
    new_production(page, f"People {tmp_path.name}")
    page.get_by_role("link", name="People").click()
    page.get_by_label("Whom").fill("Hilde")
    page.get_by_role("button", name="Make a link").click()
    link = page.get_by_label("Link for Hilde").input_value()
    other = chromium.new_context(viewport={"width": 390, "height": 800}, base_url=address)
    guest = other.new_page()
    guest.goto(link)
    guest.get_by_label("Your name, to sign in with").fill(f"hilde-{tmp_path.name}")
    guest.get_by_label("A password").fill("fog over the pier 9")
    guest.get_by_label("The password once more").fill("fog over the pier 9")
    guest.get_by_role("button", name="Join").click()
    board_ready(guest)
    expect(guest.get_by_text("New shots", exact=True)).to_be_visible()
    assert guest.evaluate("document.documentElement.scrollWidth <= innerWidth")

    page.reload()
    page.get_by_label("What hilde").select_option("reviewer")
    expect(page.get_by_role("row", name="hilde")).to_contain_text("reviewer")
    guest.reload()
    expect(guest.get_by_text("New shots", exact=True)).to_be_hidden()
    page.get_by_label("Change hilde").click()
    page.get_by_role("button", name="Take them out").click()
    expect(page.get_by_role("row", name="hilde")).to_be_hidden()
    assert guest.reload().status == 404
    other.close()
