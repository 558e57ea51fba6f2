import html
import json
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.speech import LINE
from tinfork.core.script.lines import ScriptLine
from tinfork.core.sound import recording
from tinfork.core.speech import recognise, unscripted
from tinfork.core.timebase import frame_at
from tinfork.web.edits.models import Edit
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.running import Cancelled
from tinfork.web.reading import asking, exchange, merging
from tinfork.web.reading import scene as reading_scene
from tinfork.web.reading.scene import Asked, changed_lines, read_part, to_read
from tinfork.web.script.actions import add_heard, script_of, write
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.planning import scene_reading


def reads(ferry, **asked):
    """Read the ferry's scene here and now."""
    notes = []
    parts, _ = to_read(ferry.scene)
    for part in parts:
        notes += read_part(ferry.owner, ferry.scene, part, Asked(**asked), lambda share: None)
    return notes


def word(ferry, number):
    return scene_reading(ferry.fresh).lines[0].words[number]


def test_a_moved_seam_is_pinned_and_survives_reading_undo_and_a_move_of_its_sound(ferry):
    before = word(ferry, 2)
    answer = ferry.edit(ferry.owner, "edge", at=[0, 2], edge=0, time=before.start + 0.05)
    assert answer.status_code == 200
    assert word(ferry, 2).start == pytest.approx(before.start + 0.05)
    assert word(ferry, 1).end == word(ferry, 2).start
    assert word(ferry, 2).end == before.end
    moved = word(ferry, 2)
    reads(ferry)
    assert word(ferry, 2).start == moved.start
    assert word(ferry, 2).pinned == (0,)
    clip = arrangement_of(ferry.scene).value.clips[0]
    ferry.sound(ferry.owner, "slide", clips=[clip.id], by=10, ripple=False)
    reads(ferry)
    assert word(ferry, 2).start == pytest.approx(moved.start + 10 / 24, abs=2e-6)
    while ferry.fresh.can_undo:
        assert ferry.edit(ferry.owner, "undo").status_code == 200
    assert word(ferry, 2).start == before.start


def test_mouths_follow_a_correction(ferry):
    before = ferry.track
    ferry.edit(ferry.owner, "delete word", at=[0, 2])
    assert not word(ferry, 2).said
    assert ferry.track != before
    ferry.edit(ferry.owner, "undo")
    assert ferry.track == before


def test_a_word_read_alone_leaves_the_others_as_they_are(ferry):
    ferry.edit(ferry.owner, "edge", at=[0, 2], edge=0, time=word(ferry, 2).start + 0.06)
    before = scene_reading(ferry.fresh).lines[0]
    line = before.id
    reads(ferry, lines=frozenset([line]), words=frozenset([(0, 2)]))
    after = scene_reading(ferry.fresh).lines[0]
    assert after.words[:2] == before.words[:2]
    assert after.words[3:] == before.words[3:]
    assert after.words[2].start == before.words[2].start
    assert after.words[2].sounds != before.words[2].sounds


def test_a_pin_whose_word_vanished_is_listed_placed_or_dropped(ferry):
    reads(ferry)
    ferry.edit(ferry.owner, "approve", at=[0, 2])
    was = word(ferry, 2)
    script = script_of(ferry.scene)
    write(ferry.owner, script, script.version, script.value.lines[0].id, LINE.replace("boot", "sock"))
    assert changed_lines(ferry.scene) == set()
    reads(ferry)
    assert [w.text for _, w in ferry.fresh.reading_value.lost] == ["boot"]
    assert ferry.edit(ferry.owner, "place lost", lost=0, at=[0, 2]).status_code == 200
    assert word(ferry, 2).edges == was.edges
    assert not ferry.fresh.reading_value.lost
    ferry.edit(ferry.owner, "undo")
    assert ferry.edit(ferry.owner, "drop lost", lost=0).json()["document"]["lost"] == []
    assert ferry.edit(ferry.owner, "drop lost", lost=0).status_code == 422


def test_only_changed_lines_are_read_again(ferry):
    script = script_of(ferry.scene)
    half = len(LINE.split()) // 2
    ferry.script(ferry.owner, "split", line=script.value.lines[0].id, word=half)
    reads(ferry)
    assert changed_lines(ferry.scene) == set()
    last = script_of(ferry.scene).value.lines[1]
    ferry.script(ferry.owner, "write", line=last.id, text=f"{last.text} again")
    assert changed_lines(ferry.scene) == {last.id}
    before = scene_reading(ferry.fresh).lines[0]
    assert asking.ask_to_read(ferry.owner, ferry.scene).asked["lines"] == [last.id]
    assert asking.ask_to_read(ferry.owner, ferry.scene, all=True).asked["lines"] == []
    reads(ferry, lines=frozenset([last.id]))
    assert scene_reading(ferry.fresh).lines[0] == before
    assert scene_reading(ferry.fresh).lines[1].words[-1].text == "again"


