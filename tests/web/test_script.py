import html

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.speech import LINE
from tinfork.core.formats import subtitles
from tinfork.core.limits import MAX_SCRIPT_CHARACTERS
from tinfork.core.speech import read
from tinfork.web.jobs import running
from tinfork.web.jobs.models import Job
from tinfork.web.lexicon.actions import save_entry
from tinfork.web.productions.actions import create_character
from tinfork.web.reading import merging
from tinfork.web.reading.tasks import read_scene
from tinfork.web.script.actions import script_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.planning import scene_reading
from tinfork.web.staves.seeing import track_of


@pytest.fixture
def add(ferry):
    """Add lines as the owner does; the page that comes back."""
    client = ferry.client(ferry.owner)
    return lambda text="", **form: html.unescape(
        client.post(f"/scenes/{ferry.scene.pk}/script/import", {"text": text} | form).content.decode()
    )


def lines(ferry):
    return [line.text for line in script_of(ferry.scene).value.lines]


def reads(ferry, **form):
    """Ask for a reading and do it; its job."""
    ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/script/read", form)
    job = Job.objects.filter(kind="read").first()
    read_scene(job_id=job.pk)
    job.refresh_from_db()
    return job


def test_lines_are_written_moved_joined_split_and_undone(ferry, add):
    add("Fog again.\n\nA left boot (full of fish).")
    first, second = (line.id for line in script_of(ferry.scene).value.lines[1:])
    ferry.script(ferry.owner, "write", line=first, text="  Fog \t once more. ")
    ferry.script(ferry.owner, "move", line=second, by="-1")
    assert lines(ferry)[1:] == ["A left boot (full of fish).", "Fog once more."]
    ferry.script(ferry.owner, "join", line=second)
    ferry.script(ferry.owner, "split", line=second, word="3")
    assert lines(ferry)[1:] == ["A left boot", "(full of fish). Fog once more."]
    ferry.script(ferry.owner, "remove", line=second)
    for _ in range(6):
        ferry.script(ferry.owner, "undo")
    assert lines(ferry) == [LINE]
    ferry.script(ferry.owner, "redo")
    assert len(lines(ferry)) == 3


def test_who_speaks_is_found_by_name_and_said_by_hand(ferry, add):
    page = add("Marit: Fog.\nSkerrick: Boot.\nBoot.")
    assert [line.character for line in script_of(ferry.scene).value.lines[1:]] == [ferry.stave.character_id, None, None]
    assert "Skerrick: Boot." in page
    last = script_of(ferry.scene).value.lines[-1].id
    ferry.script(ferry.owner, "assign", line=last, character=ferry.stave.character_id)
    assert script_of(ferry.scene).value.lines[-1].character == ferry.stave.character_id
    ferry.script(ferry.owner, "assign", line=last, character="")
    assert script_of(ferry.scene).value.lines[-1].character is None


