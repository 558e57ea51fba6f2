"""Everything before the reading, as a person does it."""

import itertools
import json
import time

import numpy as np
import pytest
import soundfile
from playwright.sync_api import expect

from tests.browser.spare import MARIT_HEARD
from tests.browser.steps import (
    arrangement,
    brings,
    changed,
    desk_ready,
    its_job_is_done,
    opens,
    opens_both_on_one_microphone,
    reads,
    room_ready,
    stave_of,
    until,
    view,
    writes,
)
from tests.speech import LINE, encode, make_film, speak

FPS = 24
RULER, VOICE = 26, 18

# The clock of what is heard, which a busy machine may hold up, and where the scene is.
CLOCKS = "[window.ear.context.currentTime, Number(document.getElementById('sound').dataset.time)]"


def at(page, frame, y):
    """A point of the tracks' canvas: a frame, and pixels from its top."""
    box = page.locator("#tracks").bounding_box()
    per_frame = page.evaluate("document.getElementById('tracks').clientWidth") / arrangement(page)["frames"]
    return box["x"] + (frame + 0.5) * per_frame, box["y"] + y


def track_y(page, row):
    cast = len(json.loads(page.locator("#sound-document").text_content())["cast"])
    tall = page.locator(".track-head").first.bounding_box()["height"]
    return RULER + cast * VOICE + (row + 0.5) * tall


def drags(page, start, end):
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move((start[0] + end[0]) / 2, end[1], steps=3)
    page.mouse.move(*end, steps=3)
    page.mouse.up()


def clips_of(document, row=0):
    return [(c["start"], c["offset"], c["frames"]) for c in document["tracks"][row]["clips"]]


@pytest.fixture
def scene(demo, scenes):
    """A scene with Marit's line."""
    demo.goto(f"/scenes/{next(scenes[MARIT_HEARD])}/")
    room_ready(demo)
    return demo


# How far a film lies above the foot of its room, from which it hangs.
ABOVE = "film => film.parentElement.getBoundingClientRect().bottom - film.getBoundingClientRect().bottom"


def moves_and_docks_the_film(page):
    """By its handle, by key, and beside the tracks, where it covers nothing."""
    film, handle = page.locator("#reel"), page.get_by_label("Film", exact=True)
    before = film.bounding_box()
    handle.focus()
    page.keyboard.press("ArrowLeft")
    assert film.bounding_box()["x"] == pytest.approx(before["x"] - 16, abs=1)
    above, at = film.evaluate(ABOVE), film.bounding_box()
    page.mouse.move(at["x"] + 20, at["y"] + 8)
    page.mouse.down()
    page.mouse.move(at["x"] - 80, at["y"] - 22, steps=4)
    page.mouse.up()
    assert film.evaluate(ABOVE) == pytest.approx(above + 30, abs=2)
    film.get_by_role("button", name="dock").click()
    tracks = page.locator("#tracks").bounding_box()
    assert tracks["x"] + tracks["width"] <= film.bounding_box()["x"] + 1
    film.get_by_role("button", name="float").click()


def is_told_to_be_cut_off(page, folder):
    """A shout into a microphone that was too loud is not good enough to read."""
    samples, rate = soundfile.read(speak(folder / "shout.wav"))
    soundfile.write(folder / "shout.wav", np.clip(20 * samples, -1, 1), rate)
    shout = brings(page, folder / "shout.wav", "Brede")["tracks"][1]["clips"][-1]
    page.get_by_role("button", name="whole").click()
    page.mouse.click(*at(page, shout["start"] + 5, track_y(page, 1)))
    expect(page.locator("#inspector h2")).to_have_text("shout.wav")
    expect(page.locator("#inspector .verdict.grave")).to_be_visible()
    expect(page.locator("#inspector .findings")).to_contain_text("is cut off")
    expect(page.locator("#inspector")).not_to_contain_text("Good enough")


