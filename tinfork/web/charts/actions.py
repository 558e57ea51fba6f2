"""What people do to mouth charts. Each action checks who asks and is whole or not at all."""

import hashlib
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, TypeAlias

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from tinfork.core.errors import ChartError
from tinfork.core.formats import chart_folder
from tinfork.core.formats.chart_folder import Charted
from tinfork.core.limits import MAX_DRAWINGS
from tinfork.core.mouths.draw import BOX, Style, alone, styled
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.picture import Picture, opened
from tinfork.core.mouths.register import Registration, registered
from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES
from tinfork.web.files import store
from tinfork.web.productions.actions import checked_name, hold
from tinfork.web.productions.models import Character, Production
from tinfork.web.productions.permissions import Person, check

from .models import ChartDrawing, MouthChart, Worn

MOST_CHARTS = 100
_LIES = {"x": (-20_000.0, 40_000.0), "y": (-20_000.0, 40_000.0), "turn": (-180.0, 180.0), "scale": (1e-4, 100.0)}
_MOST_BYTES = 400_000_000

Upload: TypeAlias = "UploadedFile[Any]"
_chart_changed: list[Callable[[Character], None]] = []


def follow(told: Callable[[Character], None]) -> None:
    """Be told whenever a character gets another chart."""
    _chart_changed.append(told)


@transaction.atomic
def create_chart(person: Person, production: Production, name: str) -> MouthChart:
    """A chart without drawings. ChartError when there is one of that name."""
    check(person, production, "edit")
    hold(production)
    name = checked_name(name, "chart")
    if production.charts.count() >= MOST_CHARTS:
        raise ChartError(f"A production has {MOST_CHARTS} charts at the most; delete one first.")
    if MouthChart.objects.filter(production=production, name=name).exists():
        raise ChartError(f"There is a chart called {name} already; give another name.")
    return MouthChart.objects.create(production=production, name=name)


Cut = Callable[[Picture], list[Picture]]
"""How a sheet becomes its drawings."""


def bring_in(person: Person, chart: MouthChart, uploads: Sequence[Upload], cut: Cut | None = None) -> list[str]:
    """Bring pictures, or ZIPs of them, into a chart; a sentence for each that is not used. ChartError when none is.
    cut: for pictures that are sheets of drawings."""
    check(person, chart.production, "edit")
    if sum(upload.size or 0 for upload in uploads) > _MOST_BYTES:
        raise ChartError("These files are larger than 400 MB together; bring them in a few at a time.")
    files: dict[str, bytes] = {}
    notes: list[str] = []
    for upload in uploads:
        name = Path(upload.name or "drawing").name
        try:
            found = chart_folder.unpacked(upload.read()) if name.lower().endswith(".zip") else {name: upload.read()}
            if cut is not None:
                pieces = [piece for path, data in found.items() for piece in cut(opened(Path(path).name, data))]
                found = {f"{piece.name}.png": piece.png for piece in pieces}
            files |= {path if path not in files else f"{len(files)} {path}": data for path, data in found.items()}
        except ChartError as amiss:
            notes.append(str(amiss))
    if not files:
        raise ChartError(notes[0] if notes else "No file came through; choose the drawings again.")
    known = _known(chart)
    fresh = chart_folder.read(files)
    keep_drawings(chart, fresh.drawings)
    return [*notes, *fresh.notes, *(_twice(fresh.drawings, known))]


def _known(chart: MouthChart) -> set[tuple[str, str]]:
    return set(chart.drawings.values_list("mood", "name"))


def _twice(fresh: Sequence[Charted], known: set[tuple[str, str]]) -> list[str]:
    doubled = [one.name for one in fresh if (one.mood, one.name) in known]
    return [f"There was a {name} already; the new one has a number after its name." for name in doubled[:4]]


@transaction.atomic
def keep_drawings(chart: MouthChart, fresh: Sequence[Charted]) -> None:
    """Put drawings into a chart, each with its picture, laid on the anchor of those that are there."""
    lies = registered([one.opened.pixels for one in fresh], [one.place for one in fresh])
    _keep(chart, fresh, lies)


