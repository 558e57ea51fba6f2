"""A chart tried on a face before it is used: it speaks the stock phrase, or a line of the production."""

import tempfile
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Settings
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.shapes import NAMES
from tinfork.core.plain import restore
from tinfork.core.sound import mix
from tinfork.core.speech.reading import Line, moved
from tinfork.web.charts.access import check_chart
from tinfork.web.charts.models import MouthChart, Worn, worn_by
from tinfork.web.cleaning import natural
from tinfork.web.productions.models import Character, Production
from tinfork.web.productions.permissions import check
from tinfork.web.sound.arranging import pieces_of
from tinfork.web.sound.listening import open_sounds
from tinfork.web.staves.models import ReadLine, Stave
from tinfork.web.staves.mouths import Mouths, basis_of
from tinfork.web.staves.placing import Placed

from . import stock

_MOST_LINES = 500
_BEFORE, _AFTER = 0.3, 0.4
_STOCK_RATE = Fraction(24)


@dataclass(frozen=True)
class _Said:
    """What is spoken: lines from 0 on, how many seconds, at which frame rate, with which settings; where its sound
    is."""

    lines: tuple[Line, ...]
    seconds: float
    rate: Fraction
    settings: Settings
    sound: str


def phrases(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the lines of a production that can be spoken, by how they are asked for, and who says them."""
    found = get_object_or_404(Production, pk=pk)
    check(request.user, found, "see")
    own = ReadLine.objects.filter(stave__scene__production=found, stave__scene__removed=None)
    rows = own.order_by("stave__scene__place", "stave", "number").values_list(
        "stave", "number", "body__text", "stave__character__name"
    )
    lines = [{"line": f"{stave}-{number}", "text": text, "who": who} for stave, number, text, who in rows[:_MOST_LINES]]
    return JsonResponse({"lines": lines})


def speak(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what is seen when a character speaks a line (?line=) with a chart (?chart=, in ?mood=): the face, its
    drawings, and which is shown on which frames. Without a chart they speak with what they wear, or with ours
    (?chart=ours)."""
    character = get_object_or_404(Character.objects.select_related("production"), pk=pk)
    check(request.user, character.production, "see")
    said, worn = _said(request, character), _tried(request, character)
    basis = basis_of(worn.chart) if worn else []
    own = Mouths(character, basis, worn)
    sounds = [sound for line in said.lines for word in line.words for sound in word.sounds]
    shown = plan.plan(curves.curves(sounds, said.seconds, said.rate), own.basis, said.settings)
    return JsonResponse(
        {
            "fps": float(said.rate),
            "sound": said.sound,
            "chart": own.document("try"),
            "exposures": [[e.frame, e.frames, own.seen_as(e)] for e in shown],
        }
    )


def _tried(request: HttpRequest, character: Character) -> Worn | None:
    asked = request.GET.get("chart", "")
    if not asked or asked == "ours":
        return worn_by(character) if not asked else None
    chart = get_object_or_404(MouthChart, pk=natural(asked) or 0)
    check_chart(request.user, chart, "see")
    if not chart.drawings.exists():
        raise Http404("Nothing to speak with yet.")
    return Worn(character=character, chart=chart, mood=request.GET.get("mood", NEUTRAL))


def _said(request: HttpRequest, character: Character) -> _Said:
    asked = request.GET.get("line", "")
    if not asked:
        line, seconds = stock.phrase()
        return _Said((line,), seconds, _STOCK_RATE, Settings(), reverse("stock-sound"))
    stave, _, number = asked.partition("-")
    placed, own, begin, end = _line(request, natural(stave), natural(number))
    if placed.stave.scene.production_id != character.production_id:
        raise Http404("No such line.")
    lines = tuple(moved(line, -begin) for line in own)
    sound = reverse("line-sound", args=[placed.stave.pk, natural(number)])
    return _Said(lines, end - begin, placed.rate, placed.stave.settings_value, sound)


def _line(request: HttpRequest, stave: int | None, number: int | None) -> tuple[Placed, tuple[Line, ...], float, float]:
    """Return a line as it is heard in its scene, with when it begins and ends, and a little more."""
    found = get_object_or_404(Stave.objects.select_related("scene__production", "character"), pk=stave or 0)
    check(request.user, found.scene.production, "see")
    row = get_object_or_404(ReadLine, stave=found, number=number or 0)
    placed = Placed(found)
    lines = placed.in_scene([restore(row.body, Line)])
    if not lines:
        raise Http404("This line is not heard any more.")
    begin = max(0.0, min(line.start for line in lines) - _BEFORE)
    return placed, lines, begin, max(line.end for line in lines) + _AFTER


def line_sound(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Return the sound of a line."""
    placed, _, begin, end = _line(request, pk, number)
    with tempfile.TemporaryDirectory() as folder, open_sounds() as path_of:
        path = Path(folder) / "line.flac"
        mix.write(path, pieces_of(placed.clips, placed.stave.scene, path_of), end - begin, begin)
        return HttpResponse(path.read_bytes(), content_type="audio/flac")


def stock_track(request: HttpRequest) -> JsonResponse:
    """Return the mouth track of the stock phrase with our thirteen: what a style of ours can be seen speaking with."""
    line, seconds = stock.phrase()
    sounds = [sound for word in line.words for sound in word.sounds]
    shown = plan.plan(curves.curves(sounds, seconds, _STOCK_RATE), built_in(), Settings())
    exposures = [[e.frame, e.frames, e.drawing] for e in shown]
    track = {"fps": float(_STOCK_RATE), "sound": reverse("stock-sound"), "exposures": exposures, "names": NAMES}
    return JsonResponse(track)


def stock_sound(request: HttpRequest) -> FileResponse:
    """Return the sound of the stock phrase."""
    return FileResponse(stock.SOUND.open("rb"), content_type="audio/flac")
