"""Acting: eyes, brows and head by mouse, by key alone, live while it plays, and on another face."""

import json

import pytest
from playwright.sync_api import expect

from tests.browser.spare import MARIT_READ
from tests.browser.steps import desk_ready, until, view

PAD = """
window.pad = { connected: true, axes: [0, 0, 0, 0], buttons: [{ pressed: false }] };
navigator.getGamepads = () => (window.pad ? [window.pad, null] : [null, null]);
"""


def acting_ready(page):
    page.wait_for_selector("#acting[data-ready=yes]")
    page.locator("#staves").focus()
    return page


@pytest.fixture
def acting(demo, scenes):
    """The Acting view of a scene with one read line of Marit's."""
    demo.goto(f"/scenes/{next(scenes[MARIT_READ])}/acting/")
    return acting_ready(demo)


def lanes(page, who=0):
    """What the server has of a character's acting."""
    own = json.loads(page.locator("#acting-document").text_content())["actings"][who]
    return page.request.get(own["url"]).json()


def after(page, action):
    """What the server has after an action that asks for an edit, when the page has taken it in."""
    with page.expect_response("**/edit") as asked:
        action()
    assert asked.value.status == 200, asked.value.text()
    expect(page.locator("#acting")).to_have_attribute("data-busy", "no")
    return lanes(page)


def does(page, *keys):
    *before, last = keys
    for key in before:
        page.keyboard.press(key)
    return after(page, lambda: page.keyboard.press(last))


def presses(page, name):
    return after(page, lambda: page.get_by_role("button", name=name, exact=True).click())


def gestures(document, part):
    return list(document["lanes"].get(part, {}).get("gestures", {}).values())


def at(page, part_number, frame, y=0.5):
    """Where a frame of a lane lies on the screen."""
    canvas = page.locator("#staves")
    box = canvas.bounding_box()
    told = {name: float(canvas.get_attribute(f"data-{name}")) for name in ("left", "per-frame", "lanes", "lane-height")}
    return (
        box["x"] + (frame + 0.5 - told["left"]) * told["per-frame"],
        box["y"] + told["lanes"] + (part_number + y) * told["lane-height"],
    )


def transform_of(page, part):
    return page.locator(f"#mirror [data-part='{part}']").first.get_attribute("transform")


def test_a_phrase_is_acted_by_key_alone(acting):
    page = acting
    document = does(page, "r")
    kinds = {one["kind"] for part in document["lanes"] for one in gestures(document, part)}
    assert "brows" in kinds
    expect(page.locator("#problem")).to_contain_text("gestures proposed")
    for _ in range(20):
        if any(one["kind"] == "nod" for one in gestures(document, "head")):
            break
        document = does(page, "a")
    still = transform_of(page, "head")
    nod = next(one for one in gestures(document, "head") if one["kind"] == "nod")
    for _ in range(60):
        page.keyboard.press("n")
        if "nod" in page.locator("#chosen-told").inner_text():
            break
    document = does(page, "Alt+ArrowRight")
    moved = [one for one in gestures(document, "head") if one["accepted"]]
    assert [one["frame"] for one in moved] == [nod["frame"] + 1]
    page.keyboard.press("Escape")
    for _ in range(6):
        page.keyboard.press("ArrowRight")
    assert transform_of(page, "head") != still
    document = does(page, "Enter")
    assert all(one["accepted"] for part in document["lanes"] for one in gestures(document, part))
    document = does(page, "ArrowDown", "ArrowDown", "2")
    assert [drawing for _, drawing in document["lanes"]["lids"]["shows"].values()] == ["shut"]
    expect(page.locator("#mirror [data-drawing=shut]").first).to_be_visible()
    document = does(page, "Control+z")
    assert not document["lanes"]["lids"]["shows"]
    page.keyboard.press("ArrowUp")
    page.keyboard.press("ArrowUp")
    document = does(page, "Alt+ArrowUp")
    assert len(document["lanes"]["head"]["keys"]["y"]) == 1
    document = does(page, "m")
    assert list(document["moments"].values()) == [[int(page.locator("#acting").get_attribute("data-frame"))]]
    presses(page, "Locked")
    page.keyboard.press("Alt+ArrowUp")
    expect(page.locator("#problem")).to_contain_text("locked")
    page.get_by_role("button", name="Keys ?").click()
    expect(page.locator("#keys")).to_contain_text("a key moment of the phrase")