@transaction.atomic
def _keep(chart: MouthChart, fresh: Sequence[Charted], lies: Sequence[Registration]) -> None:
    hold(chart.production)
    there = list(chart.drawings.all())
    if len(there) + len(fresh) > MAX_DRAWINGS * 4:
        raise ChartError(f"A chart has {MAX_DRAWINGS * 4} drawings at the most; begin another.")
    like = {(d.width, d.height): d.registration for d in there}
    names = {(d.mood, d.name) for d in there}
    number = (chart.drawings.aggregate(Max("number"))["number__max"] or 0) + 1
    for one, single in zip(fresh, lies, strict=True):
        height, width = one.opened.pixels.shape[:2]
        at = like.get((width, height), single)
        name = _free(one.name, one.mood, names)
        names.add((one.mood, name))
        ChartDrawing.objects.create(
            chart=chart,
            name=name,
            mood=one.mood,
            number=number,
            place=list(one.place),
            special=one.special,
            picture=_kept(one.opened),
            width=width,
            height=height,
            x=at.x,
            y=at.y,
            scale=at.scale,
            turn=at.turn,
        )
        number += 1


def draw(person: Person, chart: MouthChart, style: Style, mood: str) -> None:
    """Thirteen drawings of ours into a chart, one for each shape, in a style and under a mood."""
    check(person, chart.production, "edit")
    mood = checked_name(mood, "mood").lower()[:40]
    made = []
    for shape in SHAPES.values():
        picture = opened(f"{shape.name}.svg", alone(styled(shape.place, "m", style)).encode())
        made.append(Charted(shape.name, "", mood, shape.name, shape.place, False, picture))
    width = made[0].opened.pixels.shape[1]
    left, top, across, _ = BOX
    at = Registration(-left * width / across, -top * width / across, across / width)
    _keep(chart, made, [at] * len(made))


def _free(name: str, mood: str, taken: set[tuple[str, str]]) -> str:
    tries = (name if n == 1 else f"{name[:110]} {n}" for n in range(1, len(taken) + 2))
    return next(one for one in tries if (mood, one) not in taken)


def _kept(picture: Picture) -> str:
    data = picture.png
    digest = hashlib.sha256(data).hexdigest()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "drawing.png"
        path.write_bytes(data)
        return store.keep(f"drawings/{digest[:2]}/{digest}.png", path, digest)


@transaction.atomic
def change_drawing(person: Person, drawing: ChartDrawing, asked: dict[str, str]) -> None:
    """Set a drawing's name, mood, place, by a shape's name or by dials, whether it is special, and how it lies on the
    anchor; what is not named stays."""
    _hold(person, drawing)
    name = checked_name(asked["name"], "drawing") if "name" in asked else drawing.name
    mood = checked_name(asked["mood"], "mood").lower()[:40] if asked.get("mood", "").strip() else drawing.mood
    others = drawing.chart.drawings.exclude(pk=drawing.pk)
    if others.filter(name=name, mood=mood).exists():
        raise ChartError(f"There is a {mood} drawing called {name} already; give another name.")
    was = drawing.called
    drawing.name, drawing.mood = name, mood
    if drawing.called != was:
        drawing.formerly = [*drawing.formerly, was][-20:]
    if asked.get("shape") in SHAPES:
        drawing.place, drawing.by_hand = list(SHAPES[asked["shape"]].place), True
    elif set(ARTICULATORS) <= asked.keys():
        drawing.place, drawing.by_hand = [_number(asked[one], 0, 1) for one in ARTICULATORS], True
    if "special" in asked:
        drawing.special = asked["special"] == "yes"
    for field, (least, most) in _LIES.items():
        if field in asked:
            setattr(drawing, field, _number(asked[field], least, most))
    if "size" in asked:
        drawing.scale *= _number(asked["size"], 0.05, 20)
    drawing.save()


def _number(text: str, least: float, most: float) -> float:
    try:
        value = float(text)
    except ValueError:
        raise ChartError(f"“{text[:20]}” is no number; give one from {least:g} to {most:g}.") from None
    if not least <= value <= most:
        raise ChartError(f"{value:g} is not from {least:g} to {most:g}.")
    return value