def test_a_line_corrected_while_it_is_read_stays_corrected(ferry, monkeypatch):
    load = recording.resampled

    def meanwhile(*args):
        if not ferry.fresh.reading_value.lines[0].words[0].pinned:
            ferry.edit(ferry.owner, "approve", at=[0, 0])
        return load(*args)

    parts, _ = to_read(ferry.scene)
    real = reading_scene.read.read_lines
    monkeypatch.setattr(reading_scene.read, "read_lines", lambda *a: (meanwhile([], 16_000, 16_000), real(*a))[1])
    notes = read_part(ferry.owner, ferry.scene, parts[0], Asked(), lambda share: None)
    assert "was corrected meanwhile" in notes[-1]
    assert word(ferry, 0).pinned


@pytest.mark.parametrize(
    "what",
    [
        {"verb": "edge", "at": [0, 99], "edge": 0, "time": 1},
        {"verb": "edge", "at": [0, 1], "edge": 0, "time": 99},
        {"verb": "edge", "at": [0], "edge": 0, "time": 1},
        {"verb": "edge", "at": [-1, 0], "edge": 0, "time": 1},
        {"verb": "move line", "at": [0, 0], "by": -30},
        {"verb": "sound", "at": [0, 0], "sound": 0, "ipa": "§"},
        {"verb": "insert word", "at": [0, 0], "text": "fog", "start": 0.5, "end": 0.6},
        {"verb": "insert word", "at": [0, 0], "text": "!", "start": 90, "end": 91},
    ],
)
def test_a_correction_that_cannot_be_is_a_sentence(ferry, what):
    before = ferry.reading
    answer = ferry.edit(ferry.owner, **what)
    assert answer.status_code == 422
    assert answer.json()["problem"].endswith(".")
    assert ferry.reading == before


def test_every_correction_by_its_verb(ferry):
    for what in (
        {"verb": "move word", "at": [0, 0], "by": -0.01},
        {"verb": "move line", "at": [0, 0], "by": 0.005},
        {"verb": "sound", "at": [0, 0], "sound": 0, "ipa": "n"},
        {"verb": "insert sound", "at": [0, 0], "sound": 1, "ipa": "ə"},
        {"verb": "delete sound", "at": [0, 0], "sound": 1},
        {"verb": "split word", "at": [0, 3], "sound": 1, "first": "w", "second": "ent"},
        {"verb": "join words", "at": [0, 3]},
        {"verb": "unpin word", "at": [0, 3]},
        {"verb": "insert word", "at": [0, 0], "text": "fog", "start": 0.0, "end": 0.08},
    ):
        answer = ferry.edit(ferry.owner, **what)
        assert answer.status_code == 200, (what, answer.json())
    assert word(ferry, 0).text == "fog"
    while ferry.fresh.can_undo:
        ferry.edit(ferry.owner, "undo")
    assert [w.text for w in scene_reading(ferry.fresh).words()] == [w.strip(".") for w in LINE.split()]


def test_a_stale_correction_says_what_changed(ferry):
    version = ferry.fresh.version
    ferry.edit(ferry.owner, "approve", at=[0, 0])
    ferry.edit(ferry.owner, "pin", frame=3, frames=2, drawing="open")
    answer = ferry.edit(ferry.owner, "edge", version, at=[0, 1], edge=0, time=word(ferry, 1).start + 0.01)
    assert answer.status_code == 409
    assert "(looks right, by owner; pin, by owner)" in answer.json()["problem"]


def out(ferry, kind):
    return ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/reading.{kind}")


def brings(ferry, text, version=None):
    file = SimpleUploadedFile("reading", text.encode())
    version = ferry.fresh.version if version is None else version
    return ferry.client(ferry.owner).post(f"/staves/{ferry.stave.pk}/bring", {"file": file, "version": version})


@pytest.mark.parametrize("kind", exchange.FORMATS)
def test_a_reading_goes_out_and_comes_back(ferry, kind):
    ferry.edit(ferry.owner, "approve", at=[0, 1])
    before = [(w.text, w.start, w.end) for w in scene_reading(ferry.fresh).words()]
    text = out(ferry, kind).content.decode()
    ferry.edit(ferry.owner, "move word", at=[0, 6], by=0.01)
    answer = brings(ferry, text)
    assert answer.status_code == 200, answer.json()
    after = [(w.text, w.start, w.end) for w in scene_reading(ferry.fresh).words()]
    assert [w[0] for w in after] == [w[0] for w in before]
    assert [w[1:] for w in after] == [pytest.approx(w[1:], abs=0.004) for w in before]
    ferry.edit(ferry.owner, "undo")
    assert word(ferry, 6).pinned


