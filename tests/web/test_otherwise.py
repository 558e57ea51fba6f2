"""A scene's script laid beside its recording: what differs is kept, shown, taken or left."""

import json
import os

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.speech import LINE, speak
from tests.web.remembered import once
from tinfork.core.speech import recognise
from tinfork.web.desk.document import fixed_document
from tinfork.web.jobs.models import Job
from tinfork.web.productions.actions import create_scene
from tinfork.web.reading import settling
from tinfork.web.reading.comparing import compare
from tinfork.web.reading.scene import Asked, read_part, to_read
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves.placing import placed_now

pytestmark = pytest.mark.skipif(
    not os.environ.get(recognise.SETTING), reason="the recogniser's weights are not here: script/start fetches them"
)
OTHER = LINE.replace("overboard", "ashore")


@pytest.fixture
def written(ferry):
    """The scene with a word in its script that is not what is said, compared."""
    (line,) = script_of(ferry.scene).value.lines
    ferry.script(ferry.owner, "write", line=line.id, text=OTHER)
    ferry.message = compare(ferry.scene, lambda share: None)
    return ferry


def page(ferry, who=None):
    return ferry.client(who or ferry.owner).get(f"/scenes/{ferry.scene.pk}/script/otherwise/").content.decode()


def settle(ferry, who, **what):
    (one,) = ferry.scene.differences.all()
    return ferry.client(who).post(f"/scenes/{ferry.scene.pk}/script/otherwise/{one.pk}", what)


def test_what_is_said_otherwise_is_listed_and_marked_on_the_desk_and_can_be_heard_both_ways(written):
    assert written.message == "At 1 place something else is said than is written."
    (one,) = settling.shown(written.scene)
    assert (one.difference.written, one.difference.heard, one.place) == ("ashore", "overboard", 1)
    assert 0.5 < one.difference.start < one.difference.end < 2.0
    shown = page(written)
    assert "<del>ashore</del>" in shown
    assert "<ins>overboard</ins>" in shown
    line = one.line.id
    assert fixed_document(placed_now(written.fresh))["otherwise"] == {f"{line} 4": ("said: overboard", OTHER)}
    spoken = written.client(written.viewer).get(
        f"/scenes/{written.scene.pk}/script/otherwise/{one.difference.pk}/written.wav"
    )
    assert spoken.content[:4] == b"RIFF"


def test_what_was_said_is_taken_and_the_line_is_read_again(written):
    assert settle(written, written.owner, take="1").status_code == 302
    assert [line.text for line in script_of(written.scene).value.lines] == [LINE]
    assert not written.scene.differences.exists()
    assert Job.objects.filter(kind="read", state=Job.State.WAITING).count() == 1
    assert compare(written.scene, lambda share: None) == "What is said is what is written."


def test_what_is_written_is_kept_and_not_told_again(written):
    assert settle(written, written.owner, keep="1").status_code == 302
    assert settling.shown(written.scene) == []
    assert compare(written.scene, lambda share: None) == "What is said is what is written."
    assert "somebody looked at and left so" not in page(written)
    assert written.scene.differences.get().kept


@pytest.fixture
def twice(ferry, tmp_path):
    """A scene in whose sound its line is said twice, compared, and read from the first."""
    scene = create_scene(ferry.owner, ferry.scene.production, "Again", "24", "1001")
    path = speak(tmp_path / "twice.wav", f"The tide is out. {LINE} {LINE} Mind the step.")
    with once("tinfork.web.sound.actions.aside"):
        sound = bring_in(ferry.owner, scene.production, SimpleUploadedFile("twice.wav", path.read_bytes()))
    place_sound(ferry.owner, arrangement_of(scene), sound, 0, ferry.stave.character)
    add_text(ferry.owner, script_of(scene), None, f"Marit: The tide is out.\nMarit: {LINE}\nMarit: Mind the step.")
    read_all(ferry.owner, scene)
    compare(scene, lambda share: None)
    return ferry, scene


def read_all(person, scene):
    for part in to_read(scene)[0]:
        read_part(person, scene, part, Asked(), lambda share: None)


def said_at(scene):
    line = scene.staves.get().reading_value.lines[1]
    return next(word.start for word in line.words if word.said and not word.is_unwritten)


