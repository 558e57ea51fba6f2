"""A mouth chart as a folder or a ZIP of pictures, with an optional chart.json that says more of them."""

import base64
import io
import json
import zipfile
import zlib
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, TypeAlias

import numpy as np

from ..errors import ChartError
from ..limits import MAX_CHART_DOCUMENT_BYTES, MAX_DRAWINGS
from ..mouths import hints, measure
from ..mouths.chart import Chart, Drawing, coverage, distance, shape_at
from ..mouths.picture import Picture, open_picture
from ..mouths.register import Registration, markup, registered
from ..mouths.shapes import ARTICULATORS, NAMES, SHAPES, Articulation
from ..mouths.views import FRONT, view_in

VERSION = 1
_MOST_FILES, _MOST_UNPACKED = 1_000, 600_000_000
MOST_PIXELS_TOGETHER = 160_000_000
"""So much of pictures is held at a time: 120 of 1000x1000, and some more."""
_ENDINGS = (".png", ".webp", ".svg")
_DOCUMENT = "chart.json"
_LONG_DOCUMENT = f"chart.json is larger than {MAX_CHART_DOCUMENT_BYTES // 1_000_000} MB; leave it out."
_AGREES = 0.75
"""A picture this near to the shape its name speaks of agrees with it."""

_CLEAR = {"jaw": 0.28, "width": 0.25, "rounding": 0.3}
"""By how much a picture has to differ from that shape in what is seen best to speak against it clearly."""

_SURE = 0.2
"""A picture this near to a shape is clearly that. Of 52 drawings in four styles 51 are then taken for what their names
rightly say (46 before), and 77% of those that look right keep that against a wrong name (87%)."""

