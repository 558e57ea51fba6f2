"""An exposure sheet as CSV (RFC 4180): a row for each of its rows, a drawing where it begins."""

import csv
import io
from collections.abc import Sequence

from ..shot.sheet import COLUMNS, SheetRow
from ..shot.shot import Shot
from .cells import escaped

NOTHING = "(nothing)"
"""What stands where no mouth is shown from; an empty cell is held."""


def header(shot: Shot, columns: Sequence[str] = COLUMNS) -> list[str]:
    """Return the names of the columns that are chosen; the sound's waveform has none."""
    names = [role.name for role in shot.roles]
    said = [f"words {name}" for name in names] if len(names) > 1 else ["words"]
    own = {"drawings": names, "sound": [], "ipa": ["IPA"], "words": said}
    return ["frame", *(name for column in columns for name in own.get(column, [column]))]


def cells(row: SheetRow, columns: Sequence[str] = COLUMNS) -> list[str]:
    """Return a row under that header."""
    drawn = ["" if c.drawing is None else c.drawing or NOTHING for c in row.cells]
    own = {"timecode": [row.timecode], "words": list(row.words), "ipa": [row.ipa], "drawings": drawn}
    own |= {"acting": [row.acting], "notes": [row.note]}
    return [str(row.number), *(text for column in columns for text in own.get(column, []))]


def text(shot: Shot, rows: Sequence[SheetRow], columns: Sequence[str] = COLUMNS) -> str:
    """Return the whole sheet."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([escaped(name) for name in header(shot, columns)])
    writer.writerows([escaped(cell) for cell in cells(row, columns)] for row in rows)
    return out.getvalue()
