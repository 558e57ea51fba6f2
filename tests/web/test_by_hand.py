"""A scene that was never read: words and mouths are put in by hand, and a later reading keeps them."""

import pytest

from tinfork.core.errors import ReadingError
from tinfork.core.speech.by_hand import line_by_hand
from tinfork.web.productions.actions import create_scene
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves.models import Stave
from tinfork.web.staves.planning import scene_reading
from tinfork.web.staves.seeing import track_of


@pytest.fixture
def unread(ferry):
    """Another scene with the same sound, of which nothing is read; its stave is made by looking at the desk."""
    scene = create_scene(ferry.owner, ferry.scene.production, "Unread", "24", "1")
    marit = ferry.stave.character
    place_sound(ferry.owner, arrangement_of(scene), ferry.scene.production.sounds.get(), 0, marit)
    add_text(ferry.owner, script_of(scene), None, "Marit: The fog is ours.")
    assert ferry.client(ferry.owner).get(f"/scenes/{scene.pk}/reading/").status_code == 200
    ferry.stave = Stave.objects.get(scene=scene)
    return ferry


def shown(stave):
    return {e.drawing for e in track_of(stave)}


def test_the_desk_of_an_unread_scene_rests_until_somebody_puts_something_in(unread):
    assert not unread.fresh.is_read
    assert shown(unread.fresh) == {"rest"}
    assert track_of(unread.fresh)[-1].end == arrangement_of(unread.scene).value.frames


def test_a_viewer_who_looks_makes_nothing(unread):
    Stave.objects.filter(scene=unread.scene).delete()
    page = unread.client(unread.viewer).get(f"/scenes/{unread.scene.pk}/reading/")
    assert page.status_code == 200
    assert not Stave.objects.filter(scene=unread.scene).exists()


def test_a_mouth_is_put_where_nothing_is_read(unread):
    answer = unread.edit(unread.owner, "pin", frame=10, frames=4, drawing="open")
    assert answer.json()["document"]["stale"] == []
    assert [(e.frame, e.frames) for e in track_of(unread.fresh) if e.drawing == "open"] == [(10, 4)]
    assert not unread.fresh.is_read
    unread.edit(unread.owner, "undo")
    assert shown(unread.fresh) == {"rest"}


def test_a_line_of_the_script_is_put_in_and_its_mouths_follow(unread):
    assert unread.edit(unread.owner, "write line", text="", start=0.5, end=1.5, line=1).status_code == 200
    (line,) = scene_reading(unread.fresh).lines
    assert ([word.text for word in line.words], line.id) == (["The", "fog", "is", "ours"], 1)
    assert (line.start, line.end) == (0.5, 1.5)
    assert {"tuck", "teeth", "open"} <= shown(unread.fresh)
    again = unread.edit(unread.owner, "write line", text="", start=1.6, end=2.0, line=1)
    assert again.status_code == 422
    assert "no longer there" in again.json()["problem"]


def test_new_words_are_in_the_script_too_and_are_one_step_to_undo(unread):
    unread.edit(unread.owner, "write line", text="Fog, Marit.", start=0.25)
    (line,) = scene_reading(unread.fresh).lines
    assert script_of(unread.scene).value.lines[-1].text == "Fog, Marit."
    assert line.end == pytest.approx(0.25 + 8 * 0.085)
    unread.edit(unread.owner, "undo")
    assert [one.text for one in script_of(unread.scene).value.lines] == ["The fog is ours."]
    assert not unread.fresh.is_read
    assert shown(unread.fresh) == {"rest"}


def test_lines_stand_in_the_order_they_are_said_and_never_over_one_another(unread):
    for text, start in (("Goat.", 1.2), ("Boat.", 0.2), ("Fog.", 0.7)):
        unread.edit(unread.owner, "write line", text=text, start=start, end=start + 0.4)
    assert [line.text for line in unread.fresh.reading_value.lines] == ["Boat.", "Fog.", "Goat."]
    over = unread.edit(unread.owner, "write line", text="Salt.", start=0.9, end=1.4)
    assert "is said there already" in over.json()["problem"]
    assert [line.text for line in script_of(unread.scene).value.lines][-1] == "Fog."


@pytest.mark.parametrize(
    ("what", "why"),
    [
        ({"text": " ", "start": 0.5}, "give the words"),
        ({"text": "Fog.", "start": 0.5, "end": 0.51}, "no time"),
        ({"text": "Fog.", "start": 0.5, "end": 0.4}, "no time"),
        ({"text": "Fog.", "start": 900, "end": 901}, "does not end before the scene does"),
        ({"text": "Fog.", "start": -1, "end": 1}, "does not end before the scene does"),
        ({"text": "", "start": 0.5, "line": 7}, "no longer there"),
    ],
)
def test_what_cannot_be_put_in_gets_a_sentence(unread, what, why):
    answer = unread.edit(unread.owner, "write line", **what)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert len(script_of(unread.scene).value.lines) == 1


def test_sounds_are_spread_evenly_and_everything_is_set_by_hand():
    line = line_by_hand("Fog, oh", [("Fog", [("f", 0), ("ɒ", 1), ("ɡ", 0)]), ("oh", [("oʊ", 1)])], 2.0, 2.8, 3, "b")
    assert [word.edges for word in line.words] == [(2.0, 2.2, 2.4, 2.6), (2.6, 2.8)]
    assert [word.pinned for word in line.words] == [(0, 3), (0, 1)]
    assert all(word.decided for word in line.words)
    assert [sound.stress for sound in line.words[0].sounds] == [0, 1, 0]
    with pytest.raises(ReadingError, match="give the words"):
        line_by_hand("", [], 0.0, 1.0, 1, "")
