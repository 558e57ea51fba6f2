"""Every view and window can be used by everybody: axe finds nothing, in daylight and at night, and no text is cut,
covers another or makes the page scroll sideways, at several sizes of window."""

import time
from pathlib import Path

from tests.browser.boxes import AMISS, DRAWN
from tests.browser.steps import desk_ready, drawing, room_ready, view

AXE = Path(__file__).parents[2] / "node_modules" / "axe-core" / "axe.min.js"
USUAL = (1280, 800)
SIZES = {"1280x800": USUAL, "1920x1080": (1920, 1080), "1280x800 at 125%": (1024, 640)}
TELEPHONE = (390, 844)


class Looking:
    """What was found amiss wherever one has looked, in a line each."""

    def __init__(self, page):
        self.page, self.found = page, []

    def axe(self, where, within="html", only=()):
        """What axe finds in a part of the page; only: by these of its rules."""
        if not self.page.evaluate("'axe' in window"):
            self.page.evaluate(AXE.read_text())
        asked = {"resultTypes": ["violations"]} | ({"runOnly": list(only)} if only else {})
        found = self.page.evaluate("([within, asked]) => axe.run(within, asked)", [within, asked])
        self.found += [
            f"{where}: {one['id']}: {node['html'][:120]} ({node['failureSummary'].splitlines()[-1].strip()})"
            for one in found["violations"]
            for node in one["nodes"]
        ]

    def boxes(self, where):
        """What is cut or covered, at each size."""
        for size, own in SIZES.items():
            self.resized(own)
            self.found += [f"{where}, {size}: {one}" for one in self.page.evaluate(AMISS)]
        self.resized(USUAL)

    def telephone(self, where):
        """Whether it is as wide as a telephone."""
        self.resized(TELEPHONE)
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.found += [f"{where}: {wide} wide on a telephone"] if wide > TELEPHONE[0] else []
        self.resized(USUAL)

    def resized(self, size):
        """Another size of window, once what follows from it is drawn."""
        self.page.set_viewport_size(dict(zip(("width", "height"), size, strict=True)))
        self.page.evaluate(DRAWN)

    def switched(self):
        """Night where it was day, at once."""
        self.page.emulate_media(reduced_motion="reduce")
        self.page.locator(".bar-end").get_by_role("button").first.click()

    def in_both(self, where, address="**", within="html"):
        """What is found in daylight, and of colours at night, once the page of that address is there and has run."""
        self.page.wait_for_url(address, wait_until="load")
        if "script" in address:
            self.page.wait_for_selector("#script [data-line][data-number]")
        self.axe(where, within)
        self.switched()
        self.axe(f"{where}, at night", within, ["color-contrast"])
        self.switched()

    def at(self, where, address="**"):
        """All of it, of a whole view."""
        self.in_both(where, address)
        self.boxes(where)
        self.telephone(where)

    def tabs(self, where, within=".dock"):
        """What the tabs of a dock open."""
        for tab in self.page.locator(".dock-tabs [role=tab]:visible").all():
            tab.click()
            self.boxes(f"{where}, {tab.inner_text()}")
        self.page.evaluate(
            "document.querySelectorAll('.dock-page, .room-page').forEach((one) => { one.hidden = false; })"
        )
        self.in_both(f"{where}, what its tabs open", within=within)

    def window(self, where, name):
        """What a button opens, until it is closed."""
        self.page.get_by_role("button", name=name).click()
        self.axe(where)
        self.page.get_by_role("button", name="Close").click()

    def nothing(self):
        """Fails with all that was found."""
        assert not self.found, "\n".join(self.found)


def screening(page, looking):
    """Shots in a row, and the window that finds anything."""
    page.get_by_role("link", name="Screening").click()
    page.wait_for_selector("#rushes[data-ready=yes][data-seen=yes]")
    looking.at("screening", "**/screening/")
    page.keyboard.press("Control+Shift+F")
    page.get_by_label("Find anything").fill("fog")
    page.locator("#found a").first.wait_for()
    looking.axe("find")
    page.keyboard.press("Escape")


