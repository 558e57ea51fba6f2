"""A report of a film: what is approved, what is open and what is missing, shot by shot."""

import csv
import io
from collections.abc import Iterable

from django.db.models import Count
from django.utils import timezone

from tinfork.core.formats import report_pdf
from tinfork.web.handover.models import Version
from tinfork.web.productions.models import Production
from tinfork.web.rushes.models import Comment

from .rows import Row, rows
from .states import FINISHED, State
from .tables import as_text

_COLUMNS = (
    *(("sequence", 13), ("number", 7), ("name", 19), ("seconds", 8), ("whose", 12), ("due", 9)),
    *(("state", 14), ("version", 7), ("what was said of it", 22), ("open notes", 8)),
)
"""Of its table, with their shares of a page's width."""

_MISSING = {State.NO_SOUND, State.NO_WORDS, State.TO_READ}


def _cells(row: Row, version: Version | None, open_notes: int) -> list[str]:
    said = next(iter(version.verdicts.all()), None) if version else None
    verdict = "approved" if said and said.kind == "approved" else "wants changes"
    return [
        row.sequence,
        row.shot.number,
        row.scene.name,
        f"{row.seconds:.1f}",
        row.who,
        f"{row.shot.due.isoformat()}{' late' if row.late else ''}" if row.shot.due else "",
        row.state.value,
        str(version.number) if version else "",
        f"{verdict} by {said.name}, {said.made:%Y-%m-%d}" if said else "",
        str(open_notes) if open_notes else "",
    ]


def _table(production: Production) -> tuple[list[str], list[list[str]]]:
    """The sums in words, and a row for each shot that is not put away."""
    found = rows(production)
    scenes = [row.scene.pk for row in found]
    newest: dict[int, Version] = {}
    for one in Version.objects.filter(scene__in=scenes).defer("kept").order_by("number").prefetch_related("verdicts"):
        newest[one.scene_id] = one
    still = Comment.objects.filter(scene__in=scenes, on=None, done=None)
    notes = dict(still.values_list("scene").annotate(Count("pk")))
    told = [_cells(row, newest.get(row.scene.pk), notes.get(row.scene.pk, 0)) for row in found]
    return _sums(found, sum(notes.values())), told


def _sums(found: list[Row], notes: int) -> list[str]:
    finished = [row for row in found if row.state in FINISHED]
    missing = [row for row in found if row.state in _MISSING]
    late = sum(row.late for row in found)
    seconds, done = _seconds(found), _seconds(finished)
    share = f", {100 * done / seconds:.0f}% of its length" if seconds else ""
    return [
        f"{timezone.localdate().isoformat()}: {len(found)} shots, {seconds:.1f} s.",
        f"Approved or handed over: {len(finished)}{share}.",
        f"Open: {len(found) - len(finished) - len(missing)}; notes that are not done: {notes}; late: {late}.",
        f"Missing sound, words or a reading: {len(missing)}.",
    ]


def _seconds(found: Iterable[Row]) -> float:
    return sum(row.seconds for row in found)


def as_pdf(production: Production) -> bytes:
    """Return the report as a PDF."""
    sums, table = _table(production)
    return report_pdf.write(production.name, sums, _COLUMNS, table)


def as_csv(production: Production) -> str:
    """Return its table as CSV."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([name for name, _ in _COLUMNS])
    writer.writerows([as_text(cell) for cell in row] for row in _table(production)[1])
    return out.getvalue()