def test_a_blink_pass_goes_round_what_was_set(acting):
    page = acting
    page.get_by_role("tab", name="Proposals").click()
    page.get_by_label("Propose only for").select_option("lids")
    page.get_by_label("Blinks a minute").fill("60")
    after(page, lambda: page.get_by_label("Blinks a minute").blur())
    document = presses(page, "Propose for the scene")
    assert set(document["lanes"]) == {"lids"}
    first = gestures(document, "lids")[0]["frame"]
    # A stare over the first blink, in to out.
    page.get_by_role("tab", name="Part", exact=True).click()
    page.locator("#frame-number").fill(str(max(1, first - 3)))
    page.keyboard.press("Enter")
    page.keyboard.press("i")
    page.locator("#frame-number").fill(str(first + 8))
    page.keyboard.press("Enter")
    page.keyboard.press("o")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    document = presses(page, "half")
    ((start, (frames, drawing)),) = document["lanes"]["lids"]["shows"].items()
    assert drawing == "half"
    page.get_by_role("tab", name="Proposals").click()
    after(page, lambda: page.get_by_role("button", name="Others", exact=True).click())
    until(page, "document.querySelector('#problem').textContent.includes('proposed')")
    document = lanes(page)
    assert document["lanes"]["lids"]["shows"] == {start: [frames, "half"]}
    over = [one for one in gestures(document, "lids") if int(start) - 3 < one["frame"] < int(start) + frames]
    assert not over
    accepted = presses(page, "Accept")
    assert all(one["accepted"] for one in gestures(accepted, "lids"))
    again = presses(page, "Propose for the scene")
    kept = [one for one in gestures(again, "lids") if one["accepted"]]
    assert [one["frame"] for one in kept] == [one["frame"] for one in gestures(accepted, "lids")]


def test_lanes_are_worked_by_mouse(acting):
    page = acting
    page.mouse.click(*at(page, 3, 20))
    expect(page.locator("#acting")).to_have_attribute("data-frame", "20")
    slider = page.get_by_label("left brow y", exact=True)
    document = after(page, lambda: page.get_by_label("left brow y, as a number").fill("-6") or slider.focus())
    assert document["lanes"]["left brow"]["keys"]["y"] == {"20": [-6, 0]}
    page.mouse.move(*at(page, 3, 20, 0.5 - 6 / 14 * 0.44))
    page.mouse.down()
    page.mouse.move(*at(page, 3, 26, 0.5), steps=4)
    document = after(page, page.mouse.up)
    ((frame, (value, _)),) = document["lanes"]["left brow"]["keys"]["y"].items()
    assert frame == "26"
    assert value > -3
    page.get_by_role("button", name="hold", exact=True).click()
    until(page, "document.querySelector('#acting').dataset.busy === 'no'")
    assert lanes(page)["lanes"]["left brow"]["keys"]["y"]["26"][1] == 2
    document = after(page, lambda: page.get_by_label("Leads by frames").fill("2") or slider.focus())
    assert document["lanes"]["left brow"]["of"]["lead"] == 2
    assert list(document["lanes"]["left brow"]["keys"]["y"]) == ["26"], (
        "a key stays where it was set, and is seen early"
    )
    page.mouse.click(*at(page, 1, 30))
    document = presses(page, "Look left")
    assert gestures(document, "eyes")[0]["dials"]["x"][1][1] == -6
    assert gestures(document, "head")[0]["accepted"]
    # What is said of the scene elsewhere acts too.
    view(page, "Reading")
    desk_ready(page)
    page.locator("#frame-number").fill("36")
    page.keyboard.press("Enter")
    lies = "document.querySelector('#mirror [data-part={}]').getAttribute('transform')"
    until(page, f"{lies.format('eyes')} !== {lies.format('head')}")
    view(page, "Sheet")
    page.wait_for_selector("#sheet[data-ready=yes]")
    expect(page.locator("[role=row]", has_text="eyes look").first).to_be_visible()