def test_what_cannot_be_brought_in_changes_nothing(ferry):
    before = ferry.reading
    for text in ("", "{", "nothing", "WEBVTT\n\n00:00.000 --> 00:01.000\n<00:00.000>elsewhere\n"):
        answer = brings(ferry, text)
        assert answer.status_code == 422
        assert answer.json()["problem"].endswith((".", "changed."))
    assert brings(ferry, "x 1 0.2 0.3 left", ferry.fresh.version + 1).status_code == 409
    assert ferry.reading == before
    assert out(ferry, "exe").status_code == 404


def test_a_sound_without_words_is_heard_into_the_script(ferry):
    script = script_of(ferry.scene)
    ferry.script(ferry.owner, "remove", line=script.value.lines[0].id)
    assert asking.ask_to_read(ferry.owner, ferry.scene).kind == Job.objects.get().kind
    notes = reads(ferry)
    assert any("recognised" in note for note in notes)
    (line,) = script_of(ferry.scene).value.lines
    assert line.heard
    assert line.character == ferry.stave.character_id
    assert scene_reading(ferry.fresh).lines[0].text == line.text
    page = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/script/").content.decode()
    assert "Heard, not written" in page
    ferry.script(ferry.owner, "write", line=line.id, text=LINE)
    assert not script_of(ferry.scene).value.lines[0].heard


def test_sounds_come_before_words_and_what_is_set_of_them_meanwhile_stays(ferry, monkeypatch):
    ferry.script(ferry.owner, "remove", line=script_of(ferry.scene).value.lines[0].id)
    sentences, seen = recognise.sentences, []

    def corrected_meanwhile(*asked):
        seen.extend(scene_reading(ferry.fresh).lines)
        assert len({e.drawing for e in ferry.track}) > 4
        at = seen[0].words[0].sounds[2].start
        assert ferry.edit(ferry.owner, "edge", at=[0, 0], edge=2, time=at + 0.02).status_code == 200
        return sentences(*asked)

    monkeypatch.setattr(recognise, "sentences", corrected_meanwhile)
    notes = reads(ferry)
    assert seen[0].text == unscripted.SOUNDS_ONLY
    assert any("corrected meanwhile" in note for note in notes)
    (line,) = scene_reading(ferry.fresh).lines
    assert line.words[0].pinned == (2,)
    (heard,) = script_of(ferry.scene).value.lines
    assert heard.heard
    ferry.script(ferry.owner, "write", line=heard.id, text=LINE)
    reads(ferry)
    reading = scene_reading(ferry.fresh)
    assert [line.text for line in reading.lines] == [LINE]
    assert [word.text for _, word in reading.lost] == [unscripted.SOUNDS_ONLY]


def test_killed_between_the_words_and_their_reading_it_is_read_as_written(ferry, monkeypatch):
    ferry.script(ferry.owner, "remove", line=script_of(ferry.scene).value.lines[0].id)

    def killed(*asked, **how):
        raise KeyboardInterrupt

    with monkeypatch.context() as patch:
        patch.setattr(reading_scene, "replace", killed)
        with pytest.raises(KeyboardInterrupt):
            reads(ferry)
    assert [line.text for line in scene_reading(ferry.fresh).lines] == [unscripted.SOUNDS_ONLY]
    (heard,) = script_of(ferry.scene).value.lines
    reads(ferry)
    assert [line.id for line in scene_reading(ferry.fresh).lines] == [heard.id]


def test_killed_while_it_hears_the_same_piece_of_work_hears_all_of_it_anew(ferry, monkeypatch):
    ferry.script(ferry.owner, "remove", line=script_of(ferry.scene).value.lines[0].id)

    def killed(*asked, **how):
        raise KeyboardInterrupt

    with monkeypatch.context() as patch:
        patch.setattr(reading_scene, "ReadingMerger", killed_after_the_sounds(killed))
        with pytest.raises(KeyboardInterrupt):
            reads(ferry, batch=7)
    (heard,) = script_of(ferry.scene).value.lines
    reads(ferry, batch=7)
    (anew,) = script_of(ferry.scene).value.lines
    assert (anew.text, anew.heard, anew.id > heard.id) == (heard.text, True, True)
    assert [line.id for line in scene_reading(ferry.fresh).lines] == [anew.id]
    reads(ferry, batch=8)
    assert script_of(ferry.scene).value.lines == (anew,)


