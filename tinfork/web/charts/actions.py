"""What people do to mouth charts. Each action checks who asks and is whole or not at all."""

from collections.abc import Callable, Sequence
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, TypeAlias

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import F, Max, QuerySet
from django.utils import timezone

from tinfork.core.errors import ChartError
from tinfork.core.formats import chart_folder, chart_in
from tinfork.core.formats.chart_folder import Charted
from tinfork.core.formats.chart_in import Brought, Cut, as_brought
from tinfork.core.limits import MAX_DRAWINGS
from tinfork.core.mouths import prepared
from tinfork.core.mouths.draw import BOX, Style, alone, styled
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.picture import open_picture
from tinfork.core.mouths.prepared import Prepared
from tinfork.core.mouths.register import Registration
from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES
from tinfork.web.cleaning import number_within
from tinfork.web.files.aside import aside, in_turn
from tinfork.web.productions.actions import checked_name, hold, put_elsewhere
from tinfork.web.productions.models import Character, Production
from tinfork.web.productions.permissions import Person, check, number_of

from .access import check_chart
from .models import ChartDrawing, MouthChart, Worn
from .pictures import keep_further, keep_picture, opened_aside

MOST_CHARTS = 100
MOST_DRAWINGS = MAX_DRAWINGS * 4
_LIES = {"x": (-20_000.0, 40_000.0), "y": (-20_000.0, 40_000.0), "turn": (-180.0, 180.0), "scale": (1e-4, 100.0)}
_MOST_BYTES = 400_000_000
Upload: TypeAlias = "UploadedFile[Any]"
_chart_changed: list[Callable[[Person, Character], list[str]]] = []
_users: list[Callable[[ChartDrawing], list[str]]] = []


def follow(told: Callable[[Person, Character], list[str]]) -> None:
    """Be told whenever somebody gives a character another chart or mood; told: returns what there is to say of it."""
    _chart_changed.append(told)


def ask_before_removal(told: Callable[[ChartDrawing], list[str]]) -> None:
    """Be asked where a drawing was chosen by hand, in words, before it is deleted."""
    _users.append(told)


@transaction.atomic
def create_chart(person: Person, production: Production | None, name: str, part: str = "mouth") -> MouthChart:
    """A chart without drawings, in a production, or with None in the person's library. ChartError when there is one of
    that name."""
    name = checked_name(name, "chart")
    if part not in MouthChart.Of.values:
        raise ChartError("A chart holds mouths or whole heads; choose one.")
    there = _charts_held(person, production)
    if there.count() >= MOST_CHARTS:
        raise ChartError(f"There are {MOST_CHARTS} charts here, as many as there may be; delete one first.")
    if there.filter(name=name).exists():
        raise ChartError(f"There is a chart called {name} already; give another name.")
    owner = None if production else number_of(person)
    return MouthChart.objects.create(production=production, owner_id=owner, name=name, part=part)


def _charts_held(person: Person, production: Production | None) -> QuerySet[MouthChart]:
    """The charts of a production or of the person's library, to which nobody else adds until the transaction ends."""
    if production is not None:
        check(person, production, "edit")
        hold(production)
        return MouthChart.objects.filter(production=production)
    owner = number_of(person)
    get_user_model().objects.select_for_update(no_key=True).only("pk").get(pk=owner)
    return MouthChart.objects.filter(owner=owner)


@transaction.atomic
def copy_chart(person: Person, chart: MouthChart, production: Production | None) -> MouthChart:
    """A chart with the same drawings, to be changed on its own: in a production, or in the person's library."""
    check_chart(person, chart, "see")
    taken = set(_charts_held(person, production).values_list("name", flat=True))
    tries = (f"{chart.name[:100]}{f', copy {n}' if n else ''}" for n in range(len(taken) + 1))
    made = create_chart(person, production, next(name for name in tries if name not in taken), chart.part)
    for drawing in chart.drawings.all():
        drawing.pk, drawing.chart = None, made
        drawing.formerly = []
        drawing._state.adding = True
        drawing.save()
    return made


