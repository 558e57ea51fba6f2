"""What cleaning a mouth track up costs: 43 tasks, each done in headless Chromium and looked at, its entries counted;
python -m bench.tasks. An entry is a key with what is held with it, a press, a drag, or a field that is filled."""

import itertools
import json
import re
import sys
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.steps import desk_ready, drags_on_ribbon, on_ribbon, stave_of

from .browsing import demo

Stave = dict[str, Any]
Done = Callable[[Stave, Stave, range], bool]

SCENE = "1 · Fog"
_KEY = re.compile(r"(?:(?:Control|Alt|Shift)\+)*(?:Arrow\w+|Home|End|Delete|Enter|Escape|.)")
_REST_MS = 150


@dataclass(frozen=True)
class Task:
    """Something that is done to a track. keys: its entries, in order; done: whether what was asked for came of
    it, from the stave before and after and the frames of the exposure at the playhead; first: entries
    that lead there and are not counted."""

    name: str
    keys: str
    done: Done
    first: str = ""

    @property
    def entries(self) -> list[str]:
        """The entries one by one."""
        return self.keys.split(" | ")


def seen(stave: Stave) -> list[str]:
    """Return the drawing of each frame."""
    return [one["drawing"] for one in stave["exposures"] for _ in range(one["frames"])]


def differing(was: Stave, now: Stave) -> set[int]:
    """Return the frames on which another drawing is seen."""
    return {n for n, (one, other) in enumerate(zip(seen(was), seen(now), strict=True)) if one != other}


def pinned(stave: Stave) -> set[int]:
    """Return the frames a person decided."""
    return {n for one in stave["exposures"] if one["pinned"] for n in range(one["frame"], one["frame"] + one["frames"])}


def starts(stave: Stave) -> list[int]:
    """Return the frames on which exposures begin."""
    return [one["frame"] for one in stave["exposures"]]


def words(stave: Stave) -> list[dict[str, Any]]:
    """Return the words of a stave."""
    return [word for line in stave["lines"] for word in line["words"]]


def only_here(was: Stave, now: Stave, own: range) -> bool:
    """Return whether all frames of an exposure show another drawing, and no others do."""
    return differing(was, now) == set(own)


def gone(was: Stave, now: Stave, own: range) -> bool:
    """Return whether what an exposure showed is seen there no more."""
    return set(own) & differing(was, now) != set()


def begins(by: int) -> Done:
    """Return whether an exposure begins so many frames later."""
    return lambda was, now, own: own.start + by in starts(now) and seen(now)[own.start + by] == seen(was)[own.start]


def ends(by: int) -> Done:
    """Return whether an exposure ends so many frames later."""
    return lambda was, now, own: own.stop + by in starts(now) and seen(now)[own.stop + by - 1] == seen(was)[own.start]


def slid(by: int) -> Done:
    """Return whether an exposure lies so many frames later, as long as it was."""
    return lambda was, now, own: any(
        (one["frame"], one["frames"], one["drawing"]) == (own.start + by, len(own), seen(was)[own.start])
        for one in now["exposures"]
    )


def moved(which: str, by: float) -> Callable[[Stave, Stave, range], bool]:
    """Return whether a word begins so much later, in frames; which: the word, or all of its line."""

    def done(was: Stave, now: Stave, own: range) -> bool:
        later = [round(24 * (b["start"] - a["start"]), 1) for a, b in zip(words(was), words(now), strict=True)]
        return by in later and (which == "word" or later.count(by) > 1)

    return done