@transaction.atomic
def replace_picture(person: Person, drawing: ChartDrawing, upload: Upload) -> None:
    """Another picture for a drawing; its name, mood and place stay."""
    _hold(person, drawing)
    fresh = opened(Path(upload.name or "drawing").name, upload.read())
    height, width = fresh.pixels.shape[:2]
    if (width, height) != (drawing.width, drawing.height):
        (at,) = registered([fresh.pixels], [drawing.articulation])
        factor = drawing.width / width
        drawing.x, drawing.y, drawing.scale = at.x, at.y, drawing.scale * factor
    drawing.width, drawing.height = width, height
    drawing.picture.name = _kept(fresh)
    drawing.save()


@transaction.atomic
def measure_again(person: Person, chart: MouthChart) -> None:
    """The places of all drawings from their pictures, but for those a person set."""
    _hold(person, chart)
    known = list(chart.drawings.all())
    pictures = [opened(f"{d.name}.png", d.data) for d in known]
    places = chart_folder.measured_with_hints([(p, None, d.mood) for p, d in zip(pictures, known, strict=True)])
    for drawing, (place, _) in zip(known, places, strict=True):
        if not drawing.by_hand:
            drawing.place = list(place)
            drawing.save(update_fields=["place"])


@transaction.atomic
def remove(person: Person, thing: MouthChart | ChartDrawing) -> None:
    """Put a chart or a drawing out of sight; it can be brought back."""
    _hold(person, thing)
    if isinstance(thing, MouthChart) and (wearers := list(thing.worn_by.select_related("character"))):
        names = ", ".join(str(one.character) for one in wearers[:4])
        raise ChartError(f"{thing} is what {names} speaks with; give them another chart first.")
    thing.removed = timezone.now()
    thing.save(update_fields=["removed"])


@transaction.atomic
def bring_back(person: Person, thing: MouthChart | ChartDrawing) -> None:
    """Bring back what was deleted, under a name of its own."""
    _hold(person, thing)
    if isinstance(thing, ChartDrawing):
        thing.name = _free(thing.name, thing.mood, _known(thing.chart))
    elif MouthChart.objects.filter(production=thing.production, name=thing.name).exists():
        raise ChartError(f"There is another chart called {thing.name} now; rename that first.")
    thing.removed = None
    thing.save()


def _hold(person: Person, thing: MouthChart | ChartDrawing) -> None:
    """Let nobody else change a production's charts until the transaction ends, and take the thing as it is then."""
    production = thing.production if isinstance(thing, MouthChart) else thing.chart.production
    check(person, production, "edit")
    hold(production)
    thing.refresh_from_db()


@transaction.atomic
def move(person: Person, drawing: ChartDrawing, by: int) -> None:
    """Put a drawing before the one before it, or after the next."""
    _hold(person, drawing)
    order = list(drawing.chart.drawings.all())
    at = order.index(drawing)
    to = min(len(order) - 1, max(0, at + by))
    order.insert(to, order.pop(at))
    for number, one in enumerate(order, 1):
        if one.number != number:
            one.number = number
            one.save(update_fields=["number"])


@transaction.atomic
def wear(person: Person, character: Character, chart: MouthChart | None) -> None:
    """Let a character speak with a chart, or with None for the built-in face's mouths. Drawings change, no timing."""
    check(person, character.production, "edit")
    hold(character.production)
    if chart is None:
        Worn.objects.filter(character=character).delete()
    else:
        chart.refresh_from_db()
        if chart.production_id != character.production_id or chart.removed:
            raise ChartError("This chart belongs to another production, or was deleted.")
        if not chart.drawings.exists():
            raise ChartError("This chart has no drawing yet; bring some in first.")
        Worn.objects.update_or_create(character=character, defaults={"chart": chart})
    for told in _chart_changed:
        told(character)


def moods_of(drawings: Sequence[ChartDrawing]) -> list[str]:
    """The moods there are, neutral first."""
    return sorted({d.mood for d in drawings}, key=lambda mood: (mood != NEUTRAL, mood))
