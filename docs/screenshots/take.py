"""One picture of each main view, 1280x800, from the demo: script/screenshots"""

import os
import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from playwright.sync_api import Page, sync_playwright

FOLDER = Path(__file__).parent
VOICES = FOLDER.parents[1] / "tinfork" / "web" / "demo" / "voices"
SCENE = "2 · The goat has a season ticket"


def main(address: str) -> None:
    """Walk through the demo and keep a picture of each view."""
    arguments = ["--disable-background-networking", "--no-first-run"] + ["--no-sandbox"] * (os.getuid() == 0)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=arguments)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
        page.goto("/sign-in/")
        page.get_by_role("button", name="Enter as").click()
        page.locator(".shelf-item", has_text="The Salt Ferry").click()
        board(page)
        people(page)
        start(page)
        page.get_by_text(SCENE).click()
        desk(page)
        keep(page, "reading-desk")
        word(page)
        keep(page, "correcting")
        page.get_by_role("button", name="Undo").click()
        cleaning_up(page)
        script(page)
        view(page, "Acting")
        acting(page)
        keep(page, "acting")
        view(page, "Sheet")
        sheet(page)
        keep(page, "sheet")
        view(page, "Prompter")
        prompter(page)
        keep(page, "prompter")
        view(page, "Rushes")
        rushes(page)
        screening(page)
        view(page, "Hand-over")
        handed_over(page)
        keep(page, "hand-over")
        page.goto(page.url.replace("/hand-over/", "/changes"))
        changes(page)
        page.get_by_role("link", name="The Salt Ferry", exact=True).click()
        page.get_by_role("link", name="Cast and charts").click()
        page.get_by_role("link", name="Lexicon").click()
        keep(page, "lexicon")
        page.get_by_role("link", name="The Salt Ferry", exact=True).click()
        page.get_by_text("4 · Both").click()
        view(page, "Sound")
        sound(page)
        keep(page, "sound")
        chart(page)
        on_a_telephone(page)
        browser.close()


def board(page: Page) -> None:
    """The board, with the states of all shots known, and some of them chosen."""
    page.wait_for_selector("#board-page[data-ready]")
    page.locator(".shot [data-state='being looked at']").first.wait_for(state="detached", timeout=60_000)
    for name in ("1 · Fog at the north pier", "3 · The lighthouse bill"):
        page.get_by_label(f"Choose {name}").check()
    keep(page, "board")


def people(page: Page) -> None:
    """Who is in the production, and an invitation that waits."""
    page.get_by_role("link", name="People").click()
    if not page.get_by_label("Link for Hilde").count():
        page.get_by_label("Whom").fill("Hilde at the harbour")
        page.get_by_role("button", name="Make a link").click()
    keep(page, "people")
    page.get_by_role("link", name="Board").click()


def rushes(page: Page) -> None:
    """A version that was shown, with a note drawn on the picture, answered; and the version beside it."""
    page.wait_for_selector("#rushes[data-ready=yes]")
    if not page.locator("#notes > li").count():
        page.get_by_role("button", name="Show for review").click()
        page.locator("#versions-row").wait_for()
        page.locator("#frame-number").fill("112")
        page.locator("#frame-number").press("Enter")
        box = page.locator("#picture").bounding_box()
        assert box
        page.mouse.move(box["x"] + box["width"] * 0.2, box["y"] + box["height"] * 0.66)
        page.mouse.down()
        for x, y in ((0.25, 0.72), (0.3, 0.66), (0.25, 0.6), (0.2, 0.66)):
            page.mouse.move(box["x"] + box["width"] * x, box["y"] + box["height"] * y, steps=4)
        page.mouse.up()
        page.keyboard.type("He should look amused before he says it.")
        page.get_by_role("button", name="Write note").click()
        page.get_by_role("button", name="Answer", exact=True).click()
        page.keyboard.type("Two frames earlier, then.")
        page.locator("#notes form button").click()
        page.locator(".note-answer").wait_for()
    page.locator("#rushes").focus()
    page.keyboard.press("n")
    keep(page, "rushes")


