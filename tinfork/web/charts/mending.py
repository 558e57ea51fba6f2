"""Drawings of a chart that would jump on the face, and the one click that cures them."""

from collections.abc import Sequence
from pathlib import Path
from tempfile import TemporaryDirectory

from django.db import transaction

from tinfork.core.mouths import drift
from tinfork.core.mouths.drift import DriftFinding, Outline, findings
from tinfork.core.mouths.prepared import outlines, with_lines
from tinfork.core.plain import restore
from tinfork.web.files.aside import aside
from tinfork.web.productions.permissions import Person

from .actions import held
from .models import ChartDrawing, MouthChart
from .pictures import keep_picture


def jumps(drawings: Sequence[ChartDrawing]) -> list[tuple[ChartDrawing, DriftFinding]]:
    """What would jump among the drawings of a chart that mouths are planned with."""
    own = [d for d in drawings if not d.special and not d.chart.is_heads]
    found = findings([_outline(d) for d in own], [d.articulation for d in own], [d.registration for d in own])
    return [(own[one.row], one) for one in found if not own[one.row].meant]


def _outline(drawing: ChartDrawing) -> Outline:
    if not drawing.outline:
        (drawing.outline,) = aside(outlines, [(drawing.source, drawing.scale)])
        drawing.save(update_fields=["outline"])
    return restore(drawing.outline, Outline)


@transaction.atomic
def cure(person: Person, chart: MouthChart, only: int | None = None) -> int:
    """Lay what jumps where it should lie, bring it to size, and give it lines like the others'; of all drawings or the
    one of this number. How many were cured."""
    held(person, chart)
    known = list(chart.drawings.select_related("chart"))
    own = [d for d in known if not d.special]
    lie, places = [d.registration for d in own], [d.articulation for d in own]
    usual = drift.usual_line([_outline(d) for d in own], places, lie)
    chosen = [(d, one) for d, one in jumps(known) if only is None or d.pk == only]
    for drawing, one in chosen:
        if one.kind == "line" and usual is not None:
            _with_lines(drawing, usual)
        else:
            drawing.x, drawing.y, drawing.scale = one.cure.x, one.cure.y, one.cure.scale
        drawing.save()
    return len(chosen)


def _with_lines(drawing: ChartDrawing, usual: float) -> None:
    """Draw a drawing's lines so heavy, in units. Does not save."""
    line = _outline(drawing).line or 0.0
    drawing.drawn = drawing.drawn or drawing.picture.name or ""
    with TemporaryDirectory() as name:
        folder = Path(name)
        by = usual / drawing.scale - line
        fresh, drawing.outline = aside(with_lines, drawing.source, line, by, drawing.scale, folder)
        drawing.picture.name = keep_picture(fresh, folder)


@transaction.atomic
def mean_it(person: Person, drawing: ChartDrawing, meant: bool) -> None:
    """Say that a drawing is as it is on purpose, and would not jump; or have it looked at again."""
    held(person, drawing)
    drawing.meant = meant
    drawing.save(update_fields=["meant"])


@transaction.atomic
def own_lines(person: Person, drawing: ChartDrawing) -> None:
    """Put back the picture a drawing had before its lines were made like the others'."""
    held(person, drawing)
    if drawing.drawn:
        drawing.picture.name, drawing.drawn = drawing.drawn, ""
        drawing.outline = {}
        drawing.save()
        _outline(drawing)


def sentence(drawing: ChartDrawing, one: DriftFinding) -> str:
    """What is amiss with a drawing, in words."""
    if one.kind == "size":
        return f"{drawing} is drawn {one.times:.1f} times as large as the others"
    if one.kind == "line":
        return f"{drawing} has lines {one.times:.1f} times as heavy as the others"
    across = f"{abs(one.across):.0f} too far {'right' if one.across > 0 else 'left'}" if abs(one.across) >= 1 else ""
    down = f"{abs(one.down):.0f} too {'low' if one.down > 0 else 'high'}" if abs(one.down) >= 1 else ""
    return f"{drawing} lies {' and '.join(part for part in (across, down) if part)}"
