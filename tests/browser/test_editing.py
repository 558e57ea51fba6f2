"""Clean-up: every correction of a mouth track by mouse and by key alone, in two tabs, and without a connection."""

import itertools
import json
import random
import re

import pytest
from playwright.sync_api import expect

from tests.browser.boxes import DRAWN
from tests.browser.spare import BREDE_READ
from tests.browser.steps import desk_ready, drags_on_ribbon, on_ribbon, stave_of, until


@pytest.fixture
def track(demo, scenes):
    """The desk of a scene with one read line, as it was planned."""
    demo.goto(f"/scenes/{next(scenes[BREDE_READ])}/reading/")
    desk_ready(demo)
    demo.locator("#staves").focus()
    return demo


def rows(page):
    return [(e["frame"], e["frames"], e["drawing"]) for e in stave_of(page)["exposures"]]


def does(page, *keys):
    """Press keys of which the last asks for an edit; the track then, when the page shows it."""
    *before, last = keys
    for key in before:
        page.keyboard.press(key)
    return after(page, lambda: page.keyboard.press(last))


def presses(page, name):
    return after(page, lambda: page.get_by_role("button", name=name, exact=True).click())


def after(page, action):
    """The track after an action that asks for an edit, when the page has taken it in."""
    with page.expect_response("**/edit") as asked:
        action()
    assert asked.value.status == 200, asked.value.text()
    expect(page.locator("#desk")).to_have_attribute("data-busy", "no")
    return rows(page)


def chosen(page):
    return [int(frame) for frame in page.locator("#desk").get_attribute("data-chosen").split()]


def undoes(page, before):
    while page.locator("#undo").is_enabled():
        does(page, "Control+z")
        if rows(page) == before:
            return
    assert rows(page) == before


def test_the_track_is_cleaned_up_by_key_alone(track):
    page = track
    before = rows(page)
    page.keyboard.press("Home")
    for _ in range(3):
        page.keyboard.press("n")
    own = next(row for row in before if row[0] == chosen(page)[0])
    second = page.locator("#mouth-map button", has=page.locator("kbd", has_text="2")).get_attribute("data-drawing")
    assert (own[0], own[1], second) in does(page, "2")
    assert (own[0] - 1, own[1] + 1, second) in does(page, "[")
    assert (own[0] - 1, own[1] + 2, second) in does(page, "}")
    assert (own[0], own[1] + 2, second) in does(page, "Control+ArrowRight")
    expect(page.locator("#desk")).to_have_attribute("data-chosen", str(own[0]))
    split = does(page, "ArrowRight", "s")
    assert [row[2] for row in split if own[0] <= row[0] <= own[0] + 1] == [second, second]
    expect(page.locator("#desk")).to_have_attribute("data-chosen", str(own[0] + 1))
    page.keyboard.press("b")
    page.keyboard.press("Shift+N")
    assert len(chosen(page)) == 2
    assert (own[0], own[1] + 2, second) in does(page, "m")
    assert (own[0], own[1] + 2, "") in does(page, "e")
    rests = before[0][2]
    assert (own[0], own[1] + 2, rests) in does(page, "q")
    assert (own[0], own[1] + 2, rests) not in does(page, "Delete")
    page.keyboard.press("n")
    page.keyboard.press("Control+c")
    expect(page.locator("#problem")).to_contain_text("Copied 1 exposure")
    copied = next(row for row in rows(page) if row[0] == chosen(page)[0])
    pasted = does(page, "End", "ArrowLeft", "ArrowLeft", "ArrowLeft", "ArrowLeft", "Control+v")
    assert pasted[-2][2] == copied[2]
    tapped = does(page, "Home", "t")
    assert tapped[0][0:2] == (0, 2)
    everything = does(page, "Control+a", "p")
    assert len(chosen(page)) == len(everything)
    assert all(e["pinned"] for e in stave_of(page)["exposures"])
    undoes(page, before)


def decided(page):
    """What a person decided on each frame: a drawing, or nothing."""
    track = stave_of(page)["exposures"]
    return [e["drawing"] if e["pinned"] else None for e in track for _ in range(e["frames"])]


def outlined(page):
    """The frames that the verb under the pointer says it would change."""
    spans = json.loads(page.locator("#staves").get_attribute("data-outlined"))
    return {frame for first, end in spans for frame in range(first, end)}


MOVES = ["ArrowRight", "Shift+ArrowRight", "ArrowLeft", "Home", "n", "b", "Shift+N", "Escape", "i", "o", "g", "y"]
PICKS = ["1", "2", "3", "4", "9", "e"]


def differing(was, now):
    """The frames on which two of what is seen or decided differ."""
    return {frame for frame, (one, other) in enumerate(zip(was, now, strict=True)) if one != other}


def seen(page):
    """The drawing of each frame."""
    return [drawing for _, frames, drawing in rows(page) for _ in range(frames)]