def test_three_formats_come_in_and_a_film_shows_its_picture(scene, tmp_path):
    page = scene
    tone = 0.3 * np.sin(np.arange(48_000) / 15)
    document = brings(page, encode(tmp_path / "horn.m4a", tone, "aac", "mp4"), "Brede")
    assert document["tracks"][1]["clips"][0]["name"] == "horn.m4a"
    document = brings(page, encode(tmp_path / "bell.webm", tone, "libopus", "webm"), "everybody (shared)")
    assert document["tracks"][2]["kind"] == "shared"
    is_told_to_be_cut_off(page, tmp_path)
    opens(page, "Bring in")
    page.locator("#bring-for").select_option(label="Brede")
    changed(page, lambda: page.locator("#files").set_input_files(make_film(tmp_path / "reel.mp4", 2.0)))
    video = page.locator("#reel video")
    expect(video).to_be_visible(timeout=30_000)
    film = arrangement(page)["tracks"][1]["clips"][-1]
    page.locator("#frame-number").fill(str(film["start"] + 1 + 24))
    page.locator("#frame-number").press("Enter")
    until(page, "document.querySelector('#reel video').currentTime > 0.9")
    assert video.evaluate("v => v.currentTime") == pytest.approx(1.0, abs=0.05)
    moves_and_docks_the_film(page)
    view(page, "Script")
    writes(page, f"Marit: {LINE}")
    reads(page)
    view(page, "Reading")
    desk_ready(page)
    expect(page.locator("#reel video")).to_be_visible()
    page.locator("#frame-number").fill(str(film["start"] + 1 + 12))
    page.locator("#frame-number").press("Enter")
    until(page, "document.querySelector('#reel video').currentTime > 0.4")
    assert page.locator("#reel video").evaluate("v => v.currentTime") == pytest.approx(0.5, abs=0.05)


def drops(page, data, x, y):
    """Drop a sound on the tracks."""
    page.evaluate(
        """([data, x, y]) => {
          const files = new DataTransfer();
          files.items.add(new File([new Uint8Array(data)], "fog.ogg"));
          const place = document.getElementById("tracks");
          for (const kind of ["dragover", "drop"])
            place.dispatchEvent(new DragEvent(kind, {
              dataTransfer: files, clientX: x, clientY: y, bubbles: true, cancelable: true,
            }));
        }""",
        [data, x, y],
    )