TASKS = (
    Task("another drawing, where the playhead is", "2", only_here),
    Task("the next likely drawing", "x", only_here),
    Task("a neighbour on the map: rounder", "Alt+ArrowRight", only_here),
    Task("the mouth at rest", "q", lambda w, n, own: {seen(n)[f] for f in own} == {seen(w)[0]}),
    Task("no mouth at all", "e", lambda w, n, own: {seen(n)[f] for f in own} == {""}),
    Task("split at the playhead", "s", lambda w, n, own: own.start + 1 in starts(n)),
    Task("two exposures made one", "press it | Shift+N | m", lambda w, n, own: own.stop not in starts(n)),
    Task("take it away, closed up by the sound", "Delete", gone),
    Task("take it away, the one before is held", "Shift+Delete", lambda w, n, own: own.start not in starts(n)),
    Task("held to the next that is set", "h", lambda w, n, own: own.stop not in starts(n)),
    Task("pinned as it is", "p", lambda w, n, own: pinned(n) - pinned(w) == set(own)),
    Task("free again", "p", lambda w, n, own: pinned(n) == set() != pinned(w), first="p"),
    Task("begins a frame earlier", "[", begins(-1)),
    Task("ends a frame later", "}", ends(1)),
    Task("a seam dragged by two frames", "drag seam -2", begins(-2)),
    Task("slid a frame later", "Control+ArrowRight", slid(1)),
    Task("dragged two frames later", "drag block 2", slid(2)),
    Task("slid with the word that is said there", "Control+Shift+ArrowRight", moved("word", 1.0)),
    Task("begins on a frame that is typed", "press it | First frame of the exposure=-1", begins(-1)),
    Task("held for as many frames as are typed", "press it | Frames it is held=+1", ends(1)),
    Task(
        "comes in over two frames",
        "press it | Frames over which it comes in=2",
        lambda w, n, own: n["eases"] != w["eases"],
    ),
    Task("copied to the end", "Control+c | End | Control+v", lambda w, n, own: seen(n)[-1] == seen(w)[own.start]),
    Task(
        "moved to the end",
        "Control+x | End | Control+v",
        lambda w, n, own: seen(n)[-1] == seen(w)[own.start] and gone(w, n, own),
    ),
    Task(
        "in to out filled with one drawing",
        "i | Shift+ArrowRight | o | g | 2",
        lambda w, n, own: len(set(seen(n)[own.start + 1 : own.start + 25])) == 1,
    ),
    Task(
        "a pattern laid over in to out",
        "Control+c | i | Shift+ArrowRight | o | Control+Shift+V",
        lambda w, n, own: len(set(seen(n)[own.start : own.start + 24])) == 1,
    ),
    Task(
        "repeated behind itself",
        "press it | Repeat",
        lambda w, n, own: set(seen(n)[own.stop : own.stop + len(own)]) == {seen(w)[own.start]},
    ),
    Task("everywhere the same drawing, another", "y | 2", lambda w, n, own: seen(w)[own.start] not in seen(n)),
    Task("the line's mouths pinned", "Choose line | p", lambda w, n, own: len(pinned(n)) > len(own)),
    Task(
        "the word's mouths one other drawing",
        "Choose word | 2",
        lambda w, n, own: set(own) <= differing(w, n) | pinned(n),
    ),
    Task("all pinned", "Control+a | p", lambda w, n, own: len(pinned(n)) == len(seen(n))),
    Task("laid by ear while it plays", "  | t |  ", lambda w, n, own: pinned(n) != set()),
    Task(
        "other settings over in to out",
        "i | Shift+ArrowRight | o | Range | Hold over the range=4 | Set",
        lambda w, n, own: n["passages"] != w["passages"],
    ),
    Task(
        "in to out set apart from the plan",
        "i | Shift+ArrowRight | o | Range | Set the range apart",
        lambda w, n, own: any(one.get("own") for one in n["exposures"]),
    ),
    Task(
        "the track kept as a take",
        "Takes | Name of the take=calm | Keep as a take",
        lambda w, n, own: len(n["takes"]) == len(w["takes"]) + 1,
    ),
    Task("the word a frame later", "w | Alt+ArrowRight", moved("word", 1.0)),
    Task(
        "the word a frame later, with the mouth set on it",
        "w | Alt+ArrowRight",
        lambda w, n, own: pinned(n) == {frame + 1 for frame in pinned(w)},
        first="press it | 2",
    ),
    Task("its line a frame later", "w | Alt+Shift+ArrowRight", moved("line", 1.0)),
    Task(
        "a sound's beginning a frame earlier",
        "w | ] | ] | Alt+ArrowLeft",
        lambda w, n, own: [x["sounds"] for x in words(n)] != [x["sounds"] for x in words(w)],
    ),
    Task(
        "the word is not said",
        "w | Delete",
        lambda w, n, own: sum(x["said"] for x in words(n)) == sum(x["said"] for x in words(w)) - 1,
    ),
    Task(
        "the word looks right",
        "w | Enter",
        lambda w, n, own: [x["pinned"] for x in words(n)] != [x["pinned"] for x in words(w)],
    ),
    Task("joined with the next word", "w | j", lambda w, n, own: len(words(n)) == len(words(w)) - 1),
    Task("the next thing to look at is meant so", "c | Shift+F", lambda w, n, own: n["meant"] != w["meant"]),
    Task("taken back", "Control+z", lambda w, n, own: len(differing(w, n)) > 0, first="2"),
)