def test_pages_before_and_around_a_scene(page, tmp_path):
    looking = Looking(page)
    page.goto("/")
    looking.in_both("sign in")
    page.get_by_role("button", name="Enter as Demo Animator").click()
    page.get_by_text("The Salt Ferry").wait_for()
    looking.at("shelf", "**/")
    page.get_by_role("link", name="Bring a bundle in").click()
    looking.at("bringing a bundle in", "**/bundles/")
    page.go_back()
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.wait_for_selector("#board-page[data-ready]")
    looking.at("board", "**/productions/*/")
    page.get_by_text("New shots", exact=True).click()
    page.get_by_label("Who speaks?").fill("Marit, Brede")
    looking.at("start")
    page.get_by_label("Choose 2 · The goat").check()
    looking.boxes("shots chosen")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_role("link", name="People").click()
    looking.at("people", "**/people/")
    screening(page, looking)
    page.get_by_role("link", name="Cast and charts").click()
    looking.at("cast", "**/cast-and-charts/")
    page.get_by_label("Change Brede").click()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_label("Change Brede").click()
    page.get_by_placeholder("Chart").fill(f"Looked at {time.time()}")
    page.get_by_role("button", name="New chart").click()
    looking.in_both("empty chart", "**/charts/*/")
    page.locator("#drawing-files").set_input_files([drawing(tmp_path, name) for name in ("rest", "open")])
    page.get_by_role("button", name="Bring in").click()
    page.locator(".drawing-more summary").first.click()
    page.get_by_label("Name", exact=True).wait_for()
    looking.at("chart", "**/charts/*/")
    page.get_by_role("button", name="purse", exact=True).click()
    looking.axe("choosing a drawing")
    page.get_by_role("button", name="Leave it").click()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_title("Pock's face").click()
    page.locator("#face[data-ready]").wait_for()
    looking.at("face", "**/face/")
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_role("link", name="Your library").click()
    looking.in_both("library", "**/library/")
    page.go_back()
    page.get_by_role("link", name="Lexicon").click()
    looking.at("lexicon", "**/lexicon/")
    looking.nothing()


def test_the_views_of_a_scene_and_their_windows(demo):
    page, looking = demo, Looking(demo)
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("4 · Both").click()
    desk_ready(page)
    looking.at("desk")
    looking.tabs("desk")
    page.locator("#staves").focus()
    page.keyboard.press("w")
    looking.boxes("desk, a word")
    looking.window("keys", "Keys ?")
    _plays_on_a_telephone(page, looking)
    view(page, "Sound")
    room_ready(page)
    page.locator("#tracks").focus()
    page.keyboard.press("n")
    looking.at("Sound")
    looking.tabs("Sound", ".room-below")
    looking.window("keys of Sound", "Keys ?")
    page.get_by_role("tab", name="Bring in").click()
    page.locator("#bring-for").focus()
    page.locator("#bring-for").select_option("new")
    looking.axe("somebody new")
    page.get_by_role("button", name="Cancel").click()
    view(page, "Script")
    looking.at("Script", "**/script/")
    page.locator(".word").first.click()
    page.wait_for_selector("#word[open] .candidates li")
    looking.axe("word")
    looking.boxes("word")
    page.keyboard.press("Escape")
    view(page, "Acting")
    page.wait_for_selector("#acting[data-ready=yes]")
    looking.at("Acting", "**/acting/")
    looking.tabs("Acting")
    for name in ("Sheet", "Prompter", "Rushes"):
        view(page, name)
        page.wait_for_selector(f"#{name.lower()}[data-ready=yes]")
        looking.at(name, f"**/{name.lower()}/")
    view(page, "Hand-over")
    looking.at("Hand-over", "**/hand-over/")
    looking.nothing()


def _plays_on_a_telephone(page, looking):
    """The mirror is in sight when one plays there."""
    looking.resized(TELEPHONE)
    page.get_by_role("button", name="Play").click()
    mirror = page.locator("#mirror").bounding_box()
    page.get_by_role("button", name="Pause").click()
    assert mirror["y"] + mirror["height"] <= TELEPHONE[1]
    looking.resized(USUAL)