def bring_in(
    person: Person, chart: MouthChart, uploads: Sequence[Upload], cut: Cut | None = None, paths: Sequence[str] = ()
) -> list[str]:
    """Bring pictures, or ZIPs of them, into a chart; a sentence for each that is not used. ChartError when none is.
    cut: for pictures that are sheets of drawings; paths: where in a folder each upload lies."""
    check_chart(person, chart, "edit")
    if sum(upload.size or 0 for upload in uploads) > _MOST_BYTES:
        raise ChartError("These files are larger than 400 MB together; bring them in a few at a time.")
    named: list[tuple[str, Upload]] = []
    for number, upload in enumerate(uploads):
        name = Path(upload.name or "drawing").name
        path = paths[number] if number < len(paths) and Path(paths[number]).name == name else name
        if not paths or chart_folder.is_wanted(path):
            named.append((path, upload))
    known = _known(chart)
    with opened_aside(named) as (sources, folder):
        fresh, notes = aside(chart_in.brought, sources, cut, _beside(chart), folder)
        _keep(chart, fresh, folder)
    return [*notes, *(_twice(fresh, known))]


def _beside(chart: MouthChart) -> chart_in.Beside:
    there = tuple((one.source, one.mood, (one.height, one.width)) for one in chart.drawings.filter(special=False))
    return chart_in.Beside(chart.is_heads, there)


def _known(chart: MouthChart) -> set[tuple[str, str]]:
    return set(chart.drawings.values_list("mood", "name"))


def _twice(fresh: Sequence[Brought], known: set[tuple[str, str]]) -> list[str]:
    doubled = [one.name for one in fresh if (one.mood, one.name) in known]
    return [f"There was a {name} already; the new one has a number after its name." for name in doubled[:4]]


@transaction.atomic
def _keep(chart: MouthChart, fresh: Sequence[Brought], folder: Path, vectors: Sequence[str] = ()) -> None:
    """Put drawings into a chart, each with its picture, laid on the anchor of those that are there."""
    pictures = [keep_picture(one.picture, folder) for one in fresh]
    _lock(chart)
    there = list(chart.drawings.all())
    if len(there) + len(fresh) > MOST_DRAWINGS:
        raise ChartError(f"A chart has {MOST_DRAWINGS} drawings at the most; begin another.")
    like = {(d.width, d.height): d.registration for d in there}
    names = {(d.mood, d.name) for d in there}
    number = (chart.drawings.aggregate(Max("number"))["number__max"] or 0) + 1
    for row, one in enumerate(fresh):
        width, height = one.picture.width, one.picture.height
        at = like.get((width, height), one.at)
        name = _free(one.name, one.mood, names)
        names.add((one.mood, name))
        ChartDrawing.objects.create(
            chart=chart,
            name=name,
            mood=one.mood,
            number=number + row,
            place=list(one.place),
            special=one.special,
            picture=pictures[row],
            width=width,
            height=height,
            x=at.x,
            y=at.y,
            scale=at.scale,
            turn=at.turn,
            outline=one.outline,
            vector=vectors[row] if vectors else "",
        )


def draw(person: Person, chart: MouthChart, style: Style, mood: str) -> None:
    """Thirteen drawings of ours into a chart, one for each shape, in a style and under a mood."""
    check_chart(person, chart, "edit")
    if chart.is_heads:
        raise ChartError("What we draw are mouths, and this chart is of whole heads; make a chart of mouths.")
    mood = checked_name(mood, "mood").lower()[:40]
    vectors = [alone(styled(shape.place, "m", style)) for shape in SHAPES.values()]
    made = [
        Charted(
            shape.name, "", mood, shape.name, shape.place, False, open_picture(f"{shape.name}.svg", vector.encode())
        )
        for shape, vector in zip(SHAPES.values(), vectors, strict=True)
    ]
    width = made[0].opened.pixels.shape[1]
    left, top, across, _ = BOX
    at = Registration(-left * width / across, -top * width / across, across / width)
    with TemporaryDirectory() as name:
        folder = Path(name)
        _keep(chart, [as_brought(one, at, folder) for one in made], folder, vectors)


def _free(name: str, mood: str, taken: set[tuple[str, str]]) -> str:
    tries = (name if n == 1 else f"{name[:110]} {n}" for n in range(1, len(taken) + 2))
    return next(one for one in tries if (mood, one) not in taken)