class Desk:
    """The desk of a scene, worked on."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def does(self, entry: str) -> None:
        """Do what an entry says: a key, a field that is filled, a drag, a press on the exposure or on a name."""
        page = self.page
        if _KEY.fullmatch(entry):
            page.keyboard.press(entry)
        elif entry.startswith("drag"):
            self._drags(*entry.split()[1:])
        elif entry == "press it":
            page.mouse.click(*on_ribbon(page, self.own(stave_of(page)).start + 1.5))
        elif "=" in entry:
            self._fills(*entry.split("="))
        elif entry.startswith("Choose"):
            page.locator(".mouth-row button").filter(has_text=re.compile(f"^{entry.split()[1]}$")).click()
        else:
            button = page.get_by_role("button", name=entry, exact=True).or_(page.get_by_role("tab", name=entry))
            button.filter(visible=True).first.click()
        page.wait_for_timeout(_REST_MS)
        expect(page.locator("#desk")).not_to_have_attribute("data-busy", "yes")

    def _fills(self, label: str, value: str) -> None:
        field = self.page.get_by_label(label, exact=True)
        by = int(field.input_value()) + int(value) if value[0] in "+-" else value
        field.fill(str(by))
        field.press("Enter")

    def _drags(self, what: str, by: str) -> None:
        begin = self.own(stave_of(self.page)).start + (0 if what == "seam" else 1.5)
        drags_on_ribbon(self.page, begin, begin + int(by))

    def state(self) -> Stave:
        """Return the stave as the server has it, with its takes."""
        found: Stave = stave_of(self.page)
        return found | self.page.request.get(found["takesUrl"]).json()

    def own(self, stave: Stave) -> range:
        """Return the frames of the exposure that is worked on: the first of some length amid speech."""
        track = stave["exposures"]
        one = next(b for a, b in itertools.pairwise(track[2:]) if min(a["frames"], b["frames"]) > 3)
        return range(one["frame"], one["frame"] + one["frames"])

    def begins(self, own: range) -> None:
        """Let go of everything, the playhead on the second frame of what is worked on."""
        page = self.page
        page.get_by_role("tab", name="Mouths", exact=True).click()
        given = json.loads(page.locator("#desk-document").text_content() or "")
        page.locator("#frame-number").fill(str(given["scene"]["startFrame"] + own.start + 1))
        page.locator("#frame-number").press("Enter")
        page.locator("#staves").focus()
        for _ in range(3):
            page.keyboard.press("Escape")
        page.wait_for_timeout(_REST_MS)

    def undoes(self, was: Stave) -> None:
        """Take back what was done until all is as it was."""
        for _ in range(8):
            now = stave_of(self.page)
            if (now["exposures"], now["lines"]) == (was["exposures"], was["lines"]):
                return
            self.page.locator("#staves").focus()
            self.page.keyboard.press("Control+z")
            self.page.wait_for_timeout(2 * _REST_MS)
        raise AssertionError("It could not be taken back.")


def walk(page: Page, tasks: tuple[Task, ...]) -> list[tuple[Task, bool]]:
    """Return each task, and whether what was asked for came of its entries."""
    desk, found = Desk(page), []
    for task in tasks:
        clean = stave_of(page)
        own = desk.own(clean)
        desk.begins(own)
        for entry in task.first.split(" | ") if task.first else ():
            desk.does(entry)
        was = desk.state()
        for entry in task.entries:
            desk.does(entry)
        found.append((task, task.done(was, desk.state(), own)))
        desk.undoes(clean)
    return found


def main() -> None:
    """Print the table."""
    only = sys.argv[1:]
    with demo("tinfork_tasks") as (page, _, _):
        page.get_by_text("The Salt Ferry").click()
        page.get_by_text(SCENE).click()
        desk_ready(page)
        found = walk(page, tuple(task for task in TASKS if not only or task.name in only))
    for task, done in found:
        state = "done" if done else "NOT DONE"
        print(f"| {task.name} | {len(task.entries)} | {task.keys.replace(' | ', ', ')} | {state} |")
    entries = sum(len(task.entries) for task, _ in found)
    print(f"{len(found)} tasks, {entries} entries, {sum(done for _, done in found)} done")


if __name__ == "__main__":
    main()
