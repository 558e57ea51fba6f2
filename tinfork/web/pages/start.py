"""Start: from recordings and their words to a speaking scene in one go."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from django.db import transaction
from django.http import HttpRequest, JsonResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.formats.script_text import speakers_in
from tinfork.core.limits import MAX_CAST
from tinfork.core.timebase import format_rate, parse_rate
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import WAITED_FOR, enqueue
from tinfork.web.productions.actions import (
    checked_start_frame,
    create_character,
    create_scene,
    free_scene_name,
    hold,
)
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.sound.models import SoundFile
from tinfork.web.sound.reels import ask_for_reel

from .laying import scenes_in
from .tasks import lay_out

IN_TURN, BY_SCRIPT = "turn", "script"
"""How a form says that recordings lie one after the other, whoever speaks; or where the script has what they say."""

Spoken = Sequence[tuple[SoundFile, str]]
"""Sounds, each with the name of who speaks in it; "" for everybody."""


@require_POST
def start(request: HttpRequest, pk: int) -> JsonResponse:
    """Make a scene of recordings: a form with sound files, who (names, with commas between them), for (of each file one
    of these names, or "" for all), lie (IN_TURN, BY_SCRIPT, or together), words, name, rate and start_frame. Answers
    with where its desk is, or where its scenes will be, and the job that reads or finds it; 422 with a sentence where
    something is amiss, and then nothing was made."""
    production = get_object_or_404(Production, pk=pk)
    check(request.user, production, "edit")
    try:
        leads, job = _start(request, production)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({"desk": leads, "job": reverse("job", args=[job.pk])})


def _start(request: HttpRequest, production: Production) -> tuple[str, Job]:
    asked, files = request.POST, request.FILES.getlist("sound")
    if not files:
        raise SoundError("Choose a recording first, or drop one here.")
    words = asked.get("words", "").strip()
    names = _names(production, asked.get("who", ""), words)
    voices = asked.getlist("for")
    whose = voices if len(voices) == len(files) else [guessed(file.name or "", names) for file in files]
    if asked.get("lie") == BY_SCRIPT:
        scenes_in(words, names, "Scene")
    spoken = [(bring_in(request.user, production, file), who) for file, who in zip(files, whose, strict=True)]
    if asked.get("lie") == BY_SCRIPT:
        return _ask_to_lay_out(request.user, production, asked, names, [sound.pk for sound, _ in spoken], words)
    scene, job = _made(request.user, production, asked, files[0].name or "", names, spoken, words)
    return reverse("desk", args=[scene.pk]), job


@transaction.atomic
def _ask_to_lay_out(
    person: Person, production: Production, asked: Any, names: Sequence[str], sounds: list[int], words: str
) -> tuple[str, Job]:
    """Have found what of a script is said in which recording."""
    hold(production)
    for name in names:
        _character(person, production, name)
    wanted = {
        "sounds": sounds,
        "words": words,
        "name": asked.get("name") or "Scene",
        "rate": format_rate(parse_rate(asked.get("rate") or "24")),
        "start_frame": str(checked_start_frame(asked.get("start_frame") or "1")),
    }
    job = enqueue(person, lay_out, "lay-out", production.pk, None, wanted, WAITED_FOR, "a long reading")
    return reverse("production", args=[production.pk]), job


@transaction.atomic
def _made(
    person: Person, production: Production, asked: Any, file: str, names: Sequence[str], spoken: Spoken, words: str
) -> tuple[Scene, Job]:
    hold(production)
    cast = {name: _character(person, production, name) for name in names}
    stem = Path(file).stem[:60].strip() or "Scene"
    name = asked.get("name") or free_scene_name(production, stem)
    scene = create_scene(person, production, name, asked.get("rate") or "24", asked.get("start_frame") or "1")
    _place(person, scene, [(sound, cast.get(who)) for sound, who in spoken], asked.get("lie") == IN_TURN)
    if words:
        add_text(person, script_of(scene), None, words)
    return scene, ask_to_read(person, scene)


def _place(person: Person, scene: Scene, spoken: Sequence[tuple[SoundFile, Character | None]], in_turn: bool) -> None:
    """Place sounds one after the other; or, where they are not to be in turn, each character's from the start."""
    heard = set()
    for sound, who in spoken:
        document = arrangement_of(scene)
        end = max((clip.end for clip in document.value.clips), default=0)
        place_sound(person, document, sound, end if in_turn else None if who in heard else 0, who)
        heard.add(who)
        ask_for_reel(person, scene, sound)


def _names(production: Production, who: str, words: str) -> list[str]:
    """Who speaks: as they were named, else as the words name them, else the cast where that is one."""
    given = [" ".join(name.split()) for name in who.split(",")]
    named = list(dict.fromkeys(name for name in given if name)) or speakers_in(words)
    if not named:
        named = list(production.characters.values_list("name", flat=True)[:2])
        if len(named) != 1:
            raise TinForkError("Say who speaks, such as Marit; several names with commas between them.")
    if len(named) > MAX_CAST:
        raise TinForkError(f"A scene has up to {MAX_CAST} people who speak; these are {len(named)}.")
    return named


def guessed(file: str, names: Sequence[str]) -> str:
    """Whose recording a file is: the one name there is, or the one in the file's name; "" where that is not certain."""
    if len(names) == 1:
        return names[0]
    found = [name for name in names if name.lower() in Path(file).stem.lower()]
    return found[0] if len(found) == 1 else ""


def _character(person: Person, production: Production, name: str) -> Character:
    return production.characters.filter(name__iexact=name).first() or create_character(person, production, name)
