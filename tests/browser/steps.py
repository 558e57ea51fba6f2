"""What several tests do on the way."""

import json
import re
import time

from playwright.sync_api import expect

from tests import drawings


def new_scene(page, name, fps=24, start=1):
    """From the shelf: a scene of The Salt Ferry, at its Sound view."""
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("New shots", exact=True).click()
    page.get_by_label("Name", exact=True).fill(name)
    page.locator("#scene-rate").fill(str(fps))
    page.locator("#scene-start").fill(str(start))
    page.get_by_role("button", name="Create scene").click()
    room_ready(page)


def opens_both_on_one_microphone(page):
    """From the shelf: the Sound view of the demo's scene with two people in one recording."""
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("4 · Both").click()
    desk_ready(page)
    view(page, "Sound")
    room_ready(page)


def room_ready(page):
    """The Sound view, when it is drawn."""
    page.wait_for_selector("#sound[data-ready=yes]")
    return page.locator("#sound")


def desk_ready(page):
    """The Reading desk, when it is drawn."""
    page.wait_for_selector("#desk[data-ready=yes]")
    return page.locator("#desk")


def tab_of(page, name):
    """The link to a view of the scene in the bar."""
    return page.get_by_role("banner").get_by_role("link", name=name, exact=True)


def view(page, name):
    """Go to a view of the scene."""
    tab_of(page, name).click()


def changed(page, action):
    """Do something on the Sound view that changes its arrangement, and wait until it is shown; the document."""
    before = page.locator("#sound").get_attribute("data-version")
    action()
    expect(page.locator("#sound")).not_to_have_attribute("data-version", before)
    return arrangement(page)


def arrangement(page):
    """The arrangement as the server has it."""
    return page.request.get(page.locator("#sound").get_attribute("data-document")).json()


def opens(page, name):
    """Open a page under the tracks or lanes."""
    page.get_by_role("tab", name=name).click()


def brings(page, path, who):
    """Choose a file for a character; the arrangement then."""
    opens(page, "Bring in")
    page.locator("#bring-for").select_option(label=who)
    return changed(page, lambda: page.locator("#files").set_input_files(path))


def writes(page, text):
    """Add lines in the Script view."""
    page.get_by_label("More lines").fill(text)
    with page.expect_response("**/script/import"):
        page.get_by_role("button", name="Add the lines").click()
    expect(page.get_by_label("More lines")).to_have_value("")


def reads(page, button="Read"):
    """Press Read in the Script view and wait until its own job is done."""
    with page.expect_response("**/script/read") as answer:
        page.get_by_role("button", name=button, exact=True).click()
    its_job_is_done(page, answer.value)


def its_job_is_done(page, answer):
    """Wait until the job that an answer of the server shows is done, and no other."""
    job = re.search(r'id="job-(\d+)"', answer.text())[1]
    expect(page.locator(f"#job-{job}.job-done")).to_be_attached(timeout=90_000)


def stave_of(page):
    """The desk's first stave as the server has it."""
    address = json.loads(page.locator("#desk-document").text_content())["staves"][0]["url"]
    return page.request.get(address).json()


def until(page, script, seconds=15):
    """Ask the page again and again until it says yes; its policy lets nothing be evaluated inside it."""
    end = time.monotonic() + seconds
    while not page.evaluate(script):
        assert time.monotonic() < end, script
        page.wait_for_timeout(30)


def new_production(page, name):
    """From the shelf: a production of its own."""
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_role("button", name="Create production").click()
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def drawing(folder, shape, name=""):
    """A drawing of a shape as a file of any name."""
    path = folder / f"{name or shape}.png"
    path.write_bytes(drawings.flat_png(shape))
    return path


def on_ribbon(page, frame, below=0):
    """Where a frame of the active stave's ribbon lies on the page, or something so far below."""
    drawn = page.locator("#staves").evaluate("canvas => ({...canvas.dataset})")
    box = page.locator("#staves").bounding_box()
    x = box["x"] + (frame - float(drawn["left"])) * float(drawn["perFrame"])
    return x, box["y"] + float(drawn["ribbon"]) + below


def drags_on_ribbon(page, start, end, below=0, through=lambda: None):
    """Drag on the ribbon from one frame to another."""
    page.mouse.move(*on_ribbon(page, start, below))
    page.mouse.down()
    page.mouse.move(*on_ribbon(page, (start + end) / 2, below), steps=3)
    page.mouse.move(*on_ribbon(page, end, below), steps=3)
    through()
    page.mouse.up()


def invited(page, name, role):
    """The link by which somebody joins, from the owner's People page."""
    page.get_by_label("Whom").fill(name)
    page.get_by_label("As", exact=True).select_option(role)
    page.get_by_role("button", name="Make a link").click()
    return page.get_by_label(f"Link for {name}").input_value()