def test_a_pass_is_recorded_live_and_takes_only_its_frames(acting):
    page = acting
    before = does(page, "r")
    page.get_by_role("tab", name="Pass").click()
    page.get_by_label("Record", exact=True).select_option("turn")
    page.get_by_role("button", name="Record", exact=True).click()
    expect(page.locator("#acting")).to_have_attribute("data-playing", "yes")
    for _ in range(6):
        page.keyboard.press("ArrowUp")
        page.wait_for_timeout(60)
    document = presses(page, "Stop")
    keys = document["lanes"]["head"]["keys"]["turn"]
    assert len(keys) >= 2
    assert max(value for value, _ in keys.values()) > 1
    expect(page.locator(".acting-pass [role=status]")).to_contain_text("miss the hand by")
    assert {part: lane for part, lane in document["lanes"].items() if part != "head"} == {
        part: lane for part, lane in before["lanes"].items() if part != "head"
    }
    assert gestures(document, "head") == gestures(before, "head")
    # Again by game pad over in to out only; then the pad is pulled out.
    page.evaluate(PAD)
    last = max(int(frame) for frame in keys)
    page.locator("#frame-number").fill("5")
    page.keyboard.press("Enter")
    page.keyboard.press("i")
    page.locator("#frame-number").fill("25")
    page.keyboard.press("Enter")
    page.keyboard.press("o")
    page.get_by_label("Record with").select_option("pad")
    page.evaluate("window.pad.axes[1] = -0.8")
    page.get_by_role("button", name="Record", exact=True).click()
    until(page, "Number(document.querySelector('#acting').dataset.frame) > 12")
    with page.expect_response("**/edit") as asked:
        page.evaluate("window.pad = null")
    expect(page.locator("#problem")).to_contain_text("game pad is not there")
    assert asked.value.status == 200
    until(page, "document.querySelector('#acting').dataset.busy === 'no'")
    padded = lanes(page)["lanes"]["head"]["keys"]["turn"]
    assert {frame: value for frame, value in padded.items() if int(frame) > max(26, last)} == {}
    assert max(value for frame, (value, _) in padded.items() if int(frame) < 26) > 4


def test_a_pose_fits_two_faces(demo):
    page = demo
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_text("2 · The goat").click()
    desk_ready(page)
    view(page, "Acting")
    acting_ready(page)
    page.get_by_role("tab", name="Pock").click()
    page.keyboard.press("ArrowDown")
    page.get_by_role("tab", name="Part", exact=True).click()
    page.locator("#staves").focus()
    for _ in range(6):
        page.keyboard.press("ArrowUp")
    turn = page.get_by_label("head turn, as a number")
    after(page, lambda: turn.fill("9") or page.locator("#staves").focus())
    page.get_by_role("tab", name="Poses").click()
    page.get_by_label("Name of the pose").fill("Doubts it")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("button", name="Doubts it", exact=True)).to_be_visible()
    page.get_by_role("tab", name="Brede").click()
    page.locator("#staves").focus()
    for _ in range(12):
        page.keyboard.press("ArrowRight")
    page.get_by_label("mirrored").check()
    after(page, lambda: page.get_by_role("button", name="Doubts it", exact=True).click())
    whose = [one["character"] for one in json.loads(page.locator("#acting-document").text_content())["actings"]]
    assert lanes(page, whose.index("Brede"))["lanes"]["head"]["keys"]["turn"] == {"12": [-9, 0]}
    page.get_by_role("button", name="All", exact=True).click()
    expect(page.locator("#mirror-all > svg")).to_have_count(2)
    expect(page.locator("#mirror-all [data-part=head]").nth(1)).to_be_visible()
    page.get_by_role("button", name="Delete the pose Doubts it").click()
    expect(page.get_by_text("No pose is kept yet")).to_be_visible()
