"""The whole path as an animator walks it: a recorded line in, a speaking mouth out."""

import csv
import io
import itertools
import json
import re
import zipfile

import av
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.steps import brings, desk_ready, drawing, new_scene, reads, room_ready, stave_of, view, writes
from tests.core.test_formats import check_document
from tests.speech import LINE, speak

FPS = 25
SCRIPT = "\n".join([LINE] * 3)


def pins_of(stave):
    return [(e["frame"], e["frames"], e["drawing"]) for e in stave["exposures"] if e["pinned"]]


def frame_of(page):
    return int(page.locator("#desk").get_attribute("data-frame"))


@pytest.fixture
def scene(demo, tmp_path):
    """A new scene whose Marit has a sound and words, read by the worker."""
    new_scene(demo, f"Boot {tmp_path.name}", FPS, 101)
    brings(demo, speak(tmp_path / "left boot.wav", SCRIPT), "Marit")
    view(demo, "Script")
    writes(demo, SCRIPT.replace("My", "Marit: My"))
    reads(demo)
    return demo


def test_from_recording_to_hand_over(scene, tmp_path):
    page = scene
    view(page, "Reading")
    desk = desk_ready(page)
    expect(page.locator("#frame-number")).to_have_value("101")

    plays_in_time(page, desk)
    steps_and_seeks(page)
    kept = corrects_a_mouth(page)

    view(page, "Script")
    first = page.get_by_role("textbox", name="Line 1", exact=True)
    with page.expect_response("**/script/edit"):
        first.fill(LINE.replace("lighthouse", "fish market"))
        first.press("Tab")
    reads(page)
    view(page, "Reading")
    desk_ready(page)
    after = stave_of(page)
    assert pins_of(after) == kept
    assert "fish market" in after["lines"][0]["text"]

    view(page, "Hand-over")
    expect(page.locator(".handover-kind input:checked")).to_have_count(0)
    page.get_by_label("WebM", exact=True).check()
    page.get_by_label("PNG sequence").check()
    page.get_by_label("see-through ground").check()
    page.get_by_label("height").fill("1440")
    expect(page.get_by_label("Files that will be made").get_by_role("listitem")).to_have_count(2)
    expect(page.get_by_label("Files that will be made")).to_contain_text("frames/Marit_00101.png to")
    page.get_by_label("width").fill("95")
    expect(page.get_by_role("alert").filter(visible=True)).to_contain_text("and even")
    page.get_by_role("button", name="a face").click()
    expect(page.get_by_role("alert").filter(visible=True)).to_have_count(0)
    page.get_by_label("width").fill("360")  # small, as what is in them does not depend on it
    page.get_by_label("height").fill("360")
    page.get_by_label("Picture behind everybody").set_input_files(drawing(tmp_path, "open"))
    expect(page.get_by_label("over a picture")).to_be_checked()
    page.get_by_label("over a picture").uncheck()
    page.get_by_role("button", name="Make the files").click()
    expect(page.locator("#made .made").first).to_be_in_viewport()
    opens_the_pictures(fetched(page, ".zip", tmp_path), after)
    opens_the_video(fetched(page, ".webm", tmp_path), after)
    takes_all_of_it_elsewhere(page, tmp_path, after)


def takes_all_of_it_elsewhere(page, tmp_path, after):
    page.route("**/bundle", lambda route: route.fulfill(status=500, body="no"), times=1)
    page.get_by_role("button", name="This scene").click()
    trouble = page.locator("#trouble")
    expect(trouble).to_contain_text("went wrong on our side")
    trouble.get_by_role("button", name="Do it again").click()
    expect(trouble).to_be_hidden()
    packed = named(fetched(page, ".tinfork.zip", tmp_path), "Skerry")
    page.get_by_role("link", name="Tin Fork").first.click()
    page.get_by_role("link", name="Bring a bundle in").click()
    page.get_by_label("A ZIP that Hand-over made").set_input_files(packed)
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_text("is on your shelf.")).to_be_visible(timeout=60_000)
    page.get_by_role("link", name="To the shelf").click()
    page.get_by_text("Skerry").click()
    page.locator(".shot-name").click()
    desk_ready(page)
    there = stave_of(page)
    assert [one["drawing"] for one in there["exposures"]] == [one["drawing"] for one in after["exposures"]]
    assert pins_of(there) == pins_of(after)


def named(path, name):
    """A bundle whose production is called otherwise, so that no other test takes it for its own."""
    other = path.with_name("other.zip")
    with zipfile.ZipFile(path) as packed, zipfile.ZipFile(other, "w") as made:
        for one in packed.namelist():
            data = packed.read(one)
            if one == "bundle.json":
                document = json.loads(data)
                document["production"]["name"] = name
                data = json.dumps(document)
            made.writestr(one, data)
    return other