def screening(page: Page) -> None:
    """The whole film in a row, in the middle of its second shot; then back to where it was."""
    here = page.url
    page.get_by_role("link", name="The Salt Ferry", exact=True).click()
    page.get_by_role("link", name="Screening").click()
    page.wait_for_selector("#rushes[data-ready=yes][data-seen=yes]")
    page.locator("#frame-number").fill("468")
    page.locator("#frame-number").press("Enter")
    page.wait_for_selector("#rushes[data-shot='1'][data-seen=yes]")
    keep(page, "screening")
    page.goto(here)


def voice(name: str) -> Path:
    """One of the demo's recordings."""
    return FOLDER.parents[1] / "tinfork" / "web" / "demo" / "voices" / f"{name}.flac"


def start(page: Page) -> None:
    """The first sounds of a scene, and its words."""
    page.get_by_text("New shots", exact=True).click()
    page.get_by_label("Who speaks?").fill("Marit, Brede")
    page.locator(".start input[type=file]").set_input_files([voice("fog-marit"), voice("goat-brede")])
    page.get_by_label("The words").fill("Marit: Fog at the north pier.\nBrede: Then the goat is early.")
    keep(page, "start")


def chart(page: Page) -> None:
    """A chart of somebody's own with its mouth map; a face of layers, from the side."""
    page.goto("/")
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_role("link", name="Carved on").click()
    page.locator(".try-face [data-mouth]").first.wait_for(state="attached")
    keep(page, "chart")
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_title("Pock's face").click()
    page.get_by_role("link", name="side right").click()
    page.locator("#face[data-ready]").wait_for()
    page.get_by_label("What to move").select_option(label="cabinet")
    keep(page, "face")


def on_a_telephone(page: Page) -> None:
    """The desk as it is on a telephone."""
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto("/")
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text(SCENE).click()
    page.wait_for_selector("#desk[data-ready=yes]")
    keep(page, "telephone-desk")


def desk(page: Page) -> None:
    """The desk in the middle of a line, with an exposure selected."""
    page.wait_for_selector("#desk[data-ready=yes]")
    page.get_by_role("tab", name="Pock").click()
    page.locator("#staves").click(position={"x": 250, "y": 10})
    page.get_by_role("button", name="exposure ▸").click()


def word(page: Page) -> None:
    """The desk with a word that was found right, and one of its sounds selected."""
    lanes = page.locator("#staves").evaluate("canvas => ({...canvas.dataset})")
    page.locator("#staves").click(position={"x": 90, "y": float(lanes["sounds"])})
    with page.expect_response("**/edit"):
        page.get_by_role("button", name="Looks right").click()


def cleaning_up(page: Page) -> None:
    """What there is to look at; and all of it taken back."""
    page.get_by_role("tab", name="Brede").click()
    page.locator("#staves").focus()
    for key in ("Home", *["n"] * 5, "e", "n", "n", "n", "Delete", "n", "q"):
        page.keyboard.press(key)
        page.wait_for_timeout(300)
    page.get_by_role("tab", name="Checks").get_by_text("2").wait_for()
    page.keyboard.press("c")
    keep(page, "checks")
    while page.locator("#undo").is_enabled() and page.locator("#undo").get_attribute("title") != "Undo: read (Ctrl+Z)":
        with page.expect_response("**/edit"):
            page.locator("#undo").click()
        page.wait_for_timeout(200)
    page.get_by_role("tab", name="Mouths", exact=True).click()


