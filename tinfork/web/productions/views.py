from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from tinfork.core.errors import TinForkError
from tinfork.core.mouths.face import face_svg
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.speech.espeak import languages_by_name
from tinfork.core.timebase import COMMON_RATES
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import clip_document
from tinfork.web.sound.models import SoundFile

from . import actions
from .models import Production, Scene
from .permissions import check, may


def shelf(request: HttpRequest) -> HttpResponse:
    """The person's productions, and a form for a new one."""
    problem, typed = "", ""
    if request.method == "POST":
        typed = request.POST.get("name", "")
        try:
            return redirect(actions.create_production(request.user, typed))
        except TinForkError as refused:
            problem = str(refused)
    productions = Production.objects.filter(people=request.user).prefetch_related("scenes", "characters")
    shown = [
        {"production": p, "faces": [face_svg(c.look, SHAPES["rest"].place) for c in p.characters.all()]}
        for p in productions
    ]
    context = {"shown": shown, "problem": problem, "typed": typed}
    return render(request, "productions/shelf.html", context, status=422 if problem else 200)


def production(request: HttpRequest, pk: int) -> HttpResponse:
    """A production's scenes and cast, and forms for new ones."""
    found = get_object_or_404(Production, pk=pk)
    check(request.user, found, "see")
    problem = ""
    if request.method == "POST":
        try:
            return _create(request, found)
        except TinForkError as refused:
            problem = str(refused)
    context = {
        "production": found,
        "strips": [_strip(scene) for scene in found.scenes.prefetch_related("staves__character")],
        "cast": [{"character": c, "face": face_svg(c.look, SHAPES["rest"].place)} for c in found.characters.all()],
        "people": found.membership_set.select_related("person"),
        "rates": COMMON_RATES,
        "languages": languages_by_name(),
        "may_edit": may(request.user, found, "edit"),
        "problem": problem,
        "asked": request.POST,
    }
    return render(request, "productions/production.html", context, status=422 if problem else 200)


def _create(request: HttpRequest, production: Production) -> HttpResponse:
    asked = request.POST
    if asked.get("make") == "character":
        actions.create_character(request.user, production, asked.get("name", ""))
        return redirect(production)
    if asked.get("make") == "language":
        actions.set_language(request.user, production, asked.get("character", ""), asked.get("language", ""))
        return redirect(production)
    scene = actions.create_scene(
        request.user, production, asked.get("name", ""), asked.get("rate", ""), asked.get("start_frame", "")
    )
    return redirect("scene", scene.pk)


def _strip(scene: Scene) -> dict[str, object]:
    """A scene as the production page shows it: its tracks' waveforms, length and state."""
    document = arrangement_of(scene)
    value = document.value
    sounds = SoundFile.objects.in_bulk({clip.sound for clip in value.clips})
    tracks = [
        {"name": track.name, "clips": [clip_document(clip, sounds[clip.sound]) for clip in track.clips]}
        for track in value.tracks
        if track.clips
    ]
    staves = [stave for stave in scene.staves.all() if stave.reading is not None]
    read = f"read for {', '.join(stave.character.name for stave in staves)}" if staves else "not read yet"
    return {
        "scene": scene,
        "tracks": tracks,
        "fps": float(scene.fps),
        "seconds": value.frames / float(scene.fps),
        "frames": value.frames if tracks else 0,
        "state": read if tracks else "no sound yet",
    }
