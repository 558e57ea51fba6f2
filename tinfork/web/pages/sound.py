"""The Sound view."""

from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from tinfork.core.errors import SoundError
from tinfork.core.limits import MAX_SOUND_BYTES
from tinfork.core.script.lines import Cue
from tinfork.core.timebase import frame_count
from tinfork.web.cleaning import natural
from tinfork.web.edits.actions import one_step
from tinfork.web.edits.requests import answer
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import find_scene, may
from tinfork.web.script.actions import add_cues, script_of
from tinfork.web.script.languages import language_of
from tinfork.web.sound.actions import scratch_voice
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.arriving import arriving
from tinfork.web.sound.document import cast_document, sound_document, time_base, voices_document
from tinfork.web.sound.models import SoundFile
from tinfork.web.sound.views import character_in, key_of, now


def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Show tracks and clips, takes and scratch voices."""
    scene = find_scene(request.user, pk)
    cast, lines = cast_document(scene.production), _lines(scene)
    document = {
        "scene": time_base(scene),
        "cast": cast,
        "lines": lines,
        "voices": voices_document(one["language"] for one in [*cast, *lines]),
        "mayEdit": may(request.user, scene.production, "edit"),
        "mostBytes": MAX_SOUND_BYTES,
        "sound": sound_document(arrangement_of(scene)),
    }
    return render(request, "sound/sound.html", {"scene": scene, "view": "sound", "document": document})


@require_POST
def scratch(request: HttpRequest, pk: int) -> JsonResponse:
    """Have a scratch voice speak a line, and place it on its character's track; words that are in no line are added to
    the script, where they are heard."""
    scene = find_scene(request.user, pk, "edit")
    found = arrangement_of(scene)

    def do() -> None:
        character = character_in(request, scene)
        if character is None:
            raise SoundError("Say which character speaks.")
        text, sound = request.POST.get("text", ""), _spoken(request, scene, character)
        with arriving(scene, key_of(request)) as arrival, one_step():
            fresh = not arrival.known
            end = arrival.place(request.user, sound, natural(request.POST.get("start")), character)
            if fresh and not _is_written(scene, text, character):
                times = ((end - frame_count(sound.seconds, scene.fps)) / float(scene.fps), end / float(scene.fps))
                add_cues(request.user, script_of(scene), [Cue(text, "", *times)], character.pk)

    return answer(do, lambda: now(found))


def _spoken(request: HttpRequest, scene: Scene, character: Character) -> SoundFile:
    """Return what is asked for, spoken."""
    asked = request.POST
    try:
        rate, pitch = float(asked.get("rate", "1")), int(asked.get("pitch", "50"))
    except ValueError:
        raise SoundError("Rate and pitch are numbers.") from None
    language = asked.get("language") or character.language or scene.production.language
    words, voice = asked.get("text", ""), asked.get("voice", "")
    return scratch_voice(request.user, scene.production, words, language, voice, rate, pitch)


def _is_written(scene: Scene, text: str, character: Character) -> bool:
    """Whether a line of the script has these words, spoken by this character or by nobody who is named."""
    said = " ".join(text.split())
    return any(
        " ".join(line.text.split()) == said and line.character in (None, character.pk)
        for line in script_of(scene).value.lines
    )


def _lines(scene: Scene) -> list[dict[str, Any]]:
    """The lines a scratch voice can speak, in their languages."""
    cast = list(scene.production.characters.all())
    return [
        {"id": line.id, "text": line.text, "character": line.character, "language": language_of(scene, line, cast)}
        for line in script_of(scene).value.lines
    ]