def changes(page: Page) -> None:
    """A new cut of somebody's sound, laid over the old one."""
    samples, rate = soundfile.read(VOICES / "goat-brede.flac", dtype="float32")
    gap, first, gone = np.zeros(rate, np.float32), int(5.2 * rate), int(2.1 * rate)
    cut = [samples[:first], gap, samples[first : 2 * first], samples[2 * first + gone :]]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "goat-brede, second cut.wav"
        soundfile.write(path, np.concatenate(cut) * 0.7, rate)
        page.get_by_label("The sound that lies here").select_option(label="goat-brede.flac · Brede")
        page.get_by_label("Its new version, a file").set_input_files(path)
        page.get_by_role("button", name="Compare").click()
        page.locator(".sound-map").wait_for(timeout=60_000)
    keep(page, "changes")


def view(page: Page, name: str) -> None:
    """Go to a view of the scene."""
    page.get_by_role("banner").get_by_role("link", name=name, exact=True).click()


def script(page: Page) -> None:
    """The Script view."""
    view(page, "Script")
    keep(page, "script")


def acting(page: Page) -> None:
    """Brede with a note on his phrase, some of it accepted, and a key of his own."""
    page.locator("#acting[data-ready=yes]").wait_for()
    page.get_by_role("tab", name="Brede").click()
    page.locator("#staves").focus()
    page.keyboard.press(">")
    page.get_by_label("Note on the phrase").fill("Patient; he has explained goats before.")
    page.get_by_label("Note on the phrase").blur()
    page.locator("#staves").focus()
    page.keyboard.press("Enter")
    page.wait_for_timeout(600)
    for _ in range(22):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("m")
    page.get_by_role("button", name="All", exact=True).click()
    page.locator("#staves").focus()
    page.keyboard.press("n")
    page.wait_for_timeout(800)


def sheet(page: Page) -> None:
    """The exposure sheet where a line begins, with a note, and its files opened."""
    page.wait_for_selector("#sheet[data-ready=yes]")
    page.get_by_label("Go to frame").fill("112")
    page.get_by_label("Go to frame").press("Tab")
    page.get_by_label("Note beside frame 96", exact=True).fill("Brede looks up from the engine")
    page.get_by_label("Note beside frame 96", exact=True).press("Tab")
    page.get_by_text("Print and files").click()
    page.get_by_label("Go to frame").fill("112")
    page.get_by_label("Go to frame").press("Enter")


def prompter(page: Page) -> None:
    """The prompter in the middle of a line, after two frames were shot and one is to be shot again."""
    page.wait_for_selector("#prompter[data-ready=yes]")
    page.get_by_label("Go to frame").fill("146")
    page.get_by_label("Go to frame").press("Tab")
    page.locator("#prompter").focus()
    for key in ("Enter", "Enter", "Backspace"):
        page.keyboard.press(key)
        page.wait_for_timeout(300)
    page.locator(".prompter-log summary").click()


def handed_over(page: Page) -> None:
    """Files that were made, and what will be made next."""
    for kind in ("WebM", "PNG sequence", "OpenTimelineIO"):
        page.get_by_label(kind, exact=True).check()
    if not page.locator(".made li").count():
        page.get_by_role("button", name="Make the files").click()
        page.locator(".made li").first.wait_for(timeout=120_000)
    face = page.locator(".stage-face").nth(1)
    face.focus()
    for key in ("ArrowRight", "ArrowRight", "ArrowDown", "ArrowDown", *["-"] * 4):
        face.press(key)
    page.evaluate("window.scrollTo(0, 0)")


def sound(page: Page) -> None:
    """The Sound view of the scene two people were recorded in together, with its voices told apart."""
    page.wait_for_selector("#sound[data-ready=yes]")
    page.locator("#tracks").click(position={"x": 420, "y": 10})
    page.locator("#tracks").click(position={"x": 420, "y": 120})
    page.get_by_role("tab", name="Who speaks when").click()
    page.get_by_role("button", name="Suggest by voice").click()
    page.get_by_text("Voice 2").wait_for()


def keep(page: Page, name: str) -> None:
    """Wait until the page has come to rest, and keep its picture."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(400)
    page.screenshot(path=str(FOLDER / f"{name}.png"))


if __name__ == "__main__":
    main(sys.argv[1])