def test_files_dropped_on_a_track_lie_where_they_were_dropped(scene, tmp_path):
    page = scene
    frames = arrangement(page)["frames"]
    tone = 0.3 * np.sin(np.arange(48_000) / 15)
    data = list(encode(tmp_path / "fog.ogg", tone, "libopus", "ogg").read_bytes())
    drops(page, data, *at(page, frames // 2, track_y(page, 0)))
    onto = page.locator("#onto")
    expect(onto).to_contain_text("fog.ogg on")
    dropped = changed(page, lambda: onto.get_by_role("button", name="A sound of its own").click())
    assert clips_of(dropped)[1][0] == frames // 2
    assert dropped["tracks"][0]["clips"][1]["name"] == "fog.ogg"
    changed(page, lambda: page.get_by_label("Remove the track Marit with its clips").click())
    drops(page, data, *at(page, 4, 10))
    whose = page.locator("#whose")
    expect(whose).to_contain_text("fog.ogg")
    whose.get_by_role("button", name="Leave it").click()
    expect(page.locator("#empty")).to_be_visible()
    drops(page, data, *at(page, 4, 10))
    whose.get_by_label("Who speaks in it").select_option(label="Brede")
    (track,) = changed(page, lambda: whose.get_by_role("button", name="Bring it in").click())["tracks"]
    assert (track["name"], track["clips"][0]["start"]) == ("Brede", 0)


def test_slide_and_split_and_the_mouths_follow(scene):
    page = scene
    view(page, "Script")
    writes(page, f"Marit: {LINE}")
    reads(page)
    view(page, "Reading")
    desk_ready(page)
    before = stave_of(page)
    view(page, "Sound")
    room_ready(page)
    y = track_y(page, 0)
    frames = arrangement(page)["frames"]

    page.mouse.click(*at(page, 30, 10))
    expect(page.locator("#frame-number")).to_have_value("31")
    split = changed(page, lambda: page.keyboard.press("s"))
    assert clips_of(split) == [(0, 0, 30), (30, 30, frames - 30)]
    slid = changed(page, lambda: drags(page, at(page, 45, y), at(page, 57, y)))
    assert clips_of(slid)[1][0] == pytest.approx(42, abs=1)
    by = clips_of(slid)[1][0] - 30

    view(page, "Reading")
    desk_ready(page)
    after = stave_of(page)
    words = [[w["start"] for line in one["lines"] for w in line["words"]] for one in (before, after)]
    late = [round(start + by / FPS, 3) for start in words[0] if start >= 30 / FPS]
    assert late
    assert {round(start, 3) for start in words[1]} >= set(late)
    assert after["frames"] == before["frames"] + by

    view(page, "Sound")
    room_ready(page)
    undone = changed(page, lambda: page.get_by_role("button", name="Undo").click())
    assert clips_of(undone) == clips_of(split)
    page.mouse.click(*at(page, 45, y))
    start = page.get_by_label("Starts at frame")
    expect(start).to_have_value("31")
    placed = changed(page, lambda: (start.fill("101"), start.press("Tab")))
    assert clips_of(placed)[1][0] == 100


def test_in_and_out_are_cut_and_closed_up_trimmed_and_muted(scene):
    page = scene
    frames = arrangement(page)["frames"]
    for frame, key in ((20, "i"), (29, "o")):
        page.mouse.click(*at(page, frame, 10))
        page.keyboard.press(key)
    page.get_by_text("what follows moves along").click()
    cut = changed(page, lambda: page.get_by_role("button", name="Cut out in–out").click())
    assert clips_of(cut) == [(0, 0, 20), (20, 30, frames - 30)]
    y = track_y(page, 0)
    page.get_by_role("button", name="whole").click()
    edge = (page.locator("#tracks").bounding_box()["x"] + 2, at(page, 0, y)[1])
    trimmed = changed(page, lambda: drags(page, edge, at(page, 6, y)))
    first = clips_of(trimmed)[0]
    assert first[0] == first[1] == pytest.approx(6, abs=1)
    muted = changed(page, lambda: page.get_by_role("button", name="mute").click())
    assert muted["tracks"][0]["muted"]
    page.keyboard.press("Home")
    page.keyboard.press("Space")
    page.wait_for_timeout(400)
    assert page.evaluate("loudness()") == 0


def test_slow_play_is_heard_and_keeps_its_place(scene):
    page = scene
    room = page.locator("#sound")
    for speed, ratio in (("0.5", 0.5), ("0.25", 0.25)):
        page.keyboard.press("Home")
        page.locator("#speed").select_option(speed)
        page.get_by_role("button", name="Play").click()
        until(page, "Number(document.getElementById('sound').dataset.time) > 0.15")
        began = page.evaluate(CLOCKS)
        loudest = 0.0
        for _ in range(8):
            page.wait_for_timeout(100)
            loudest = max(loudest, page.evaluate("loudness()"))
        ended = page.evaluate(CLOCKS)
        assert loudest > 0.01
        assert (ended[1] - began[1]) / (ended[0] - began[0]) == pytest.approx(ratio, rel=0.3)
        page.get_by_role("button", name="Pause").click()
        assert room.get_attribute("data-playing") == "no"


def test_a_loop_goes_round(scene):
    page = scene
    for frame, key in ((10, "i"), (18, "o")):
        page.mouse.click(*at(page, frame, 10))
        page.keyboard.press(key)
    page.keyboard.press("l")
    page.keyboard.press("Space")
    frames = []
    for _ in range(25):
        page.wait_for_timeout(50)
        frames.append(int(page.locator("#sound").get_attribute("data-frame")))
    page.keyboard.press("Space")
    assert min(frames[3:]) >= 9
    assert max(frames) <= 19
    assert any(a > b for a, b in itertools.pairwise(frames))


def test_a_take_is_recorded_listed_and_kept(scene):
    page = scene
    opens(page, "Record")
    page.get_by_role("button", name="Microphone").click()
    expect(page.get_by_role("button", name="Record")).to_be_enabled()
    until(page, "document.querySelector('[data-level]').value > 10")
    begun = time.monotonic()
    page.mouse.click(*at(page, 20, 10))
    page.locator("#recorder [data-character]").select_option(label="Brede")
    page.get_by_role("button", name="Record").click()
    stop = page.get_by_role("button", name="Stop")
    stop.click()  # In the count nothing is recorded yet.
    page.get_by_role("button", name="Record").click()
    expect(stop).to_have_text("Stop · 3 …")
    expect(stop).to_have_text("Stop")
    page.wait_for_timeout(1_500)
    stop.click()
    longest = time.monotonic() - begun
    takes = page.locator("[data-takes] li")
    expect(takes).to_have_count(1)
    expect(takes).to_contain_text("Brede")
    page.keyboard.press("End")
    kept = changed(page, lambda: takes.get_by_role("button", name="Keep").click())
    clip = kept["tracks"][1]["clips"][0]
    assert (clip["name"], clip["start"]) == ("Brede take 1.wav", 20)
    assert 1.5 * FPS - 2 <= clip["frames"] <= longest * FPS
    expect(takes.get_by_role("button", name="kept")).to_be_visible()
    peaks = page.request.get(clip["peaks"]).body()
    assert max(peaks[-400:]) > 0


def test_a_refused_microphone_says_so(scene):
    page = scene
    page.evaluate(
        """() => {
          navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException("no", "NotAllowedError"));
        }"""
    )
    opens(page, "Record")
    page.get_by_role("button", name="Microphone").click()
    expect(page.locator("#problem")).to_contain_text("refused")
    expect(page.get_by_role("button", name="Record")).to_be_disabled()


def test_a_scratch_voice_speaks_at_the_playhead(scene):
    page = scene
    page.mouse.click(*at(page, 40, 10))
    opens(page, "Scratch voice")
    page.locator("#scratch-character").select_option(label="Brede")
    page.get_by_label("words").fill("The fog wants a ticket.")
    spoken = changed(page, lambda: page.get_by_role("button", name="Speak it at the playhead").click())
    assert spoken["tracks"][1]["name"] == "Brede"
    assert clips_of(spoken, 1)[0][0] == 40


def test_a_scratch_voice_speaks_a_line_in_its_language(demo):
    page = demo
    opens_both_on_one_microphone(page)
    opens(page, "Scratch voice")
    page.locator("#scratch-line").select_option(label="Bienvenida a bordo, señora cabra.")
    expect(page.locator("#scratch-character").locator("option:checked")).to_have_text("Pock")
    assert page.locator("#scratch-voice option").all_text_contents() == ["eSpeak NG"]
    spoken = changed(page, lambda: page.get_by_role("button", name="Speak it at the playhead").click())
    assert "Bienvenida" in spoken["tracks"][1]["clips"][0]["name"]
    changed(page, lambda: page.get_by_role("button", name="Undo").click())


def test_a_live_pass_marks_two_characters(scene):
    page = scene
    page.keyboard.press("Home")
    opens(page, "Who speaks when")
    page.get_by_role("button", name="Start a live pass").click()
    until(page, "Number(document.getElementById('sound').dataset.time) > 0.3")
    page.keyboard.down("1")
    page.wait_for_timeout(500)
    page.keyboard.up("1")
    page.keyboard.down("2")
    page.wait_for_timeout(600)
    page.keyboard.up("2")
    cast = json.loads(page.locator("#sound-document").text_content())["cast"]
    marked = changed(page, lambda: page.get_by_role("button", name="End the pass").click())
    while {m["character"] for m in marked["marks"]} != {one["id"] for one in cast[:2]}:
        page.wait_for_timeout(100)
        marked = arrangement(page)
    expect(page.locator("#sound")).to_have_attribute("data-version", str(marked["version"]))
    first, second = (next(m for m in marked["marks"] if m["character"] == one["id"]) for one in cast[:2])
    assert first["start"] < second["start"]
    x, y = at(page, second["end"] * FPS - 0.5, RULER + VOICE + VOICE / 2)
    moved = changed(page, lambda: drags(page, (x, y), (x + 60, y)))
    longer = next(m for m in moved["marks"] if m["id"] == second["id"])
    assert longer["end"] > second["end"] + 0.05
    assert longer["start"] == pytest.approx(second["start"], abs=1e-3)
    # Dragged into another's row it is theirs, and stays where it was.
    x, y = at(page, (first["start"] + first["end"]) / 2 * FPS, RULER + VOICE / 2)
    given = changed(page, lambda: drags(page, (x, y), (x + 4, y + VOICE)))
    theirs = next(m for m in given["marks"] if m["id"] == first["id"])
    assert theirs == first | {"character": cast[1]["id"]}


def test_voices_are_suggested_stretch_by_stretch_and_taken(demo):
    page = demo
    opens_both_on_one_microphone(page)
    opens(page, "Who speaks when")
    page.get_by_label("How many voices").fill("2")
    page.get_by_role("button", name="Suggest by voice").click()
    choices = page.locator("[data-suggested] select")
    expect(choices).to_have_count(2)
    choices.nth(0).select_option(label="Marit")
    choices.nth(1).select_option(label="Pock")
    taken = changed(page, lambda: page.get_by_role("button", name="Mark them so").click())
    names = {one["id"]: one["name"] for one in json.loads(page.locator("#sound-document").text_content())["cast"]}
    turns = [names[mark["character"]] for mark in taken["marks"]]
    assert [a for a, b in zip(turns, [None, *turns], strict=False) if a != b] == ["Marit", "Pock", "Marit", "Pock"]
    changed(page, lambda: page.get_by_role("button", name="Undo").click())


def test_an_unknown_word_goes_to_the_lexicon_and_its_line_is_read_again(scene):
    page = scene
    view(page, "Script")
    writes(page, "Marit: My left boot went overboard\nMarit: near the skerrigog.")
    reads(page)
    word = page.get_by_role("button", name="skerrigog")
    expect(word).to_have_class("word guessed")
    word.click()
    window = page.locator("#word")
    expect(window.locator("[data-candidates] button").first).to_be_visible()
    window.get_by_label("Respell it").fill("light house")
    window.get_by_role("button", name="Say it so").click()
    expect(window.get_by_label("Its sounds")).to_have_value("l ˈaɪ t h ˈaʊ s")
    window.get_by_role("button", name="Hear and see it").click()
    expect(window.locator("[data-mouth] img")).to_be_visible()
    with page.expect_response("**/script/lines"):
        window.get_by_role("button", name="Save to the lexicon").click()
    expect(window.locator("[data-affected]")).to_contain_text("1 line of this production says it")
    with page.expect_response("**/script/read") as answer:
        window.get_by_role("button", name="Read these lines again").click()
    assert answer.value.ok
    expect(page.get_by_role("button", name="skerrigog")).to_have_class("word lexicon")
    its_job_is_done(page, answer.value)
    view(page, "Reading")
    desk_ready(page)
    last = stave_of(page)["lines"][1]["words"][-1]
    assert [ipa for ipa, *_ in last["sounds"]] == ["l", "aɪ", "t", "h", "aʊ", "s"]
    page.goto(page.url.split("/scenes/")[0])
    page.locator(".shelf-item", has_text="The Salt Ferry").click()
    page.get_by_role("link", name="Cast and charts").click()
    page.get_by_role("link", name="Lexicon").click()
    expect(page.get_by_role("row", name="skerrigog")).to_contain_text("line 2")


def test_speakers_by_key_languages_and_undo(scene):
    page = scene
    view(page, "Script")
    writes(page, "Fog again.\nHola, cabra.")
    line = page.get_by_role("textbox", name="Line 2", exact=True)
    line.focus()
    with page.expect_response("**/script/edit"):
        page.keyboard.press("Alt+3")
    expect(page.get_by_label("Who speaks line 2").locator("option:checked")).to_have_text("3 Pock")
    with page.expect_response("**/script/edit"):
        page.get_by_label("Language of line 2").fill("es")
        page.get_by_label("Language of line 2").press("Tab")
    expect(page.locator("[data-line]", has_text="cabra")).to_have_attribute("data-language", "es")
    for _ in range(2):
        with page.expect_response("**/script/edit"):
            page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Who speaks line 2").locator("option:checked")).to_have_text("nobody")


def next_step_fails_and_is_asked_again(page):
    """What the page asks for by itself reaches nobody once."""
    page.route("**/next?view=*", lambda route: route.abort(), times=1)
    with page.expect_response("**/next?view=*"):
        page.evaluate("document.body.dispatchEvent(new CustomEvent('scene-changed'))")


def test_a_failed_request_says_why_keeps_what_was_typed_and_can_be_done_again(scene):
    page = scene
    view(page, "Script")
    writes(page, "Marit: Fog again.\nMarit: Fog in the mugs.")
    first, second = (page.get_by_role("textbox", name=f"Line {number}", exact=True) for number in (1, 2))
    trouble = page.locator("#trouble")
    ways = {
        "did not reach the server": lambda route: route.abort(),
        "went wrong on our side": lambda route: route.fulfill(status=500, body="no"),
        "database is not answering": lambda route: route.fulfill(status=503, body="no"),
        "signed out": None,
    }
    for number, (sentence, fail) in enumerate(ways.items()):
        if fail:
            page.route("**/script/edit", fail)
        else:
            page.context.clear_cookies(name="sessionid")
        first.fill(f"Fog for the {number}th time.")
        second.focus()
        expect(trouble).to_contain_text(sentence)
        expect(first).to_have_value(f"Fog for the {number}th time.")
        page.unroute("**/script/edit")
        if not fail:
            tab = page.context.new_page()
            tab.goto("/sign-in/")
            tab.get_by_role("button", name="Enter as Demo Animator").click()
            tab.wait_for_url("**/")
            tab.close()
        next_step_fails_and_is_asked_again(page)
        expect(trouble).to_contain_text(sentence)
        with page.expect_response("**/script/edit") as answer:
            trouble.get_by_role("button", name="Do it again").click()
        assert answer.value.status == 200
        expect(trouble).to_be_hidden()
        page.reload()
        expect(first).to_have_value(f"Fog for the {number}th time.")
    page.route("**/script/edit", ways["went wrong on our side"], times=1)
    who = page.get_by_label("Who speaks line 1")
    who.select_option(label="3 Pock")
    expect(trouble).to_contain_text("went wrong on our side")
    with page.expect_response("**/script/edit"):
        page.get_by_label("Who speaks line 2").select_option(label="3 Pock")
    trouble.get_by_role("button", name="Do it again").click()
    expect(trouble).to_be_hidden()
    page.reload()
    expect(who.locator("option:checked")).to_have_text("3 Pock")
    page.route("**/script/edit", lambda route: (page.wait_for_timeout(300), route.continue_()))
    first.fill("Fog, fog, fog.")
    with page.expect_response("**/script/edit"):
        second.focus()
        page.keyboard.press("End")
        page.keyboard.type(" And more")
    expect(first).to_have_value("Fog, fog, fog.")
    expect(second).to_have_value("Fog in the mugs. And more")
    expect(second).to_be_focused()