def told(page):
    """The frames that the last edit is said to have changed, where they are one stretch."""
    frames, first = re.search(r"(\d+) frames?, from (\d+)", page.locator("#told").inner_text()).groups()
    return set(range(int(first) - 1, int(first) - 1 + int(frames)))


def plays_and_picks(page, dice):
    """While it plays a pick is laid by ear: where the playhead was, as long as a hold, and there alone but for bits of
    what was decided that are shorter than one."""
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    was = decided(page)
    page.keyboard.press(" ")
    expect(page.locator("#desk")).to_have_attribute("data-playing", "yes")
    until(page, f"Number(document.getElementById('desk').dataset.frame) > {dice.randint(3, 12)}")
    after(page, lambda: page.keyboard.press(dice.choice(PICKS)))
    page.keyboard.press(" ")
    assert differing(was, decided(page)) <= told(page)
    hold = stave_of(page)["settings"]["hold"]
    assert hold <= len(told(page)) < 3 * hold


def drags_a_seam(page, dice):
    """Only what the seam went over is another drawing."""
    track = rows(page)
    seams = [b[0] for a, b in itertools.pairwise(track) if min(a[1], b[1]) > 3 and a[2] != b[2]]
    if not seams:
        return
    start, was = dice.choice(seams), seen(page)
    end = start + dice.choice([-2, -1, 1, 2])
    after(page, lambda: drags_on_ribbon(page, start, end))
    assert differing(was, seen(page)) == told(page) == set(range(min(start, end), max(start, end)))


WALKS = [plays_and_picks, drags_a_seam, drags_a_seam]