def plays_in_time(page, desk):
    assert page.evaluate("loudness()") == 0
    page.get_by_role("button", name="Play").click()
    loudest, seen = 0.0, []
    for _ in range(12):
        page.wait_for_timeout(100)
        loudest = max(loudest, page.evaluate("loudness()"))
        seen.append(desk.evaluate("desk => [Number(desk.dataset.time), Number(desk.dataset.frame)]"))
    assert loudest > 0.01
    assert all(a <= b for a, b in itertools.pairwise(seen))
    assert seen[-1][0] - seen[0][0] > 0.7
    last = stave_of(page)["frames"] - 1  # A slow machine gets there before the twelfth look.
    assert all(frame == min(last, int(time * FPS + 2e-5)) for time, frame in seen)
    if desk.get_attribute("data-playing") == "yes":
        page.keyboard.press("Space")
    assert desk.get_attribute("data-playing") == "no"
    stopped = frame_of(page)
    page.wait_for_timeout(200)
    assert frame_of(page) == stopped
    assert stopped > 10


def steps_and_seeks(page):
    page.keyboard.press("Home")
    expect(page.locator("#frame-number")).to_have_value("101")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(page.locator("#frame-number")).to_have_value("103")
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#frame-number")).to_have_value(str(103 + FPS))
    canvas = page.locator("#staves")
    canvas.click(position={"x": 300, "y": 10})
    left = frame_of(page)
    canvas.click(position={"x": 500, "y": 10})
    assert frame_of(page) > left
    box = canvas.bounding_box()
    page.mouse.move(box["x"] + 300, box["y"] + 80)
    page.mouse.down()
    heard = []
    for x in range(300, 420, 6):
        page.mouse.move(box["x"] + x, box["y"] + 80)
        page.wait_for_timeout(20)
        heard.append(page.evaluate("loudness()"))
    page.mouse.up()
    assert frame_of(page) > left
    assert max(heard) > 0.005
    page.get_by_role("button", name="+", exact=True).click()
    page.get_by_role("button", name="whole").click()


def corrects_a_mouth(page):
    before = stave_of(page)
    page.keyboard.press("Home")
    page.get_by_role("button", name="exposure ▸").click()
    page.get_by_role("button", name="exposure ▸").click()
    chosen = before["exposures"][2]
    expect(page.locator("#desk")).to_have_attribute("data-selected", str(chosen["frame"]))
    wanted = "round" if chosen["drawing"] != "round" else "open"
    page.locator(f"#mouth-map button[data-drawing={wanted}]").click()
    expect(page.locator("#mirror")).to_have_attribute("data-drawing", wanted)
    expect(page.locator("#desk")).to_have_attribute("data-busy", "no")
    pinned = pins_of(stave_of(page))
    assert pinned == [(chosen["frame"], chosen["frames"], wanted)]
    page.keyboard.press("Control+z")
    expect(page.locator("#mirror")).to_have_attribute("data-drawing", chosen["drawing"])
    assert stave_of(page)["exposures"] == before["exposures"]
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("#mirror")).to_have_attribute("data-drawing", wanted)
    expect(page.get_by_role("button", name="Unpin")).to_be_visible()
    return pinned


def fetched(page, ending, folder):
    link = page.get_by_role("link", name=re.compile(f"{re.escape(ending)}$"))
    expect(link).to_be_visible(timeout=60_000)
    page.wait_for_load_state("networkidle")  # what is shown anew under the pointer is not pressed
    with page.expect_download() as download:
        link.click()
    path = folder / download.value.suggested_filename
    download.value.save_as(path)
    return path


def opens_the_pictures(path, stave):
    with zipfile.ZipFile(path) as made:
        frames = sorted(name for name in made.namelist() if name.endswith(".png"))
        assert len(frames) == stave["frames"]
        assert frames[0].endswith("Marit_00101.png")
        picture = Image.open(io.BytesIO(made.read(frames[0])))
        assert (picture.mode, picture.getpixel((0, 0))[3]) == ("RGBA", 0)
        document = json.loads(made.read("exposures.json"))
        rows = list(csv.DictReader(io.StringIO(made.read("exposures.csv").decode())))
    check_document(document)
    wanted = [(e["frame"], e["frames"], e["drawing"]) for e in stave["exposures"]]
    assert [(int(row["frame"]), int(row["frames"]), row["drawing"]) for row in rows] == wanted


def opens_the_video(path, stave):
    seconds = stave["frames"] / FPS
    with av.open(str(path)) as made:
        assert len(made.streams.video) == len(made.streams.audio) == 1
        pictures = list(made.decode(video=0))
    with av.open(str(path)) as made:
        sound = list(made.decode(audio=0))
    assert len(pictures) == stave["frames"]
    heard = float(sound[-1].pts * sound[-1].time_base) + sound[-1].samples / sound[-1].sample_rate
    assert heard == pytest.approx(seconds, abs=1 / FPS)
    assert max(abs(frame.to_ndarray()).max() for frame in sound) > 0.05


