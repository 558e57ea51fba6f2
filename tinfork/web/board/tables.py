"""Many shots at once: from a table that is pasted or brought as a file, out again the same; from a folder of sounds."""

import csv
import io
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.http import HttpRequest

from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.web.accounts.names import name_of
from tinfork.web.productions.actions import checked_name, create_scene, hold
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import EDITORS, Person, check
from tinfork.web.shots.changing import checked_day, checked_number, sequence_named
from tinfork.web.shots.models import Shot
from tinfork.web.sound.actions import bring_in as bring_sound
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.sound.uploads import text_of

from .rows import rows

COLUMNS = ("number", "name", "sequence", "rate", "first frame", "who", "due", "priority")
"""What a table says of a shot; those that a table has not stay as they are."""

_DERIVED = ("frames", "state")
"""What a table says beside, and is not read back: it follows from the work."""

MOST_ROWS, MOST_CHARACTERS = 5_000, 2_000_000
MOST_SOUNDS = 200
_MOST_TOLD = 12


def written(production: Production) -> str:
    """Return the shots of a production as CSV, a row each, which bring_in reads."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow([*COLUMNS, *_DERIVED])
    for row in rows(production):
        scene, shot = row.scene, row.shot
        due = shot.due.isoformat() if shot.due else ""
        own = [shot.number, scene.name, row.sequence, scene.rate, scene.start_frame, row.who, due]
        cells = [*own, Shot.Priority(shot.priority).label, row.facts.frames, row.state.value]
        table.writerow([as_text(str(cell)) for cell in cells])
    return out.getvalue()


def as_text(cell: str) -> str:
    """Return a cell that no program takes for something to be worked out: with "'" before it, as spreadsheets write
    text."""
    return f"'{cell}" if cell.startswith(("=", "+", "-", "@", "\t", "'")) else cell


def _from_text(cell: str) -> str:
    """What _as_text was given; any other cell as it is."""
    bare = cell.removeprefix("'")
    return bare if as_text(bare) == cell else cell


def text_in(request: HttpRequest) -> str:
    """Return the table of a form: its file, or what was pasted."""
    file = request.FILES.get("file")
    return text_of(file) if file else request.POST.get("table", "")


def bring_in(person: Person, production: Production, text: str, good_alone: bool) -> str:
    """Make and change shots as a table says: a row each, found again by its name. good_alone: where a row is broken the
    others come in; else none does. Return what was done, in words. TinForkError with the broken rows and why."""
    check(person, production, "edit")
    table = _table(text)
    with transaction.atomic():
        hold(production)
        known = _Known(production)
        broken, made, changed = [], 0, 0
        for place, row in table:
            try:
                with transaction.atomic():
                    fresh = _put(person, known, row)
            except TinForkError as refused:
                broken.append(f"row {place}: {refused}")
                continue
            made, changed = made + fresh, changed + (not fresh)
        if broken and not good_alone:
            raise TinForkError(f"Nothing was brought in. {_list_broken(broken)}")
    done = f"{made} made, {changed} found again."
    return f"{done} {_list_broken(broken)}" if broken else done


def _list_broken(broken: Sequence[str]) -> str:
    more = f" And {len(broken) - _MOST_TOLD} more." if len(broken) > _MOST_TOLD else ""
    return f"{len(broken)} could not be read: {' '.join(broken[:_MOST_TOLD])}{more}"


def _table(text: str) -> list[tuple[int, dict[str, str]]]:
    """The rows of a table with their numbers, each by the names of its columns. TinForkError where it is none."""
    if len(text) > MOST_CHARACTERS:
        raise TinForkError(f"A table has up to {MOST_CHARACTERS:,} characters.")
    lines = text.lstrip("\ufeff").splitlines()
    if not lines:
        raise TinForkError("Paste a table first, or choose a file: its first row names the columns.")
    between = max("\t;,", key=lines[0].count)
    try:
        cells = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=between, strict=True))
    except csv.Error as amiss:
        raise TinForkError(f"This is no table that can be read: {amiss}.") from None
    head = [cell.strip().lower() for cell in cells[0]]
    if "name" not in head:
        raise TinForkError(f"The first row names the columns, one of them “name”: {', '.join(COLUMNS)}.")
    if unknown := [name for name in head if name and name not in (*COLUMNS, *_DERIVED)]:
        raise TinForkError(f"There is no column “{unknown[0][:40]}”; there are {', '.join(COLUMNS)}.")
    rows = [(n, dict(zip(head, row, strict=False))) for n, row in enumerate(cells[1:], 2) if any(map(str.strip, row))]
    if len(rows) > MOST_ROWS:
        raise TinForkError(f"A table has up to {MOST_ROWS:,} shots; this one has {len(rows):,}.")
    return rows


class _Known:
    """What is there of a production while a table is brought in."""

    def __init__(self, production: Production) -> None:
        self.production = production
        self.scenes: dict[str, Scene] = {scene.name: scene for scene in production.scenes.all()}
        self.people: dict[str, int] = {}
        members = production.membership_set.filter(role__in=EDITORS).select_related("person")
        for member in members:
            for name in (name_of(member.person), member.person.get_username()):
                self.people.setdefault(name.lower(), member.person_id)

    def person(self, name: str) -> int | None:
        """The number of somebody who animates here; None for "". TinForkError for somebody else."""
        if not name:
            return None
        if name.lower() not in self.people:
            raise TinForkError(f"“{name[:40]}” animates nothing here; invite them first.")
        return self.people[name.lower()]


def _put(person: Person, known: _Known, row: dict[str, str]) -> bool:
    """Make or change the shot of a row; whether it was made."""
    cells = {name: _from_text(value.strip()) for name, value in row.items() if value is not None}
    name = checked_name(cells.get("name", ""), "scene")
    scene = known.scenes.get(name)
    values = {field: read(known, cells[column]) for column, (field, read) in _READ.items() if column in cells}
    fresh = scene is None
    if scene is None:
        scene = create_scene(person, known.production, name, cells.get("rate") or "24", cells.get("first frame") or "1")
        known.scenes[name] = scene
    else:
        _check_same(scene, cells)
    if values:
        Shot.objects.update_or_create(scene=scene, defaults=values)
    return fresh


def _check_same(scene: Scene, cells: dict[str, str]) -> None:
    """TinForkError where a row gives a shot that is there another frame rate or first frame."""
    rate, first = cells.get("rate"), cells.get("first frame")
    if (rate and rate != scene.rate) or (first and first != str(scene.start_frame)):
        raise TinForkError(
            f"“{scene}” is there at {scene.rate} frames a second from frame {scene.start_frame}; a table does not "
            "change that."
        )


def _priority(_: _Known, text: str) -> int:
    for value, label in Shot.Priority.choices:
        if text.lower() in (str(label), ""):
            return int(value) if text else int(Shot.Priority.USUAL)
    raise TinForkError(f"“{text[:20]}” is no priority; it is low, usual or high.")


_READ: dict[str, tuple[str, Callable[[_Known, str], Any]]] = {
    "number": ("number", lambda _, text: checked_number(text)),
    "sequence": ("sequence_id", lambda known, text: sequence_named(known.production, text)),
    "who": ("who_id", lambda known, text: known.person(text)),
    "due": ("due", lambda _, text: checked_day(text)),
    "priority": ("priority", _priority),
}


def shots_of_sounds(
    person: Person, production: Production, files: Sequence["UploadedFile[Any]"], rate: str, first: str
) -> str:
    """Make a shot of each sound, called as its file is. Return what was done, in words; where a file is no sound, it
    is said, and the others come in. TinForkError where there is none."""
    check(person, production, "edit")
    if not files:
        raise SoundError("Choose recordings first.")
    if len(files) > MOST_SOUNDS:
        raise SoundError(f"{MOST_SOUNDS} recordings are brought in at once; choose fewer.")
    broken, made = [], 0
    for file in files:
        name = Path(file.name or "").stem[:MAX_NAME_CHARACTERS]
        try:
            sound = bring_sound(person, production, file)
            with transaction.atomic():
                place_sound(person, arrangement_of(create_scene(person, production, name, rate, first)), sound, 0, None)
            made += 1
        except TinForkError as refused:
            broken.append(f"{name}: {refused}")
    if broken and not made:
        raise TinForkError(_list_broken(broken))
    return f"{made} made." + (f" {_list_broken(broken)}" if broken else "")