def killed_after_the_sounds(killed):
    """What puts lines in their places, and is killed before it can do so with words."""
    merger = reading_scene.ReadingMerger
    return lambda own, heard=False: killed() if heard else merger(own)


def test_another_language_without_words_moves_the_mouth_by_its_sounds(ferry, monkeypatch):
    monkeypatch.delenv(recognise.SETTING, raising=False)
    ferry.stave.character.language = "sv"
    ferry.stave.character.save()
    script = script_of(ferry.scene)
    ferry.script(ferry.owner, "remove", line=script.value.lines[0].id)
    notes = reads(ferry)
    assert any("sounds only" in note for note in notes)
    assert not script_of(ferry.scene).value.lines
    assert len({e.drawing for e in ferry.track}) > 4


@pytest.fixture
def misheard(ferry, monkeypatch):
    """A line that was heard as English, and another that somebody has looked at since."""
    ferry.script(ferry.owner, "remove", line=script_of(ferry.scene).value.lines[0].id)
    who = ferry.stave.character_id
    add_heard(
        ferry.owner,
        script_of(ferry.scene),
        [
            ScriptLine(0, "A knee vendor would eat", who, start=0.0, end=1.4, heard_in="en"),
            ScriptLine(0, "Not me go here", who, start=1.5, end=2.6, heard_in="en"),
        ],
    )
    first, second = (line.id for line in script_of(ferry.scene).value.lines)
    ferry.script(ferry.owner, "write", line=second, text="Let me go there")
    for line in (first, second):
        ferry.script(ferry.owner, "language", line=line, language="es")
    asked = []
    monkeypatch.setattr(recognise, "hears", lambda code: code != "sv")
    monkeypatch.setattr(
        recognise, "sentences", lambda samples, code, hints: asked.append((len(samples), code)) or ["La niebla bajó."]
    )
    return ferry, first, second, asked


def test_a_line_whose_language_was_set_is_heard_again_in_it(misheard):
    ferry, first, second, asked = misheard
    notes = reads(ferry, lines=frozenset({first}), batch=5)
    assert asked == [(pytest.approx(1.5 * 16_000, abs=320), "es")]
    assert any(note.startswith("1 line is heard again as Spanish") for note in notes)
    again, written = script_of(ferry.scene).value.lines
    assert (again.text, again.heard, again.heard_in) == ("La niebla bajó.", True, "es")
    assert (written.id, written.text, written.heard) == (second, "Let me go there", False)
    assert [word.text for word in scene_reading(ferry.fresh).lines[0].words] == ["La", "niebla", "bajó"]
    reads(ferry)
    assert len(asked) == 1
    ferry.script(ferry.owner, "undo")
    ferry.script(ferry.owner, "undo")
    assert script_of(ferry.scene).value.lines[0].text == "A knee vendor would eat"


def test_what_nobody_can_hear_in_that_language_stays(misheard):
    ferry, first, _, asked = misheard
    ferry.script(ferry.owner, "language", line=first, language="sv")
    assert any("No words are made out as Swedish" in note for note in reads(ferry))
    assert not asked
    assert script_of(ferry.scene).value.lines[0].text == "A knee vendor would eat"


@pytest.mark.slow
def test_a_cancelled_reading_leaves_its_finished_lines(long_scene, monkeypatch):
    ferry = long_scene
    monkeypatch.setattr(merging, "_SECONDS_BETWEEN_LINES", 0.0)

    def report(share):
        if share > 0.75:
            raise Cancelled

    (part,) = to_read(ferry.scene)[0]
    with pytest.raises(Cancelled):
        read_part(ferry.owner, ferry.scene, part, Asked(batch=1), report)
    done = len(scene_reading(ferry.fresh).lines)
    assert 2 < done < len(part.lines)
    assert ferry.track
    (edit,) = Edit.objects.filter(area=ferry.fresh.area)
    assert edit.verb == "read"
    read_part(ferry.owner, ferry.scene, part, Asked(batch=1), lambda share: None)
    assert len(scene_reading(ferry.fresh).lines) == len(part.lines)
    assert Edit.objects.filter(area=ferry.fresh.area).count() == 1
    ferry.edit(ferry.owner, "undo")
    assert len(scene_reading(ferry.fresh).lines) == 1