@transaction.atomic
def change_drawing(person: Person, drawing: ChartDrawing, asked: dict[str, str]) -> None:
    """Set a drawing's name, mood, place, by a shape's name or by dials, its key, whether it is special, and how it lies
    on the anchor; what is not named stays."""
    held(person, drawing)
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
        drawing.place, drawing.by_hand = [number_within(asked[one], 0, 1) for one in ARTICULATORS], True
    if "key" in asked:
        drawing.key = _free_key(drawing, asked["key"].strip().lower())
    drawing.set_moving(asked)
    if "special" in asked:
        drawing.special = asked["special"] == "yes"
    for field, (least, most) in _LIES.items():
        if field in asked:
            setattr(drawing, field, number_within(asked[field], least, most))
    if "size" in asked:
        drawing.scale *= number_within(asked["size"], 0.05, 20)
    drawing.save()


def _free_key(drawing: ChartDrawing, key: str) -> str:
    """A key that a drawing can have. ChartError where it is none, or another drawing of its mood has it."""
    if key and not (len(key) == 1 and key.isascii() and key.isalnum()):
        raise ChartError("A drawing's key is one letter from a to z or one digit, or nothing.")
    others = drawing.chart.drawings.exclude(pk=drawing.pk)
    if key and (other := others.filter(mood=drawing.mood, key=key).first()):
        raise ChartError(f"The key {key.upper()} is {other.name}'s already; choose another, or take it away there.")
    return key


def replace_picture(person: Person, drawing: ChartDrawing, upload: Upload) -> None:
    """Another picture for a drawing; its name, mood and place stay."""
    check_chart(person, drawing.chart, "edit")
    was, heads = (drawing.width, drawing.height), drawing.chart.is_heads
    with opened_aside([(Path(upload.name or "drawing").name, upload)]) as (sources, folder):
        fresh, at, drawn = aside(
            prepared.replaced, sources[0], was, drawing.registration, drawing.articulation, heads, folder
        )
        _put(person, drawing, fresh, at, drawn, folder)


def add_pictures(person: Person, drawing: ChartDrawing, uploads: Sequence[Upload]) -> None:
    """Give a drawing further pictures, of its canvas, after those it has: it moves from now on. ChartError where one
    is of another size, or they are too many."""
    check_chart(person, drawing.chart, "edit")
    keep_further(drawing, str(drawing), uploads, lambda: held(person, drawing))


@transaction.atomic
def make_still(person: Person, drawing: ChartDrawing) -> None:
    """Take a drawing's further pictures away: it does not move any more."""
    held(person, drawing)
    drawing.make_still()


@transaction.atomic
def _put(person: Person, drawing: ChartDrawing, fresh: Prepared, at: Registration, drawn: Any, folder: Path) -> None:
    """Give a drawing a picture; where that has another size it lies as it is said to."""
    was = (drawing.width, drawing.height)
    held(person, drawing)
    if (fresh.width, fresh.height) != was:
        drawing.also = []
        drawing.x, drawing.y, drawing.scale = at.x, at.y, at.scale
    drawing.width, drawing.height = fresh.width, fresh.height
    drawing.picture.name, drawing.outline = keep_picture(fresh, folder), drawn
    drawing.drawn = drawing.vector = ""
    drawing.save()


@transaction.atomic
def duplicate(person: Person, drawing: ChartDrawing) -> None:
    """The same drawing once more, after it, under a name of its own."""
    held(person, drawing)
    if drawing.chart.drawings.count() >= MOST_DRAWINGS:
        raise ChartError(f"A chart has {MOST_DRAWINGS} drawings at the most; begin another.")
    name = _free(drawing.name, drawing.mood, _known(drawing.chart))
    after = drawing.chart.drawings.filter(number__gt=drawing.number)
    after.update(number=F("number") + 1)
    drawing.pk, drawing.name, drawing.number = None, name, drawing.number + 1
    drawing.formerly, drawing.key = [], ""
    drawing._state.adding = True
    drawing.save()


