"""The voices of characters, kept from what was read of them."""

import io

import pytest
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile

from bench import acted
from tinfork.core.sound.recording import READ_RATE
from tinfork.core.speech import read
from tinfork.web.productions.actions import create_character
from tinfork.web.reading.scene import Asked, read_part, to_read
from tinfork.web.script.actions import add_text, script_of, write
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound

SQUEAKED = "Give me all of your chips, please."


@pytest.fixture
def gull(ferry):
    """A gull in the ferry's scene, with a sound of hers and her line."""
    gull = create_character(ferry.owner, ferry.scene.production, "Gull")
    line = acted.sized(SQUEAKED, "slt", acted.SQUEAKY)
    out = io.BytesIO()
    soundfile.write(out, line.recording.samples, READ_RATE, format="WAV")
    upload = SimpleUploadedFile("gull.wav", out.getvalue())
    sound = bring_in(ferry.owner, ferry.scene.production, upload)
    place_sound(ferry.owner, arrangement_of(ferry.scene), sound, 120, gull)
    add_text(ferry.owner, script_of(ferry.scene), None, f"Gull: {SQUEAKED}")
    return gull


def reads(ferry, **asked):
    for part in to_read(ferry.scene)[0]:
        read_part(ferry.owner, ferry.scene, part, Asked(**asked), lambda share: None)


def test_a_small_voice_is_heard_kept_shown_and_used(ferry, gull, client, monkeypatch):
    reads(ferry)
    gull.refresh_from_db()
    assert gull.formants > 1.3
    assert 1 < gull.formants_seconds < 4
    client.force_login(ferry.viewer)
    page = client.get(f"/productions/{ferry.scene.production_id}/cast-and-charts/").content.decode()
    assert "small voice" in page
    assert f"formants {gull.formants:.2f} times as high as usual" in page
    told = []
    real = read.read_lines

    def listening(*args):
        told.append(dict(args[7]))
        return real(*args)

    monkeypatch.setattr(read, "read_lines", listening)
    line = script_of(ferry.scene).value.lines[-1].id
    reads(ferry, lines=frozenset({line}))
    assert {gull.pk: gull.formants} in [{who: own for who, own in one.items() if who == gull.pk} for one in told]


def test_what_more_was_heard_of_takes_the_place_of_less(ferry, gull):
    gull.formants, gull.formants_seconds = 1.0, 0.2
    gull.save()
    reads(ferry)
    gull.refresh_from_db()
    assert gull.formants > 1.3
    gull.formants, gull.formants_seconds = 1.36, 600
    gull.save()
    reads(ferry)
    gull.refresh_from_db()
    assert (gull.formants, gull.formants_seconds) == (1.36, 600)


def test_words_that_are_not_said_there_teach_nothing_of_a_voice(ferry, gull):
    document = script_of(ferry.scene)
    write(ferry.owner, document, document.version, document.value.lines[-1].id, "Seventeen otters wrote a letter.")
    reads(ferry)
    gull.refresh_from_db()
    assert gull.formants is None


def test_the_usual_size_is_not_told(ferry):
    reads(ferry)
    marit = ferry.stave.character
    marit.refresh_from_db()
    assert marit.formants is not None
    assert marit.voice == ""
