"""A conversation in one sound, without a word written: the mouth of whoever is heard moves."""

import io

import numpy as np
import pytest
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile

from bench.truth import flite
from tinfork.core.sound.recording import READ_RATE
from tinfork.core.speech import recognise
from tinfork.core.speech.reading import SOUNDS_ONLY
from tinfork.web.edits.actions import undo
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.reading.scene import Asked, name_marked, read_part, to_read
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import add_mark, arrangement_of, place_sound
from tinfork.web.staves.actions import stave_for
from tinfork.web.staves.models import Stave
from tinfork.web.staves.seeing import track_of

LOW, HIGH = "Nobody sold a ticket to that goat.", "My left boot went overboard near the lighthouse."
PAUSE = np.zeros(READ_RATE)


@pytest.fixture
def mixed(ferry):
    """A scene of two, whose two voices are in one sound, and where each of them speaks in it."""
    low, high = flite(LOW, "rms").recording.samples, flite(HIGH, "slt").recording.samples
    samples = np.concatenate([PAUSE, low, PAUSE, high, PAUSE])
    out = io.BytesIO()
    soundfile.write(out, samples, READ_RATE, format="WAV")
    production = create_production(ferry.owner, "Two on deck")
    scene = create_scene(ferry.owner, production, "Boot", "24", "1")
    cast = [create_character(ferry.owner, production, name) for name in ("Brede", "Marit")]
    for one in cast:
        stave_for(ferry.owner, scene, one)
    sound = bring_in(ferry.owner, production, SimpleUploadedFile("both.wav", out.getvalue()))
    place_sound(ferry.owner, arrangement_of(scene), sound, 0, None)
    first = len(PAUSE)
    second = first + len(low) + len(PAUSE)
    spans = [
        range(edge * 24 // READ_RATE, (edge + len(own)) * 24 // READ_RATE)
        for edge, own in ((first, low), (second, high))
    ]
    return scene, cast, spans


def moving(scene, character):
    """The frames on which a character's mouth is not at rest."""
    stave = Stave.objects.get(scene=scene, character=character)
    return {frame for e in track_of(stave) if e.drawing != "rest" for frame in range(e.frame, e.end)}


def test_each_mouth_moves_where_its_own_voice_is_heard(ferry, mixed):
    scene, cast, spans = mixed
    assert ask_to_read(ferry.owner, scene)
    notes = []
    for part in to_read(scene)[0]:
        notes += read_part(ferry.owner, scene, part, Asked(), lambda share: None)
    assert any("by their voices it was given to Brede, Marit" in note for note in notes)
    for character, own, other in zip(cast, spans, reversed(spans), strict=True):
        frames = moving(scene, character)
        assert len(frames & set(own)) > 0.8 * len(own)
        assert not frames & set(other)


@pytest.mark.parametrize(("late", "named"), [(0.45, True), (0.55, False)])
def test_a_timed_line_of_nobody_is_said_by_who_is_marked_for_most_of_it(ferry, mixed, late, named):
    scene, (brede, _), _ = mixed
    text = "WEBVTT\n\n00:01.000 --> 00:03.000\nNobody sold a ticket.\n\n00:10.000 --> 00:11.000\nFog.\n"
    add_text(ferry.owner, script_of(scene), None, text, "timed")
    first = 1.0 + 2.0 * late
    document = arrangement_of(scene)
    marked = add_mark(ferry.owner, document, document.version, brede.pk, first, 3.0)
    told = ("1 line that named nobody is said by who is marked there: Brede.",)
    assert marked.remarks == (told if named else ())
    assert [line.character for line in script_of(scene).value.lines] == [brede.pk if named else None, None]
    assert name_marked(ferry.owner, scene) == []
    undo(ferry.owner, arrangement_of(scene), arrangement_of(scene).version)
    assert [line.character for line in script_of(scene).value.lines] == [None, None]
    assert not arrangement_of(scene).the_marks.marks


def test_without_words_of_the_language_the_sounds_move_them(ferry, mixed, monkeypatch):
    monkeypatch.delenv(recognise.SETTING, raising=False)
    scene, cast, spans = mixed
    scene.production.language = "es"
    scene.production.save()
    for part in to_read(scene)[0]:
        read_part(ferry.owner, scene, part, Asked(), lambda share: None)
    for character, own, other in zip(cast, spans, reversed(spans), strict=True):
        frames = moving(scene, character)
        assert len(frames & set(own)) > 0.8 * len(own)
        assert not frames & set(other)
        stave = Stave.objects.get(scene=scene, character=character)
        assert {line.text for line in stave.reading_value.lines} == {SOUNDS_ONLY}