_HINTED = (0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
"""How far a place is drawn to that shape: no farther than it takes to be it."""

Hinted: TypeAlias = tuple[Picture, str | None, str]
"""What a drawing is measured by: its picture, the shape its name speaks of, and its mood."""


@dataclass(frozen=True)
class Charted:
    """A drawing of a chart as it came. picture: its file; mood: of its own; shape: what it was said to be, or None;
    place: where it lies in articulator space; special: whether it is only used by hand; opened: what it looks like."""

    name: str
    picture: str
    mood: str
    shape: str | None
    place: Articulation
    special: bool
    opened: Picture


@dataclass(frozen=True)
class ChartFile:
    """The drawings of a chart, and a sentence for each thing that was amiss."""

    drawings: tuple[Charted, ...]
    notes: tuple[str, ...]

    def in_mood(self, mood: str = hints.NEUTRAL) -> Chart:
        """Return the drawings that mouths are planned with in a mood; where it has none, those of the first mood."""
        return Chart(tuple(Drawing(d.name, d.place) for d in self.usable(mood)))

    def usable(self, mood: str = hints.NEUTRAL) -> "tuple[Charted, ...]":
        """Return those drawings themselves."""
        usable = [d for d in self.drawings if not d.special] or list(self.drawings)
        chosen = mood if any(d.mood == mood for d in usable) else usable[0].mood
        return tuple(d for d in usable if d.mood == chosen)


def load(path: Path) -> ChartFile:
    """Return the chart in a folder or ZIP. ChartError when there is none in it."""
    if path.is_dir():
        files = [(str(one.relative_to(path)), one) for one in sorted(path.rglob("*")) if one.is_file()]
        return read({name: one.read_bytes() for name, one in files if is_wanted(name)})
    try:
        return read(unpacked(path.read_bytes()))
    except FileNotFoundError:
        raise ChartError(f"{path.name} is not there; give a folder or a ZIP of pictures.") from None


def unpacked(data: bytes) -> dict[str, bytes]:
    """Return the files in a ZIP, by their paths in it. ChartError for one that is not what it says."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            own = [one for one in packed.infolist() if not one.is_dir() and is_wanted(one.filename)]
            for one in own:
                if one.filename.startswith(("/", "\\")) or ".." in Path(one.filename.replace("\\", "/")).parts:
                    raise ChartError(f"The ZIP holds a path that leads out of it ({one.filename[:60]}); pack it again.")
                if one.flag_bits & 1:
                    raise ChartError("The ZIP is locked by a password; pack it without one.")
                if one.filename.lower().endswith(".json") and one.file_size > MAX_CHART_DOCUMENT_BYTES:
                    raise ChartError(_LONG_DOCUMENT)
            if len(own) > _MOST_FILES or sum(one.file_size for one in own) > _MOST_UNPACKED:
                raise ChartError(f"The ZIP holds more than {_MOST_FILES:,} files or 600 MB; take only the drawings.")
            return {one.filename: _exactly(packed, one) for one in own}
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, OSError, EOFError, ValueError, RuntimeError):
        raise ChartError("This is no folder and no ZIP that can be opened; pack the drawings again.") from None


def _exactly(packed: zipfile.ZipFile, one: zipfile.ZipInfo) -> bytes:
    with packed.open(one) as file:
        data = file.read(one.file_size + 1)
    if len(data) != one.file_size:
        raise ChartError(f"{one.filename} in the ZIP is longer than it says; pack the drawings again.")
    return data


def is_wanted(name: str) -> bool:
    """Return whether a file of this path may be part of a chart."""
    parts = Path(name.replace("\\", "/")).parts
    hidden = any(part.startswith((".", "__MACOSX")) and part != ".." for part in parts)
    return not hidden and (name.lower().endswith(_ENDINGS) or parts[-1].lower() == _DOCUMENT)


def read(
    files: Mapping[str, bytes],
    opening: Callable[[str], AbstractContextManager[Any]] = nullcontext,
    beside: Callable[[Sequence[Charted]], list[Hinted]] = lambda _: [],
) -> ChartFile:
    """Return the chart in some files, by their paths. A folder's name is a mood, a view or both; chart.json, where it
    is, says more.

    Drawings whose place is not given are measured from their pictures, all of them together. opening: what each file is
    opened within; beside: others they are measured with, as measured_with_hints takes them.
    """
    notes: list[str] = []
    said = _said(next((data for name, data in files.items() if Path(name).name.lower() == _DOCUMENT), None))
    pictures = {name: data for name, data in files.items() if not name.lower().endswith(".json")}
    found: list[Charted] = []
    room = MOST_PIXELS_TOGETHER
    for path in _ordered(pictures, said):
        try:
            with opening(path):
                one = _charted(path, pictures[path], said.get(path, {}))
        except ChartError as amiss:
            notes.append(str(amiss))
            continue
        room -= one.opened.pixels.shape[0] * one.opened.pixels.shape[1]
        if room >= 0:
            found.append(one)
        else:
            millions = f"{MOST_PIXELS_TOGETHER / 1e6:.0f} million pixels"
            notes.append(f"{path} is left out: there are more than {millions} together; bring the rest in after these.")
    found = _named(_without_doubles(found, notes), said)
    if not found:
        raise ChartError(notes[0] if notes else "There is no picture in this; give PNG, WebP or SVG files.")
    return ChartFile(_measured(found, beside(found), notes), tuple(notes))


def _said(document: bytes | None) -> dict[str, dict[str, Any]]:
    """What chart.json says of each picture, by its path."""
    if document is None:
        return {}
    if len(document) > MAX_CHART_DOCUMENT_BYTES:
        raise ChartError(_LONG_DOCUMENT)
    try:
        drawings = json.loads(document.decode("utf-8-sig"))["drawings"]
        return {str(one["picture"]): dict(one) for one in drawings}
    except (ValueError, KeyError, TypeError, RecursionError):
        raise ChartError("chart.json cannot be read; mend it, or leave it out and the pictures are measured.") from None


def _ordered(pictures: Mapping[str, bytes], said: Mapping[str, Any]) -> list[str]:
    return [path for path in said if path in pictures] + [path for path in pictures if path not in said]


def _charted(path: str, data: bytes, said: Mapping[str, Any]) -> Charted:
    picture = open_picture(Path(path).name, data)
    name = " ".join(str(said.get("name") or picture.name).split())[:120]
    mood = str(said.get("mood") or _set_of(path)).strip().lower()[:40]
    view, rest = view_in(name)
    if view and rest and not said and not view_in(mood)[0]:
        name, mood = rest, mood if view == FRONT else f"{mood} {view}".strip()
    return Charted(name, path, mood, None, _place(said.get("place"), name), bool(said.get("special")), picture)


def _set_of(path: str) -> str:
    """The mood, the view, or both, that the folders of a picture speak of; "" for neither."""
    folders = Path(path).parent.parts
    *above, last = folders or ("",)
    near = above[-1] if above else ""
    # A folder that holds all may be called anything.
    if view_in(near)[0] or (view_in(last)[0] and (len(above) > 1 or hints.is_mood(near))):
        last = f"{near} {last}"
    told = last
    view, rest = view_in(told)
    return " ".join(one for one in (rest, view) if one and one != FRONT) if view else told


def _named(found: Sequence[Charted], said: Mapping[str, Any]) -> list[Charted]:
    """Drawings with the moods and the shapes that their names speak of, all of them together, where nothing says
    more."""
    names = [one.name for one in found]
    known = zip(found, hints.moods_in(names), hints.shapes_in(names), strict=True)
    told = {one.picture: said.get(one.picture, {}).get("shape") for one in found}
    return [
        replace(one, mood=one.mood or mood, shape=told[one.picture] if told[one.picture] in NAMES else shape)
        for one, mood, shape in known
    ]


def _place(given: Any, name: str) -> Articulation:
    """The place chart.json gives, or () where it gives none."""
    if given is None:
        return ()
    try:
        values = tuple(float(given[articulator]) for articulator in ARTICULATORS)
    except (KeyError, TypeError, ValueError):
        wanted = ", ".join(ARTICULATORS)
        raise ChartError(f"The place of {name} in chart.json needs a number for each of {wanted}.") from None
    if not all(0 <= value <= 1 for value in values):
        raise ChartError(f"The place of {name} in chart.json has a number that is not from 0 to 1.")
    return values


def _without_doubles(found: Sequence[Charted], notes: list[str]) -> list[Charted]:
    """Drawings with names of their own in each mood, no more than a chart may have, the same picture once."""
    kept: list[Charted] = []
    for one in found:
        own = [other for other in kept if other.mood == one.mood]
        twin = next((other for other in own if np.array_equal(other.opened.pixels, one.opened.pixels)), None)
        if twin is not None:
            notes.append(f"{one.picture} is the same picture as {twin.picture}; it is left out.")
        elif len(own) >= MAX_DRAWINGS:
            notes.append(f"{one.picture} is left out: a chart has {MAX_DRAWINGS} drawings in a mood at the most.")
        else:
            names = {other.name for other in own}
            free = (f"{one.name} {n}" if n > 1 else one.name for n in range(1, len(names) + 2))
            kept.append(replace(one, name=next(name for name in free if name not in names)))
    return kept


def _measured(found: Sequence[Charted], beside: Sequence[Hinted], notes: list[str]) -> tuple[Charted, ...]:
    places = measured_with_hints([*((one.opened, one.shape, one.mood) for one in found), *beside])
    done = []
    for one, (place, heeded) in zip(found, places[: len(found)], strict=True):
        if one.place:
            done.append(one)
            continue
        if one.shape and not heeded:
            notes.append(f"{one.name} is called like a {one.shape} mouth and does not look like one; its looks count.")
        done.append(replace(one, place=place))
    return tuple(done)


def measured_with_hints(drawings: Iterable[Hinted]) -> list[tuple[Articulation, bool]]:
    """Return the place of each drawing of a chart, given its picture, the shape its name speaks of, and its mood; and
    whether the hint was heeded."""
    known = list(drawings)
    places: dict[int, Articulation] = {}
    for group in _on_one_canvas(known):
        places |= zip(group, measure.measured([known[number][0].pixels for number in group]), strict=True)
    return [_with_hint(places[number], shape) for number, (_, shape, _) in enumerate(known)]


def _on_one_canvas(drawings: Sequence[Hinted]) -> list[list[int]]:
    """The numbers of drawings that are measured together: all moods of one canvas, and each mood that has its own."""
    sizes: dict[str, set[tuple[int, ...]]] = {}
    for picture, _, mood in drawings:
        sizes.setdefault(mood, set()).add(picture.pixels.shape)
    first = hints.NEUTRAL if hints.NEUTRAL in sizes else next(iter(sizes), "")
    groups: dict[str, list[int]] = {}
    for number, (_, _, mood) in enumerate(drawings):
        groups.setdefault(first if sizes[mood] <= sizes[first] else mood, []).append(number)
    return list(groups.values())


def _with_hint(place: Articulation, shape: str | None) -> tuple[Articulation, bool]:
    """A place drawn to the shape its name speaks of, where the picture does not speak against it clearly."""
    if shape is None:
        return place, True
    aim = SHAPES[shape].place
    apart = dict(zip(ARTICULATORS, np.abs(np.subtract(place, aim)).tolist(), strict=True))
    clear = min(distance(place, one.place) for one in SHAPES.values()) < _SURE
    if distance(place, aim) > _AGREES and (clear or any(apart[name] > most for name, most in _CLEAR.items())):
        return place, False
    nearer = [tuple(round(a + by * (b - a), 3) for a, b in zip(place, aim, strict=True)) for by in _HINTED]
    return next((one for one in nearer if shape_at(one) == shape), nearer[-1]), True


def drawn(chart: ChartFile) -> dict[str, str]:
    """Return each drawing that mouths are planned with on its anchor, as SVG, its picture inside."""
    own = chart.usable()
    places = registered([d.opened.pixels for d in own], [d.place for d in own])
    return {d.name: _inside(d.opened, at) for d, at in zip(own, places, strict=True)}


def _inside(picture: Picture, at: Registration) -> str:
    height, width = picture.pixels.shape[:2]
    href = f"data:image/png;base64,{base64.b64encode(picture.png).decode()}"
    return markup(href, width, height, at)


def document(chart: ChartFile) -> dict[str, Any]:
    """Return what is known of a chart, as JSON: kept as chart.json beside the pictures it brings the same chart
    again."""
    plan = chart.in_mood()
    return {
        "tinfork_chart": VERSION,
        "drawings": [
            {
                "name": one.name,
                "picture": one.picture,
                "mood": one.mood,
                "shape": shape_at(one.place),
                "special": one.special,
                "place": dict(zip(ARTICULATORS, one.place, strict=True)),
            }
            for one in chart.drawings
        ],
        "coverage": [
            {"shape": c.shape, "drawing": c.drawing, "distance": c.distance, "covered": c.covered}
            for c in coverage(plan)
        ],
    }
