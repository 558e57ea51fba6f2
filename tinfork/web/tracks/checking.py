"""What looks wrong in a stave's mouth track, and what the dial does to it: figures for the desk."""

from collections.abc import Iterator
from dataclasses import asdict, replace
from typing import Any

from django.core.cache import cache

from tinfork.core.exposure import checks, plan
from tinfork.core.exposure.checks import Check, Kind, Looked
from tinfork.core.exposure.cures import with_cures
from tinfork.core.exposure.outcome import measure
from tinfork.core.exposure.track import cut_to
from tinfork.web.charts.mending import jumps
from tinfork.web.charts.models import worn_by
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import mouths_of
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import AT_ONCE, articulation, plan_in_view, planned
from tinfork.web.staves.seeing import seen

AROUND = 96
"""So many frames on either side are looked at with those that are asked for."""

_KNOWN_SECONDS = 600
"""So long it is remembered whether a version of a stave looks wrong."""

DIAL = (0.0, 0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.875, 1.0)
MOST_DIAL_FRAMES = 2_000
"""The dial is tried on no more than this."""


def checks_of(placed: Placed, frames: range) -> list[dict[str, Any]]:
    """Return what there is to look at that begins on some frames, each with its cure as the desk asks for it."""
    looked, own = _checks_around(placed, frames)
    if looked is None:
        return []
    found = with_cures(looked, own)
    return [_document(check) for check in (*found, *(_drift(placed) if frames.start == 0 else ()))]


def _checks_around(placed: Placed, frames: range) -> tuple[Looked | None, list[Check]]:
    """What is looked at around some frames, and what there is to look at that begins on them, without cures."""
    near = range(max(0, frames.start - AROUND), min(placed.frames, frames.stop + AROUND))
    if not near:
        return None, []
    placed = plan_in_view(placed, near)
    own = mouths_of(placed.stave)
    exposures = cut_to((one.exposure for one in seen(placed, near)), near)
    at = plan.dials(near, placed.rate, placed.stave.settings_value, placed.passages)
    lines = [line for _, line in placed.shown(placed.numbers_in(near))]
    looked = Looked(exposures, articulation(placed, near), own.chart_to_choose, at, lines)
    return looked, [check for check in checks.checks(looked) if check.frame in frames]


def looks_wrong(stave: Stave, look: bool) -> bool | None:
    """Return whether there is anything to look at in a stave that nobody means so; None where that is not known.
    look: whether it is found out, else only what was found for this version is told. Of the stave only its version
    is used."""
    key = f"looks-wrong-{stave.pk}-{stave.version}"
    known: bool | None = cache.get(key)
    if known is None and look:
        placed = planned(Stave.objects.select_related("scene__production", "character").get(pk=stave.pk))
        starts = range(0, placed.frames, AT_ONCE)
        known = any(_is_wrong(placed, range(first, min(first + AT_ONCE, placed.frames))) for first in starts)
        cache.set(key, known, _KNOWN_SECONDS)
    return known


def _is_wrong(placed: Placed, frames: range) -> bool:
    meant = [(span, one.kind) for span, one in placed.intents]
    found = (check for check in _checks_around(placed, frames)[1] if check.kind is not Kind.UNREAD)
    return any(not any(check.frame in span and check.kind == kind for span, kind in meant) for check in found)


def _drift(placed: Placed) -> Iterator[Check]:
    """Drawings of the chart that lie elsewhere than the others."""
    worn = worn_by(placed.stave.character)
    found = jumps(list(worn.chart.usable())) if worn else []
    if found:
        names = ", ".join(dict.fromkeys(f"“{drawing.name}”" for drawing, _ in found))
        yield Check(Kind.DRIFT, 0, 1, f"{names} would jump on the face; the chart's page cures it.")


def _document(check: Check) -> dict[str, Any]:
    found = {"kind": check.kind.value, "frame": check.frame, "frames": check.frames, "text": check.text}
    return found | ({"fix": asdict(check.fix)} if check.fix else {})


def dial_curve(placed: Placed, frames: range) -> list[dict[str, float]]:
    """Return what Detail does on some frames, from calm to crisp: exposures, changes a second of speech, and the share
    of long vowels that are seen opening. The other settings and what was decided stay."""
    stave, own = placed.stave, mouths_of(placed.stave)
    near = range(frames.start, min(frames.stop, frames.start + MOST_DIAL_FRAMES))
    if not near:
        return []
    shape = articulation(placed, near)
    pins = [pin for pin in placed.pins.shown if pin.frame >= near.start and pin.end <= near.stop]
    found = []
    for detail in DIAL:
        dial = replace(stave.settings_value, detail=detail)
        track = plan.exposures(shape, own.basis, dial, own.pins_in_basis(pins), placed.passages)
        outcome = measure([replace(e, frame=e.frame - near.start) for e in track], shape, own.basis, dial)
        found.append(
            {
                "detail": detail,
                "exposures": outcome.exposures,
                "changes": round(outcome.changes_per_second, 3),
                "reached": round(outcome.share_reached, 4),
            }
        )
    return found
