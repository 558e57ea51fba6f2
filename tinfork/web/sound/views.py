from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.limits import MAX_SOUND_BYTES
from tinfork.web.edits import actions as edits
from tinfork.web.edits.requests import Verbs, answer, many, number, optional, perform, span, text, truth, whole
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import check, find_scene, may

from . import actions, arranging
from .document import cast_document, lines_document, sound_document, time_base, voices_document
from .models import Arrangement, SoundFile

_A_YEAR = "private, max-age=31536000, immutable"

VERBS: Verbs = {
    "slide": (arranging.slide, {"clips": many(whole), "by": whole, "ripple": truth}),
    "move": (arranging.to_track, {"clip": whole, "track": whole}),
    "trim": (arranging.trim, {"clip": whole, "first": whole, "end": whole}),
    "split": (arranging.split, {"clips": many(whole), "frame": whole}),
    "delete": (arranging.delete, {"clips": many(whole), "ripple": truth}),
    "cut-out": (
        arranging.cut_out,
        {"first": whole, "end": whole, "tracks": optional(many(whole)), "ripple": truth},
    ),
    "open-gap": (arranging.open_gap, {"frame": whole, "frames": whole, "tracks": optional(many(whole))}),
    "gain": (arranging.set_gain, {"clip": whole, "gain": number}),
    "channel": (arranging.set_channel, {"clip": whole, "channel": whole}),
    "add-track": (arranging.add_track, {"kind": text, "name": text, "character": optional(whole)}),
    "remove-track": (arranging.remove_track, {"track": whole}),
    "track": (
        arranging.set_track,
        {
            "track": whole,
            "muted": optional(truth),
            "solo": optional(truth),
            "gain": optional(number),
            "name": optional(text),
        },
    ),
    "length": (arranging.set_length, {"frames": optional(whole)}),
    "keep-take": (arranging.keep_take, {"take": whole, "start": optional(whole)}),
    "pass": (arranging.mark_pass, {"character": whole, "held": many(span), "first": number, "end": number}),
    "mark": (arranging.move_mark, {"mark": whole, "start": number, "end": number}),
    "remove-mark": (arranging.remove_mark, {"mark": whole}),
    "take-voices": (arranging.take_groups, {"spans": many(many(number)), "who": many(whole)}),
    "undo": (edits.undo, {}),
    "redo": (edits.redo, {}),
}


def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The Sound view."""
    scene = find_scene(request.user, pk)
    cast, lines = cast_document(scene), lines_document(scene)
    document = {
        "scene": time_base(scene),
        "cast": cast,
        "lines": lines,
        "voices": voices_document(one["language"] for one in [*cast, *lines]),
        "mayEdit": may(request.user, scene.production, "edit"),
        "mostBytes": MAX_SOUND_BYTES,
        "sound": sound_document(arranging.arrangement_of(scene)),
    }
    return render(request, "sound/sound.html", {"scene": scene, "view": "sound", "document": document})


def document(request: HttpRequest, pk: int) -> JsonResponse:
    """The arrangement as the Sound view draws it."""
    return JsonResponse(sound_document(arranging.arrangement_of(find_scene(request.user, pk))))


@require_POST
def edit(request: HttpRequest, pk: int) -> JsonResponse:
    """One edit on one version, as JSON: {"verb", "version", ...}; see tinfork.web.edits.requests.answer."""
    scene = find_scene(request.user, pk, "edit")
    found = arranging.arrangement_of(scene)
    return answer(lambda: perform(request, found, VERBS), lambda: _now(found))


def _now(found: Arrangement) -> dict[str, Any]:
    found.refresh_from_db()
    return sound_document(found)


@require_POST
def bring(request: HttpRequest, pk: int) -> JsonResponse:
    """Files onto the scene, a track or a character, one after the other from a frame on."""
    scene = find_scene(request.user, pk, "edit")
    found = arranging.arrangement_of(scene)

    def do() -> None:
        files = request.FILES.getlist("sound")
        if not files:
            raise SoundError("No file came through; drop it again.")
        problems = []
        start = _number(request.POST.get("start"))
        for file in files:
            try:
                sound = actions.bring_in(request.user, scene.production, file)
                place = {"character": _character(request, scene), "track": _number(request.POST.get("track"))}
                placed = arranging.place_sound(request.user, found, sound, start, **place)
                start = max(c.end for c in placed.value.clips if c.sound == sound.pk)
                actions.ask_for_reel(request.user, scene, sound)
            except TinForkError as refused:
                problems.append(f"{file.name}: {refused}" if len(files) > 1 else str(refused))
        if problems:
            raise SoundError(" ".join(problems))

    return answer(do, lambda: _now(found))


@require_POST
def scratch(request: HttpRequest, pk: int) -> JsonResponse:
    """A line spoken by a scratch voice, placed on its character's track."""
    scene = find_scene(request.user, pk, "edit")
    found = arranging.arrangement_of(scene)

    def do() -> None:
        character = _character(request, scene)
        if character is None:
            raise SoundError("Say which character speaks.")
        asked = request.POST
        try:
            rate, pitch = float(asked.get("rate", "1")), int(asked.get("pitch", "50"))
        except ValueError:
            raise SoundError("Rate and pitch are numbers.") from None
        language = asked.get("language") or character.language or scene.production.language
        sound = actions.scratch_voice(
            request.user,
            scene.production,
            asked.get("text", ""),
            language,
            asked.get("voice", ""),
            rate,
            pitch,
        )
        arranging.place_sound(request.user, found, sound, _number(asked.get("start")), character)

    return answer(do, lambda: _now(found))