def test_a_stale_line_is_refused_and_can_be_written_again(ferry):
    line = script_of(ferry.scene).value.lines[0].id
    version = script_of(ferry.scene).version
    ferry.script(ferry.owner, "write", line=line, text="Fog.")
    page = ferry.script(ferry.owner, "write", version=version, line=line, text="It's a “goat”").content.decode()
    assert "changed meanwhile (write, by owner)" in page
    assert script_of(ferry.scene).value.lines[0].text == "Fog."
    again = json.loads(html.unescape(re.search(r'data-again="([^"]*)"', page)[1]))
    ferry.script(ferry.owner, **again)
    assert script_of(ferry.scene).value.lines[0].text == "It's a “goat”"


def test_what_was_said_and_not_written_moves_the_mouth_and_is_written_by_one_press(ferry):
    line = script_of(ferry.scene).value.lines[0].id
    ferry.script(ferry.owner, "write", line=line, text=LINE.replace("overboard ", ""))
    reads(ferry)
    words = scene_reading(ferry.fresh).lines[0].words
    (place,) = (number for number, one in enumerate(words) if one.is_unwritten)
    extra = words[place]
    shown = [e.drawing for e in ferry.track for _ in range(e.frames)]
    said = range(frame_at(extra.start, ferry.scene.fps), frame_at(extra.end, ferry.scene.fps))
    assert "rest" not in shown[said.start : said.stop]
    assert len(set(shown[said.start : said.stop])) > 3
    assert ferry.fresh.has_unwritten
    wrong = ferry.edit(ferry.owner, "write word", at=[0, 0], text="x")
    assert "written already" in wrong.json()["problem"]
    assert ferry.edit(ferry.owner, "write word", at=[0, place], text="overboard").status_code == 200
    assert not ferry.fresh.has_unwritten
    reads(ferry)
    kept = scene_reading(ferry.fresh).lines[0].words[place]
    assert (kept.text, kept.decided) == ("overboard", True)
    assert [sound.ipa for sound in kept.sounds] == [sound.ipa for sound in extra.sounds]


def test_what_nobody_wrote_gives_way_to_what_a_person_sets(ferry):
    line = script_of(ferry.scene).value.lines[0].id
    ferry.script(ferry.owner, "write", line=line, text=LINE.replace("overboard ", ""))
    reads(ferry)
    words = scene_reading(ferry.fresh).lines[0].words
    place = next(number for number, one in enumerate(words) if one.is_unwritten)
    middle = (words[place].start + words[place].end) / 2
    before = place - 1
    last = len(words[before].sounds)
    assert ferry.edit(ferry.owner, "edge", at=[0, before], edge=last, time=middle).status_code == 200
    assert not any(one.is_unwritten for one in scene_reading(ferry.fresh).lines[0].words)
    assert ferry.edit(ferry.owner, "undo").status_code == 200
    assert scene_reading(ferry.fresh).lines[0].words[place].is_unwritten


def test_what_was_set_by_hand_goes_with_the_line_it_lies_on(ferry):
    own = next(e for e in ferry.track if e.drawing not in ("rest", "press"))
    done = ferry.edit(ferry.owner, "show", at=[own.frame], drawing="purse")
    assert done.status_code == 200

    def purse():
        return [(e.frame, e.frames) for e in ferry.track if e.drawing == "purse" and e.pinned]

    assert purse() == [(own.frame, own.frames)]
    reads(ferry)
    assert purse() == [(own.frame, own.frames)]
    by = -2 / 24
    assert ferry.edit(ferry.owner, "move line", at=[0, 0], by=by).status_code == 200
    assert purse() == [(own.frame - 2, own.frames)]
    reads(ferry)  # What is heard elsewhere is no reason to move what a person set.
    assert purse() == [(own.frame - 2, own.frames)]
    assert ferry.edit(ferry.owner, "undo").status_code == 200
    assert ferry.edit(ferry.owner, "move line", at=[0, 0], by=-by, stay=True).status_code == 200
    assert purse() == [(own.frame - 2, own.frames)]
    for _ in range(2):
        assert ferry.edit(ferry.owner, "undo").status_code == 200
    assert purse() == [(own.frame, own.frames)]


def test_where_its_word_is_no_longer_said_a_mouth_stays_and_that_is_told(ferry):
    said = word(ferry, 0)
    frame = frame_at((said.start + said.end) / 2, 24)
    own = next(e for e in ferry.track if e.frame <= frame < e.end)
    ferry.edit(ferry.owner, "show", at=[own.frame], drawing="purse")
    answer = ferry.edit(ferry.owner, "delete word", at=[0, 0]).json()
    (told,) = answer["notes"]
    assert told.startswith("1 mouth that you set stays")
    assert str(own.frame + ferry.scene.start_frame) in told