def test_another_take_of_a_line_is_used_and_the_first_one_stays_to_be_used_again(twice):
    ferry, scene = twice
    (one,) = settling.with_takes(scene, settling.shown(scene))
    first, second = one.line_takes
    assert (one.difference.kind, first.used, second.used) in (("again", True, False), ("again", False, True))
    assert first.end < second.start
    assert min(first.sure, second.sure) > 60
    assert min(first.clean, second.clean) > 30
    client, page = ferry.client(ferry.owner), f"/scenes/{scene.pk}/script/otherwise/"
    address = f"{page}{one.difference.pk}"
    ways = (second, first) if first.used else (first, second)
    for number, take in enumerate(ways, 1):
        shown = client.get(page).content.decode()
        assert f"Use take {take.number}" in shown
        assert f"Use take {3 - take.number}" not in shown
        assert client.post(address, {"use": str(take.number)}).status_code == 302
        assert Job.objects.filter(kind="read", subject=scene.pk, state=Job.State.WAITING).count() == 1, number
        read_all(ferry.owner, scene)
        assert said_at(scene) == pytest.approx(take.start, abs=0.1)
        used = [own.used for own in settling.with_takes(scene, settling.shown(scene))[0].line_takes]
        assert used == [own.number == take.number for own in one.line_takes]
    for number in ("3", "0", "x", "9" * 5_000):
        assert client.post(address, {"use": number}).status_code == 422
    assert ferry.client(ferry.viewer).post(address, {"use": "2"}).status_code == 404


def test_a_take_beyond_another_line_is_refused_and_so_is_one_of_a_line_that_is_set_by_hand(twice):
    ferry, scene = twice
    (one,) = settling.with_takes(scene, settling.shown(scene))
    (other,) = (take.number for take in one.line_takes if not take.used)
    client, address = ferry.client(ferry.owner), f"/scenes/{scene.pk}/script/otherwise/{one.difference.pk}"
    first, *_ = (line.id for line in script_of(scene).value.lines)
    version = script_of(scene).version
    client.post(f"/scenes/{scene.pk}/script/edit", {"verb": "move", "version": version, "line": one.line.id, "by": -1})
    refused = client.post(address, {"use": str(other)})
    assert refused.status_code == 422
    assert "“The tide is out.” is said between" in refused.content.decode()
    client.post(f"/scenes/{scene.pk}/script/edit", {"verb": "undo", "version": script_of(scene).version})
    assert script_of(scene).value.lines[0].id == first
    stave = scene.staves.get()
    number, word = next((n, word) for n, word in enumerate(stave.reading_value.lines[1].words) if word.text == "boot")
    moved = {"verb": "edge", "version": stave.version, "at": [1, number], "edge": 0, "time": word.start + 0.02}
    assert (
        client.post(f"/staves/{stave.pk}/edit", json.dumps(moved), content_type="application/json").status_code == 200
    )
    refused = client.post(address, {"use": str(other)})
    assert refused.status_code == 422
    assert "unpin them on the desk first" in refused.content.decode()
    assert script_of(scene).value.line(one.line.id).start is None


def test_what_another_tab_settled_meanwhile_is_said_and_changes_nothing(written):
    (one,) = written.scene.differences.all()
    address = f"/scenes/{written.scene.pk}/script/otherwise/{one.pk}"
    client = written.client(written.owner)
    assert client.post(address, {"take": "1"}).status_code == 302
    for what in ("take", "keep"):
        refused = client.post(address, {what: "1"})
        assert refused.status_code == 422
        assert "Somebody settled this meanwhile" in refused.content.decode()
    settling.keep(written.owner, one)
    assert [line.text for line in script_of(written.scene).value.lines] == [LINE]


def test_a_line_that_was_changed_since_is_not_told_and_not_taken(written):
    (line,) = script_of(written.scene).value.lines
    (one,) = settling.shown(written.scene)
    written.script(written.owner, "write", line=line.id, text=LINE.replace("overboard", "away"))
    assert settling.shown(written.scene) == []
    refused = settle(written, written.owner, take="1")
    assert refused.status_code == 422
    assert "compare script and recording again" in refused.content.decode()
    assert "away" in script_of(written.scene).value.lines[0].text
    assert one.difference.pk == written.scene.differences.get().pk


def test_a_viewer_sees_and_settles_nothing_and_a_stranger_sees_nothing(written):
    assert "Take what was said" not in page(written, written.viewer)
    assert "Take what was said" in page(written)
    assert settle(written, written.viewer, take="1").status_code == 404
    address = f"/scenes/{written.scene.pk}/script/otherwise/"
    assert written.client(written.viewer).post(address).status_code == 404
    (one,) = written.scene.differences.all()
    for path in (address, f"{address}{one.pk}/written.wav"):
        assert written.client(written.stranger).get(path).status_code == 404
    assert settle(written, written.stranger, keep="1").status_code == 404


def test_asked_for_it_is_a_piece_of_work_and_without_lines_a_sentence(ferry):
    address = f"/scenes/{ferry.scene.pk}/script/otherwise/"
    assert ferry.client(ferry.owner).post(address).status_code == 302
    assert Job.objects.get(kind="compare").label == "Comparing script and recording"
    ferry.script(ferry.owner, "remove", line=script_of(ferry.scene).value.lines[0].id)
    refused = ferry.client(ferry.owner).post(address)
    assert refused.status_code == 422
    assert "There is nothing to compare" in refused.content.decode()