@pytest.mark.parametrize(
    ("verb", "what", "said"),
    [
        ("write", {"line": "77", "text": "x"}, "gone"),
        ("write", {"line": "1", "text": "x" * 9000}, "Split it"),
        ("assign", {"line": "1", "character": "999999"}, "not in the cast"),
        ("language", {"line": "1", "language": "xx"}, "not a language"),
        ("say", {"line": "1", "word": "0", "ipa": "%%"}, "no IPA"),
        ("split", {"line": "1", "word": "0"}, "between two"),
        ("join", {"line": "1"}, "no line after"),
        ("write", {"line": "1", "text": "x", "version": "0"}, "changed meanwhile"),
        ("fly", {}, "could not be understood"),
        ("undo", {}, "nothing to undo"),
    ],
)
def test_an_edit_that_cannot_be_is_a_sentence(ferry, verb, what, said):
    before = script_of(ferry.scene).body
    page = ferry.script(ferry.owner, verb, **what)
    assert said in html.unescape(page.content.decode())
    assert script_of(ferry.scene).body == before


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({"text": " \n"}, "no line in this"),
        ({"text": "fog\n" * (MAX_SCRIPT_CHARACTERS // 2)}, "Split"),
        ({"text": "fog", "kind": "timed"}, "No timed line"),
    ],
)
def test_what_is_no_script_is_a_sentence_and_what_was_typed_stays(ferry, add, form, said):
    page = add(**form)
    assert said in page
    assert lines(ferry) == [LINE]
    assert form["text"].strip()[:20] in page


def test_a_megabyte_pasted_a_binary_and_an_empty_file_are_refused(ferry, add):
    assert "characters" in add("fog " * 260_000)
    assert "not a text file" in add(file=SimpleUploadedFile("x.txt", b"\0\1\2" * 99))
    assert "no line in this" in add(file=SimpleUploadedFile("x.txt", b""))
    assert lines(ferry) == [LINE]


def test_other_directions_of_writing_and_emoji_are_kept(ferry, add):
    page = add("שלום על הסיפון\nFog 🐐 again")
    assert lines(ferry)[1:] == ["שלום על הסיפון", "Fog 🐐 again"]
    assert 'dir="auto"' in page


def test_reading_is_one_job_that_reads_every_voice_and_keeps_pins(ferry, add):
    exposure = track_of(ferry.stave)[3]
    ferry.edit(ferry.owner, "pin", frame=exposure.frame, frames=exposure.frames, drawing="purse")
    add("Fog.")
    client = ferry.client(ferry.owner)
    for _ in range(2):
        client.post(f"/scenes/{ferry.scene.pk}/script/read")
    assert Job.objects.filter(kind="read").count() == 1
    job = reads(ferry)
    assert (job.state, job.percent) == ("done", 100)
    assert [line.text for line in scene_reading(ferry.fresh).lines] == [LINE, "Fog."]
    kept = next(e for e in track_of(ferry.fresh) if e.pinned)
    assert (kept.frame, kept.frames, kept.drawing) == (exposure.frame, exposure.frames, "purse")
    assert ferry.client(ferry.owner).get(f"/jobs/{job.pk}/").headers["HX-Trigger"] == f"read-ended-{ferry.scene.pk}"


@pytest.mark.parametrize("in_the_middle", [False, True])
def test_a_reading_is_cancelled_before_it_began_or_in_its_middle(ferry, monkeypatch, in_the_middle):
    client = ferry.client(ferry.owner)
    before = ferry.reading
    client.post(f"/scenes/{ferry.scene.pk}/script/read")
    job = Job.objects.get(kind="read")
    assert "Cancel" in client.get(f"/jobs/{job.pk}/").content.decode()

    def cancel(*given):
        client.post(f"/jobs/{job.pk}/cancel")

    if in_the_middle:
        monkeypatch.setattr(running, "_SECONDS_BETWEEN_REPORTS", 0)
        monkeypatch.setattr(merging, "to_source", lambda *given: pytest.fail("it went on"))
        monkeypatch.setattr(read, "known_beforehand", cancel)
    else:
        cancel()
    with pytest.raises(running.Cancelled):
        read_scene(job_id=job.pk)
    job.refresh_from_db()
    assert job.state == "cancelled"
    assert "What was there before is kept" in client.get(f"/jobs/{job.pk}/").content.decode()
    assert ferry.reading == before


def test_a_script_nobody_can_speak_ends_as_a_sentence(ferry):
    before = ferry.reading
    ferry.script(ferry.owner, "write", line="1", text="… — !")
    job = reads(ferry)
    assert job.state == "failed"
    assert "no word that can be spoken" in job.message
    assert ferry.reading == before


def test_unknown_word_to_lexicon_to_reading_only_its_line(ferry, add):
    add("Skerrick has it.")
    page = reads(ferry) and ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/script/").content.decode()
    assert 'class="word guessed"' in page
    before = list(scene_reading(ferry.fresh).lines)
    answer = ferry.client(ferry.owner).post(
        f"/productions/{ferry.scene.production_id}/lexicon/save",
        {"word": "Skerrick", "language": "en", "ipa": "ˈsuːp"},
        headers={"Accept": "application/json"},
    )
    (affected,) = answer.json()["affected"]
    assert (affected["scene"], affected["number"]) == (ferry.scene.pk, 2)
    reads(ferry, only=[affected["line"]])
    after = list(scene_reading(ferry.fresh).lines)
    assert after[0] == before[0]
    assert [s.ipa for s in after[1].words[0].sounds] == ["s", "uː", "p"]
    assert not after[1].words[0].guessed
    page = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/script/").content.decode()
    assert 'class="word lexicon"' in page


def test_reading_one_line_again_leaves_a_line_torn_apart_as_it_is(ferry, add):
    add("Marit: Fog.")
    reads(ferry)
    words = [w.text for w in scene_reading(ferry.fresh).words()]
    clip = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/sound/").json()["tracks"][0]["clips"][0]
    ferry.sound(ferry.owner, "split", clips=[clip["id"]], frame=36)
    ferry.sound(ferry.owner, "trim", clip=clip["id"], first=12, end=36)
    kept = ferry.reading["lines"][0]
    reads(ferry, only=["2"])
    assert ferry.reading["lines"][0] == kept
    ferry.sound(ferry.owner, "trim", clip=clip["id"], first=0, end=36)
    assert [w.text for w in scene_reading(ferry.fresh).words()][: len(words) - 1] == words[:-1]


def test_a_pronunciation_for_one_place_is_said_there_alone(ferry, add):
    add("Boot.")
    ferry.script(ferry.owner, "say", line="2", word="0", ipa="buː")
    reads(ferry)
    spoken = {w.text: [s.ipa for s in w.sounds] for line in scene_reading(ferry.fresh).lines for w in line.words}
    assert spoken["Boot"] == ["b", "uː"]
    assert spoken["boot"] == ["b", "u", "t"]
    ferry.script(ferry.owner, "write", line="2", text="The Boot.")
    assert script_of(ferry.scene).value.line(2).said == {1: "buː"}


def test_srt_out_and_in_is_the_same_script(ferry):
    client = ferry.client(ferry.owner)
    for kind in ("srt", "vtt"):
        text = client.get(f"/scenes/{ferry.scene.pk}/script/export.{kind}").content.decode()
        (cue,) = subtitles.parse(text, ["Marit"])[0]
        assert (cue.text, cue.speaker) == (LINE, "Marit")
        first = next(iter(scene_reading(ferry.fresh).words()))
        assert cue.start == pytest.approx(first.start, abs=0.001)
    assert client.get(f"/scenes/{ferry.scene.pk}/script/export.txt").content.decode() == f"Marit: {LINE}\n"
    assert "MARIT\n" in client.get(f"/scenes/{ferry.scene.pk}/script/export.screenplay.txt").content.decode()
    assert client.get(f"/scenes/{ferry.scene.pk}/script/export.exe").status_code == 404


def test_a_lexicon_csv_gives_its_good_rows_and_names_its_bad(ferry):
    client = ferry.client(ferry.owner)
    base = f"/productions/{ferry.scene.production_id}/lexicon"
    content = "word,language,ipa\nSkerrick,en,skɛɹɪk\ntwo words,en,tu\nfog,xx,fɒɡ\nboot,,buːt\n,en,a\nship,en,%%\n"
    page = client.post(f"{base}/import", {"file": SimpleUploadedFile("l.csv", content.encode())}).content.decode()
    assert "2 rows taken; 4 left out" in page
    for line in (3, 4, 6, 7):
        assert f"Line {line}: " in page
    text = client.get(f"{base}.csv").content.decode()
    assert text.splitlines()[1:] == ["boot,,buːt", "skerrick,en,skɛɹɪk"]
    assert "Scene" not in text
    used = client.get(f"{base}/?q=boo").content.decode()
    assert "Fog, line 1" in used
    assert "skerrick" not in used
    for bad in (b"", b"\0\0\0", b"a,b\n1,2\n"):
        answer = client.post(f"{base}/import", {"file": SimpleUploadedFile("l.csv", bad)})
        assert answer.status_code in (200, 422)
    assert ferry.scene.production.lexicon.count() == 2
    entry = ferry.scene.production.lexicon.get(word="boot")
    client.post(f"{base}/{entry.pk}/delete")
    assert not ferry.scene.production.lexicon.filter(word="boot").exists()


def test_a_word_can_be_tried_heard_and_seen(ferry):
    client = ferry.client(ferry.owner)
    base = f"/productions/{ferry.scene.production_id}/lexicon"
    assert client.get(f"{base}/try", {"word": "boot", "language": "en"}).json()["candidates"][0] == "b ˈu t"
    respelled = client.get(f"{base}/try", {"respelled": "skerick", "language": "en"}).json()["candidates"]
    assert respelled[0].replace(" ", "").replace("ˈ", "").startswith("skɛ")
    seen = client.get(f"{base}/try", {"ipa": "buːm"}).json()
    assert "press" in seen["frames"]
    assert set(seen["frames"]) == set(seen["pictures"])
    assert client.get(f"{base}/say.wav", {"ipa": "buːm"}).content[:4] == b"RIFF"
    for wrong in ({"ipa": "%%"}, {"word": "", "language": "en"}, {"word": "x", "language": "xx"}):
        assert client.get(f"{base}/try", wrong).json()["problem"].endswith(".")
    assert client.get(f"{base}/say.wav", {"ipa": "%"}).status_code == 422


def test_languages_fall_from_line_to_character_to_production(ferry, add):
    add("Hola.")
    client = ferry.client(ferry.owner)
    production = f"/productions/{ferry.scene.production_id}/"
    page = f"/scenes/{ferry.scene.pk}/script/"
    client.post(production, {"make": "language", "language": "es"})
    assert client.get(page).content.decode().count('data-language="es"') > 1
    client.post(production, {"make": "language", "character": ferry.stave.character_id, "language": "fr"})
    assert 'data-language="fr"' in client.get(page).content.decode()
    ferry.script(ferry.owner, "language", line="1", language="de")
    assert 'data-language="de"' in client.get(page).content.decode()
    assert client.post(production, {"make": "language", "language": "xx"}).status_code == 422


def test_two_people_in_one_recording_get_their_own_lines(ferry, add):
    create_character(ferry.owner, ferry.scene.production, "Brede")
    clip = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/sound/").json()["tracks"][0]["clips"][0]
    ferry.sound(ferry.owner, "add-track", kind="shared", name="Everybody", character=None)
    ferry.sound(ferry.owner, "move", clip=clip["id"], track=3)
    ferry.script(ferry.owner, "write", line="1", text="My left boot")
    add("Brede: went overboard near the lighthouse.")
    job = reads(ferry)
    assert job.message == ""
    brede = Stave.objects.get(character__name="Brede")
    assert [w.text for w in scene_reading(ferry.fresh).words()] == ["My", "left", "boot"]
    assert [w.text for w in scene_reading(brede).words()][:2] == ["went", "overboard"]
    assert scene_reading(ferry.fresh).lines[0].end <= scene_reading(brede).lines[0].start


def test_what_has_no_sound_or_no_speaker_is_said(ferry, add):
    create_character(ferry.owner, ferry.scene.production, "Brede")
    page = add("Brede: Fog.")
    assert "1 line cannot be read" in page
    assert "Not read, as there is no sound for who speaks, or nobody is named: “Fog.”." in reads(ferry).message
    assert save_entry(ferry.owner, ferry.scene.production, "x", "", "ɛks").language == ""


def test_lines_sent_before_the_pages_code_has_begun_come_back_as_the_whole_view(ferry, add):
    client, address = ferry.client(ferry.owner), f"/scenes/{ferry.scene.pk}/script/import"
    page = client.get(f"/scenes/{ferry.scene.pk}/script/").content.decode()
    form = page.split('method="post" enctype=')[1].split("</form>")[0]
    assert f'action="{address}"' in form and "csrfmiddlewaretoken" in form, "the browser can send it alone"
    alone = add("Fog again.")
    assert "<!doctype html>" in alone and "Fog again." in alone
    asked = client.post(address, {"text": "And again."}, headers={"HX-Request": "true"}).content.decode()
    assert asked.startswith('<div id="script"') and "And again." in asked
