"""A newcomer's first minutes: a recording becomes a speaking face, and nobody has to know where a thing lives."""

import os
import re

import pytest
import soundfile
from playwright.sync_api import expect

from bench import alone
from bench.truth import flite
from tests.browser.steps import desk_ready, new_production, room_ready, until, writes
from tests.speech import LINE, speak
from tinfork.core.speech import recognise


def test_from_a_recording_to_a_speaking_face_in_seven_steps(demo, tmp_path):
    page = demo
    new_production(page, f"First ferry {tmp_path.name}")  # 1 its name, 2 create
    recording = speak(tmp_path / "left boot.wav")
    page.locator(".start input[type=file]").set_input_files(recording)  # 3
    page.get_by_role("button", name="Start", exact=True).click()
    expect(page.locator(".start .problem")).to_contain_text("Say who speaks")
    page.get_by_label("Who speaks?").fill("Marit")  # 4
    page.get_by_label("The words").fill(LINE)  # 5
    page.get_by_label("Frame rate").first.fill("25")  # 6
    page.get_by_role("button", name="Start", exact=True).click()  # 7
    desk = desk_ready(page)
    expect(page.get_by_text("left boot", exact=True)).to_be_visible()
    expect(desk).to_have_attribute("data-playing", "yes")
    until(page, "window.loudness() > 0.01")
    page.get_by_role("button", name="Pause").click()
    expect(page.locator(".bar-next")).to_contain_text("hand over")


def test_dropped_recordings_find_their_speakers_by_their_names(demo, tmp_path):
    page = demo
    new_production(page, f"Dropped {tmp_path.name}")
    files = [speak(tmp_path / name) for name in ("brede.wav", "Marit.wav")]
    page.get_by_label("Who speaks?").fill("Marit, Brede, Pock")
    page.locator(".start input[type=file]").set_input_files(files)
    chosen = page.locator(".start-files select")
    expect(chosen.nth(0)).to_have_value("Brede")
    expect(chosen.nth(1)).to_have_value("Marit")
    chosen.nth(1).select_option("Pock")
    page.get_by_role("button", name="Leave brede.wav out").click()
    expect(page.locator(".start-files li")).to_have_count(1)
    page.get_by_label("The words").fill(f"Pock: {LINE}")
    page.get_by_role("button", name="Start", exact=True).click()
    desk_ready(page)
    expect(page.get_by_role("tab", name="Pock")).to_be_visible()


def test_each_view_says_what_comes_next_and_the_cast_grows_where_it_is_asked_for(demo, tmp_path):
    page = demo
    new_production(page, f"Next {tmp_path.name}")
    page.get_by_label("Name", exact=True).fill("Fog")
    page.get_by_role("button", name="Create scene").click()
    room_ready(page)
    following = page.locator(".bar-next")
    expect(following).to_contain_text("bring a recording in")

    page.locator("#files").set_input_files(speak(tmp_path / "left boot.wav"))
    page.get_by_label("Name", exact=True).fill("Marit")
    page.get_by_role("button", name="Add to the cast").click()
    expect(page.locator("#heads")).to_contain_text("Marit")
    expect(page.locator("#recorder [data-character]")).to_have_value(re.compile(r"\d+"))
    following.get_by_role("link", name="give the words").click()

    writes(page, LINE)
    expect(following).to_contain_text("press Read")
    who = page.get_by_label("Who speaks line 1")
    who.select_option("new")
    page.get_by_role("button", name="Cancel").click()
    expect(who).to_have_value("")
    who.select_option("new")
    page.get_by_label("Name", exact=True).fill("Marit")
    page.get_by_role("button", name="Add to the cast").click()
    expect(page.locator("#new-character .problem")).to_contain_text("already")
    page.get_by_label("Name", exact=True).fill("Brede")
    with page.expect_response("**/script/edit"):
        page.get_by_role("button", name="Add to the cast").click()
    expect(page.get_by_label("Who speaks line 1")).to_have_value(re.compile(r"\d+"))
    expect(page.get_by_text("1 line cannot be read")).to_be_visible()
    page.route("**/script/edit", lambda route: (page.wait_for_timeout(500), route.continue_()))
    page.get_by_label("Who speaks line 1").select_option("")
    page.get_by_role("button", name="Read", exact=True).click()  # waits for what was said before it
    following.get_by_role("link", name="watch and correct").click()
    desk_ready(page)
    expect(following).to_contain_text("hand over")


SCRIPT = """[SCENE 1, the pier]
Marit: My left boot went ashore near the lighthouse.
Brede: Nobody sold a ticket to that goat.

[SCENE 2, the gangway]
Brede: Show me the yellow hat and hold the boat.

[SCENE 3, the deck]
Marit: Salt on the deck means frost by the morning.
"""
SAID = {
    "marit.wav": ["My left boot went overboard near the lighthouse.", "Salt on the deck means frost by the morning."],
    "brede.wav": ["Nobody sold a ticket to that goat.", "Show me the yellow rope and hold the boat."],
}


@pytest.mark.skipif(not os.environ.get(recognise.SETTING), reason="the recogniser's weights are not here")
def test_recordings_and_a_script_become_scenes_and_what_is_said_otherwise_is_taken(demo, tmp_path):
    page = demo
    new_production(page, f"Pile {tmp_path.name}")
    for name, lines in SAID.items():
        sound = alone.in_one([flite(text, "slt" if name == "marit.wav" else "rms") for text in lines]).recording
        soundfile.write(tmp_path / name, sound.samples, 16_000)
    page.locator(".start input[type=file]").set_input_files([tmp_path / name for name in SAID])
    page.get_by_label("The words").fill(SCRIPT)
    page.get_by_label("They lie").select_option("where the script has what they say")
    page.get_by_role("button", name="Start", exact=True).click()
    page.get_by_role("link", name="Show the scenes").click(timeout=90_000)
    expect(page.locator(".start .problem")).to_be_hidden()
    for number, (written, said) in enumerate((("ashore", "overboard"), ("hat", "rope"), ("", ""))):
        page.locator(".shot-name").nth(number).click()
        expect(desk_ready(page).locator("#staves")).to_be_visible()
        if written:
            compared(page, written, said)
        page.locator(".bar a", has_text="Pile").click()


def compared(page, written, said):
    """Lay the script of a scene beside its recording, and take what was said."""
    page.locator(".bar").get_by_role("link", name="Script", exact=True).click()
    page.get_by_role("link", name="Script against recording").click()
    page.get_by_role("button", name="Compare").click()
    expect(page.locator(".job")).to_contain_text("something else is said", timeout=60_000)
    page.reload()
    row = page.locator(".otherwise > li", has_text=written)
    expect(row.locator("ins")).to_have_text(re.compile(said))
    row.get_by_role("button", name="Take what was said").click()
    expect(page.locator(".otherwise > li", has_text=written)).to_have_count(0)
    page.get_by_role("link", name="Back to the script").click()
    expect(page.locator("#script")).to_contain_text(said)