def measure_again(person: Person, chart: MouthChart) -> None:
    """The places of all drawings from their pictures, but for those a person set."""
    check_chart(person, chart, "edit")
    known = list(chart.drawings.all())
    with in_turn():
        places = aside(chart_in.places, [(d.source, d.scale, d.mood) for d in known])
    with transaction.atomic():
        held(person, chart)
        for drawing, place in zip(known, places, strict=True):
            chart.drawings.filter(pk=drawing.pk, by_hand=False).update(place=list(place))


class InUseError(ChartError):
    """A drawing is used by hand somewhere; it can be deleted all the same, when that is meant."""


@transaction.atomic
def remove(person: Person, thing: MouthChart | ChartDrawing, sure: bool = False) -> None:
    """Put a chart or a drawing out of sight; it can be brought back. InUseError for a drawing that was chosen by hand
    somewhere, unless the person is sure."""
    held(person, thing)
    if isinstance(thing, ChartDrawing) and not sure and (uses := [use for told in _users for use in told(thing)]):
        raise InUseError(f"{thing} was chosen by hand in {'; '.join(uses[:4])}. What is nearest to it would stand in.")
    if isinstance(thing, MouthChart) and (wearers := list(thing.worn_by.select_related("character"))):
        names = ", ".join(str(one.character) for one in wearers[:4])
        raise ChartError(f"{thing} is what {names} speaks with; give them another chart first.")
    thing.removed = timezone.now()
    thing.save(update_fields=["removed"])


@transaction.atomic
def bring_back(person: Person, thing: MouthChart | ChartDrawing) -> None:
    """Bring back what was deleted, under a name of its own."""
    held(person, thing)
    if isinstance(thing, ChartDrawing):
        thing.name = _free(thing.name, thing.mood, _known(thing.chart))
        if thing.chart.drawings.filter(mood=thing.mood, key=thing.key).exists():
            thing.key = ""
    elif _charts_held(person, thing.production).filter(name=thing.name).exists():
        raise ChartError(f"There is another chart called {thing.name} now; rename that first.")
    thing.removed = None
    thing.save()


def held(person: Person, thing: MouthChart | ChartDrawing) -> None:
    """Let nobody else change a chart until the transaction ends, and take the thing as it is then."""
    chart = thing if isinstance(thing, MouthChart) else thing.chart
    check_chart(person, chart, "edit")
    _lock(chart)
    thing.refresh_from_db()


def _lock(chart: MouthChart) -> None:
    MouthChart.everything.select_for_update(no_key=True).only("pk").get(pk=chart.pk)


@transaction.atomic
def move(person: Person, drawing: ChartDrawing, by: int) -> None:
    """Put a drawing before the one before it, or after the next."""
    held(person, drawing)
    put_elsewhere(drawing.chart.drawings.all(), drawing.pk, by, "number")


@transaction.atomic
def wear(person: Person, character: Character, chart: MouthChart | None, mood: str = NEUTRAL) -> list[str]:
    """Let a character speak with a chart in one of its moods, or with None for the built-in face's mouths. Drawings
    change, no timing. Returns what there is to say of it, in sentences."""
    check(person, character.production, "edit")
    hold(character.production)
    if chart is None:
        Worn.objects.filter(character=character).delete()
    else:
        chart.refresh_from_db()
        if chart.production_id not in (None, character.production_id) or chart.removed:
            raise ChartError("This chart belongs to another production, or was deleted.")
        _check_to_wear(person, character, chart)
        moods = set(chart.drawings.values_list("mood", flat=True))
        if not moods:
            raise ChartError("This chart has no drawing yet; bring some in first.")
        if mood not in moods | {NEUTRAL}:
            raise ChartError(f"This chart has no drawing in the mood “{mood[:40]}”.")
        Worn.objects.update_or_create(character=character, defaults={"chart": chart, "mood": mood})
    return [sentence for told in _chart_changed for sentence in told(person, character)]


def _check_to_wear(person: Person, character: Character, chart: MouthChart) -> None:
    """A chart of a library is given by its owner; who wears it may be put into another of its moods by others."""
    wears = chart.worn_by.filter(character=character).exists()
    check_chart(person, chart, "see" if wears or chart.production else "edit")