@require_POST
def take(request: HttpRequest, pk: int) -> JsonResponse:
    """A recording made in the browser, as one more take of a character."""
    scene = find_scene(request.user, pk, "edit")
    found = arranging.arrangement_of(scene)

    def do() -> None:
        upload, character = request.FILES.get("sound"), _character(request, scene)
        if upload is None or character is None:
            raise SoundError("The take did not come through; record it again.")
        count = scene.takes.filter(character=character).count() + 1
        upload.name = f"{character.name} take {count}.webm"
        actions.add_take(request.user, scene, character, actions.bring_in(request.user, scene.production, upload))

    return answer(do, lambda: _now(found))


@require_POST
def voices(request: HttpRequest, pk: int) -> JsonResponse:
    """Stretches of the scene's dialogue grouped by voice: a suggestion; nothing is changed."""
    found = arranging.arrangement_of(find_scene(request.user, pk, "edit"))
    asked = request.POST.get("count", "").strip()

    def do() -> dict[str, Any]:
        if asked and not asked.isdigit():
            raise SoundError("Give how many people speak as a whole number, or leave it empty.")
        grouped = arranging.group_voices(request.user, found, int(asked) if asked else None)
        if not grouped:
            raise SoundError("No speech was found on the dialogue tracks; bring a recording in first.")
        return {"voices": [[s.start, s.end, s.voice] for s in grouped]}

    return answer(do, lambda: _now(found))


def _number(value: str | None) -> int | None:
    """A whole number from 0, such as a frame; None where there is none."""
    return int(value) if value and value.isdigit() else None


def _character(request: HttpRequest, scene: Scene) -> Character | None:
    pk = _number(request.POST.get("character"))
    return None if pk is None else get_object_or_404(scene.production.characters, pk=pk)


def _sound(request: HttpRequest, pk: int) -> SoundFile:
    sound = get_object_or_404(SoundFile.objects.select_related("production"), pk=pk)
    check(request.user, sound.production, "see")
    return sound


def original(request: HttpRequest, pk: int) -> FileResponse:
    """The file as it came, byte for byte, as a download."""
    sound = _sound(request, pk)
    return FileResponse(
        sound.original.open("rb"), as_attachment=True, filename=sound.name, content_type="application/octet-stream"
    )


def reel(request: HttpRequest, pk: int) -> FileResponse:
    """The reference picture of a video: WebM."""
    sound = _sound(request, pk)
    if not sound.reel:
        raise Http404
    return _cached(FileResponse(sound.reel.open("rb"), content_type="video/webm"))


def listen(request: HttpRequest, pk: int, channel: str) -> FileResponse:
    """A channel's listening copy: mono FLAC at 48 kHz."""
    return _cached(FileResponse(_hearing(request, pk, channel).listen.open("rb"), content_type="audio/flac"))


def peaks(request: HttpRequest, pk: int, channel: str) -> FileResponse:
    """A channel's peak pyramid, packed as tinfork.core.sound.peaks says."""
    return _cached(
        FileResponse(_hearing(request, pk, channel).peaks.open("rb"), content_type="application/octet-stream")
    )


def _hearing(request: HttpRequest, pk: int, channel: str) -> Any:
    sound = _sound(request, pk)
    if channel != "mix" and not channel.isdigit():
        raise Http404
    hearing = sound.hearings.filter(channel=-1 if channel == "mix" else int(channel)).first()
    if hearing is None:
        raise Http404
    return hearing


def _cached(response: FileResponse) -> FileResponse:
    response["Cache-Control"] = _A_YEAR
    return response