def hears_one_alone_and_sees_all_again(page):
    """Who is not heard is folded; then all are open again, whatever was folded by hand."""
    staves, solo = page.locator("#staves"), page.get_by_role("button", name="solo")
    for folded in ("0", "1"):
        expect(staves).to_have_attribute("data-folded", folded)
        solo.click()
        expect(staves).to_have_attribute("data-folded", "1")
        solo.click()
        expect(staves).to_have_attribute("data-folded", "0")
        staves.click(position={"x": 20, "y": 26 + 9})


def test_two_voices_on_one_desk(demo):
    demo.locator(".shelf-item", has_text="The Salt Ferry").click()
    demo.get_by_text("2 · The goat").click()
    desk_ready(demo)
    assert demo.locator("#mirror-tabs").get_by_role("tab").all_text_contents() == ["Brede", "Pock"]
    demo.get_by_role("tab", name="Pock").click()
    expect(demo.get_by_role("img", name="Pock's face")).to_be_visible()
    hears_one_alone_and_sees_all_again(demo)
    demo.get_by_role("button", name="exposure ▸").click()
    demo.keyboard.press("p")
    expect(demo.get_by_role("button", name="Unpin")).to_be_visible()
    shown = demo.locator("#mouth-map button[aria-pressed=true]")
    expect(shown).to_have_attribute("data-drawing", "panel, a porthole")  # of the lowest row
    with demo.expect_response("**/edit"):
        demo.keyboard.press("Alt+ArrowUp")
    expect(shown).to_have_attribute("data-drawing", "panel, a slot")
    demo.keyboard.press("Control+z")
    expect(shown).to_have_attribute("data-drawing", "panel, a porthole")
    expect(demo.get_by_role("button", name="Unpin")).to_be_visible()
    demo.keyboard.press("Control+z")
    expect(demo.get_by_role("button", name="Pin", exact=True)).to_be_visible()
    demo.keyboard.press("?")
    expect(demo.get_by_role("heading", name="Keys")).to_be_in_viewport()
    expect(demo.get_by_label("Find a key, or what it does")).to_be_focused()
    demo.keyboard.type("next pin")
    expect(demo.locator("#keys dt").filter(visible=True)).to_have_count(0)
    demo.get_by_label("Find a key, or what it does").fill("next that is pinned")
    expect(demo.locator("#keys dt").filter(visible=True)).to_have_text(["H"])
    expect(demo.locator("#keys h3").filter(visible=True)).to_have_text(["Mouths"])


def test_a_stale_edit_says_so_on_the_desk(demo):
    demo.locator(".shelf-item", has_text="The Salt Ferry").click()
    demo.get_by_text("3 · The lighthouse bill").click()
    desk_ready(demo)
    demo.route("**/versions", lambda route: route.abort())  # or it might learn of the change in time
    other = demo.context.new_page()
    other.goto(demo.url)
    desk_ready(other)
    for page, chosen in ((other, "open"), (demo, "purse")):
        page.get_by_role("button", name="exposure ▸").click()
        page.locator(f"#mouth-map button[data-drawing={chosen}]").click()
    expect(demo.locator("#problem")).to_contain_text("changed meanwhile")
    assert [e["drawing"] for e in stave_of(demo)["exposures"] if e["pinned"]] == ["open"]


def test_a_bad_file_is_a_sentence_and_all_stays(demo, tmp_path):
    demo.locator(".shelf-item", has_text="The Salt Ferry").click()
    demo.get_by_text("1 · Fog").click()
    view(demo, "Sound")
    room = room_ready(demo)
    version = room.get_attribute("data-version")
    (tmp_path / "goat.wav").write_text("no goat in here")
    demo.locator("#files").set_input_files(tmp_path / "goat.wav")
    expect(demo.locator("#problem")).to_contain_text("not a sound file")
    assert room.get_attribute("data-version") == version


def test_what_is_pressed_before_the_page_has_begun_is_done_when_it_has(demo):
    held = []
    demo.route("**/alpine/**", lambda route: held.append(route))  # noqa: PLW0108 - the driver marks what it is given
    demo.goto("/", wait_until="commit")
    demo.get_by_role("button", name="Night").click()
    expect(demo.locator("html")).to_have_attribute("data-bs-theme", "light")
    held[0].continue_()
    expect(demo.locator("html")).to_have_attribute("data-bs-theme", "dark")


def test_night_and_day(demo):
    expect(demo.locator("html")).to_have_attribute("data-bs-theme", "light")
    demo.get_by_role("button", name="Night").click()
    expect(demo.locator("html")).to_have_attribute("data-bs-theme", "dark")
    demo.reload()
    expect(demo.locator("html")).to_have_attribute("data-bs-theme", "dark")
    with demo.expect_response("**/preferences/theme/"):
        demo.get_by_role("button", name="Daylight").click()
    expect(demo.locator("html")).to_have_attribute("data-bs-theme", "light")