def test_what_is_changed_is_what_was_outlined_wherever_one_has_walked(track):
    """The pointer rests on the map, so that what a pick would change is outlined; it is picked by key and by mouse.
    Between picks it is played, and seams are dragged."""
    page, dice = track, random.Random(11)
    before, picked = rows(page), 0
    for _ in range(50):
        if picked == 9:
            break
        for _ in range(dice.randint(1, 5)):
            page.keyboard.press(dice.choice(MOVES))
        pictures = page.locator("#mouth-map button[data-drawing]")
        picture = pictures.nth(dice.randrange(pictures.count()))
        picture.hover()
        page.evaluate(DRAWN)
        aim, was = outlined(page), decided(page)
        if not aim:
            continue
        by_key = dice.random() < 0.6
        after(page, (lambda: page.keyboard.press(dice.choice(PICKS))) if by_key else picture.click)
        now = decided(page)
        assert differing(was, now) <= aim
        assert all(now[frame] is not None for frame in aim)
        expect(page.locator("#told")).to_contain_text(f"from {min(aim) + 1}")
        page.locator("#staves").focus()
        picked += 1
        if picked % 2:
            WALKS[picked // 2 % len(WALKS)](page, dice)
    assert picked == 9  # where in to out were to be filled, and are no more, nothing is
    undoes(page, before)
    expect(page.locator("#told")).to_be_hidden()


def test_what_was_set_by_hand_goes_with_its_word_unless_it_is_to_stay(track):
    page = track
    words = [word for line in stave_of(page)["lines"] for word in line["words"]]
    word = max(words, key=lambda one: one["end"] - one["start"])
    page.locator("#frame-number").fill(str(int((word["start"] + word["end"]) / 2 * 24) + 1))
    page.locator("#frame-number").press("Enter")
    page.locator("#staves").focus()
    does(page, "p")
    was = decided(page)
    does(page, "w", "Alt+ArrowRight")
    assert decided(page) == [None, *was[:-1]]
    does(page, "Control+z")
    assert decided(page) == was
    page.keyboard.press("w")
    page.get_by_label("mouths set by hand stay on their frames").check()
    page.locator("#staves").focus()
    does(page, "Alt+ArrowRight")
    assert decided(page) == was
    page.get_by_label("mouths set by hand stay on their frames").uncheck()


def test_the_track_is_cleaned_up_by_mouse(track):
    page = track
    before = rows(page)
    canvas = page.locator("#staves")
    own = next(row for row in before if row[1] >= 4 and row[0] > 6)

    # A seam; the mirror shows what would be seen while it is dragged, and letting go outside the window is no harm.
    def lets_go():
        expect(page.locator("#mirror")).to_have_attribute("data-drawing", own[2])
        page.keyboard.press("Escape")

    drags_on_ribbon(page, own[0], own[0] - 2, through=lets_go)
    assert rows(page) == before
    moved = after(page, lambda: drags_on_ribbon(page, own[0], own[0] - 2))
    assert (own[0] - 2, own[1] + 2, own[2]) in moved
    undoes(page, before)
    moved = after(page, lambda: drags_on_ribbon(page, own[0] + 1.5, own[0] + 2.5))
    assert (own[0] + 1, own[1], own[2]) in moved
    undoes(page, before)
    # Many at once: under the ribbon, or with Control.
    drags_on_ribbon(page, before[1][0] + 0.5, before[4][0] + 0.5, below=40)
    assert chosen(page) == [row[0] for row in before[1:5]]
    page.keyboard.down("Control")
    page.mouse.click(*on_ribbon(page, before[2][0] + 0.5))
    page.keyboard.up("Control")
    assert chosen(page) == [before[n][0] for n in (1, 3, 4)]
    both = presses(page, "At rest")
    assert {(*before[n][:2], before[0][2]) for n in (1, 3, 4)} <= set(both)
    undoes(page, before)
    # A drawing of the map dropped on an exposure; typed frames.
    x, y = on_ribbon(page, own[0] + 1)
    box = canvas.bounding_box()
    place = {"x": x - box["x"], "y": y - box["y"]}
    last = page.locator("#mouth-map button[data-drawing]").last
    name = last.get_attribute("data-drawing")
    assert (own[0], own[1], name) in after(page, lambda: last.drag_to(canvas, target_position=place))
    page.mouse.click(*on_ribbon(page, own[0] + 1))
    held = page.get_by_label("Frames it is held")
    held.fill("2")
    assert (own[0], 2, name) in after(page, lambda: held.press("Enter"))
    undoes(page, before)


def test_ranges_takes_checks_and_the_history(track):
    page = track
    before = rows(page)
    page.get_by_role("tab", name="Takes").click()
    page.get_by_label("Name of the take").fill("As planned")
    page.get_by_role("button", name="Keep as a take").click()
    expect(page.locator("#dock-takes strong")).to_have_text("As planned")
    page.locator("#staves").focus()
    for key in ("Home", *["ArrowRight"] * 9, "i", *["ArrowRight"] * 9, "o"):
        page.keyboard.press(key)
    page.get_by_role("tab", name="Range").click()
    presses(page, "Set the range apart")
    page.get_by_label("How much taller, times").fill("1,6")
    with page.expect_response("**/edit"):
        page.get_by_label("How much taller, times").press("Tab")
    page.get_by_role("tab", name="Mouths").click()
    page.locator("#staves").focus()
    in_range = does(page, "b", "e")
    assert in_range != before
    assert [row for row in in_range if row[0] > 20] == [row for row in before if row[0] > 20]
    page.get_by_role("tab", name="Takes").click()
    page.get_by_role("button", name="See what it changes").click()
    expect(page.locator("#dock-takes")).to_contain_text("would change")
    expect(page.locator("#mirror-take svg")).to_be_visible()
    page.get_by_role("button", name="See what it changes").click()
    expect(page.locator("#mirror-take svg")).to_be_hidden()
    page.get_by_role("button", name="Compare", exact=True).click()
    expect(page.locator("#mirror-take svg")).to_be_visible()
    page.locator("#staves").focus()
    expect(page.locator("#desk")).to_have_attribute("data-shown", "track")
    page.keyboard.press("a")
    expect(page.locator("#desk")).to_have_attribute("data-shown", "take")

    expect(page.get_by_role("tab", name="Checks")).to_contain_text("2")
    page.keyboard.press("c")
    expect(page.locator("#dock-checks")).to_be_visible()
    expect(page.locator("#dock-checks")).to_contain_text("No mouth is shown for 2 frames.")
    expect(page.locator(".check-row.marked")).to_have_count(1)
    after(page, lambda: page.keyboard.press("Shift+F"))
    expect(page.get_by_role("tab", name="Checks")).to_contain_text("1")
    expect(page.locator(".check-row.faded")).to_contain_text("No mouth is shown for 2 frames.")
    after(page, lambda: page.get_by_role("button", name="Look at it again").click())
    expect(page.get_by_role("tab", name="Checks")).to_contain_text("2")
    page.get_by_role("tab", name="History").click()
    expect(page.locator(".history-row").first).to_contain_text("look at it again")
    page.locator(".history-row", has_text="bend a stretch").get_by_role("button", name="Take back alone").click()
    expect(page.locator(".history-row").first).to_contain_text("take back: bend a stretch")
    page.locator(".history-row", has_text="a stretch set apart").get_by_role("button", name="Go back to here").click()
    expect(page.locator(".history-row.faded")).to_have_count(5)
    page.locator("#staves").focus()
    assert does(page, "Control+z") == before
    expect(page.locator("#problem")).to_contain_text("Undone: a stretch set apart")


def test_two_tabs_see_each_other_and_edits_without_a_connection_wait(track):
    page = track
    before = rows(page)
    other = page.context.new_page()
    other.goto(page.url)
    desk_ready(other)
    expect(other.locator("#desk")).to_have_attribute("data-whole", "yes")
    does(page, "Home", "n", "n", "e")
    frame = chosen(page)[0]
    expect(other.locator("#problem")).to_contain_text("was changed elsewhere")
    other.locator("#staves").focus()
    other.keyboard.press("Home")
    for _ in range(2):
        other.keyboard.press("n")
    expect(other.locator("#neighbours .now")).to_contain_text("nothing")

    # Both at once: the second is refused, shown what is there now, and offered again.
    does(page, "n", "q")
    other.keyboard.press("n")
    with other.expect_response("**/edit") as refused:
        other.keyboard.press("e")
    if refused.value.status == 409:
        expect(other.locator("#problem")).to_contain_text("changed meanwhile")
        with other.expect_response("**/edit"):
            other.get_by_role("button", name="Do it again on what is there now").click()
    expect(other.locator("#desk")).to_have_attribute("data-busy", "no")
    other.close()

    page.wait_for_timeout(2600)
    now = rows(page)
    page.route("**/edit", lambda route: route.abort())
    page.locator("#staves").focus()
    page.keyboard.press("Escape")
    for key in ("Home", "e", "n", "n", "e"):
        page.keyboard.press(key)
    expect(page.locator("#problem")).to_contain_text("No connection: 2 edits wait")
    assert rows(page) == now
    page.unroute("**/edit")
    expect(page.locator("#problem")).not_to_contain_text("No connection")
    expect(page.locator("#desk")).to_have_attribute("data-busy", "no")
    expect(page.locator("#problem")).to_be_hidden()
    kept = rows(page)
    assert kept[0] == (*now[0][:2], "")
    assert (*now[2][:2], "") in kept
    undoes(page, before)
    assert frame


def test_another_chart_the_sound_along_and_all_of_one_person(track):
    page = track
    before = rows(page)
    other = page.context.new_page()
    other.goto(page.url)
    desk_ready(other)
    does(page, "Home", *["ArrowRight"] * 12, "p")
    for key in ("Home", *["ArrowRight"] * 9, "i", *["ArrowRight"] * 9, "o"):
        page.keyboard.press(key)
    page.get_by_role("tab", name="Range").click()
    page.get_by_label("Mood over the range").select_option(label="drawings of Paper cut-outs")
    lent = presses(page, "Set mood")
    outside = [[row for row in track if row[0] + row[1] <= 8 or row[0] >= 18] for track in (before, lent)]
    assert outside[0] == outside[1]
    assert {drawing.startswith("Paper cut-outs · ") for frame, _, drawing in lent if 9 <= frame < 17} == {True}
    # What was set by hand is shown in them too.
    (own,) = (one for one in stave_of(page)["exposures"] if one["pinned"])
    assert own["drawing"].startswith("Paper cut-outs · ")
    for key in ("Home", *["ArrowRight"] * 12):
        page.keyboard.press(key)
    expect(page.locator("#mirror")).to_have_attribute("data-drawing", re.compile("^Paper cut-outs · "))
    expect(page.locator("#mirror svg [data-mouth][display=inline]")).to_have_count(1)
    page.get_by_role("tab", name="Mouths").click()
    for beside in ("exposure ▸", "◂ exposure"):
        page.get_by_role("button", name=beside).click()
    page.get_by_label("Frames over which it comes in").fill("4")
    after(page, lambda: page.get_by_label("Frames over which it comes in").press("Tab"))
    page.keyboard.press("ArrowLeft")
    expect(page.locator("#mirror svg [data-mouth][display=inline]")).to_have_count(2)
    page.get_by_role("tab", name="History").click()
    page.get_by_label("Whose steps").select_option(index=1)
    page.get_by_role("button", name="Take back all of theirs").click()
    expect(page.locator(".history-row").first).to_contain_text("take back all by")
    expect(page.locator("#undo")).to_be_enabled()
    assert {frame for frame, *_ in rows(page)} == {0}, "nothing was read, nothing moves"
    page.locator("#staves").focus()
    assert does(page, "Control+z") == lent

    # The sound goes along, and the other page hears of it.
    page.get_by_role("tab", name="Mouths").click()
    page.get_by_label("What goes along").select_option("sound")
    page.locator("#staves").focus()
    page.keyboard.press("Control+a")
    heard = rows(page)
    moved = does(page, "Control+ArrowRight")
    later = [(frame + 1, drawing) for frame, _, drawing in heard[1:]]
    assert [(frame, drawing) for frame, _, drawing in moved[1:]] == later
    expect(page.locator("#problem")).to_contain_text("1 clip slid a frame later.")
    expect(other.locator("#problem")).to_contain_text("The sound was changed elsewhere")
    page.get_by_label("What goes along").select_option("")
    page.locator("#staves").focus()
    assert does(page, "Control+z") == heard
    expect(other.locator("#problem")).to_contain_text("The sound was changed elsewhere")
