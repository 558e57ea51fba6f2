"""The sheet of a scene as a file: PDF, ODS or CSV."""

import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

import soundfile
from msgspec import Struct

from tinfork.core.errors import HandoverError
from tinfork.core.formats import sheet_csv, sheet_ods, sheet_pdf
from tinfork.core.shot.sheet import COLUMNS, SheetRow, rows
from tinfork.core.shot.shot import Shot
from tinfork.web.edits.history import versions
from tinfork.web.handover.keeping import material_now
from tinfork.web.handover.rendering import shot_of
from tinfork.web.handover.roles import staves_of
from tinfork.web.productions.models import Scene
from tinfork.web.staves.planning import planned

from .actions import notes_of

_WRITERS: dict[str, str] = {
    "pdf": "application/pdf",
    "ods": "application/vnd.oasis.opendocument.spreadsheet",
    "csv": "text/csv; charset=utf-8",
}
KINDS = tuple(_WRITERS)


class Printed(Struct, frozen=True):
    """A sheet as a file: its bytes, its content type and the ending of its name."""

    data: bytes
    content_type: str
    ending: str


class Sheet(Struct, frozen=True):
    """What a file of a sheet is to hold: scene frames first to end as they are numbered, None for the whole; step:
    frames a row."""

    columns: tuple[str, ...] = COLUMNS
    first: int | None = None
    end: int | None = None
    step: int = 1
    per_page: int = sheet_pdf.ROWS
    paper: str = "A4"


def printed(scene: Scene, kind: str, sheet: Sheet) -> Printed:
    """Return the file. HandoverError for what cannot be printed, or where nobody has mouths."""
    columns = [column for column in COLUMNS if column in sheet.columns]
    how = sheet_pdf.Print(sheet.paper, sheet.per_page, scene.production.name, _version(scene))
    staves = staves_of(scene)
    if not staves:
        raise HandoverError("Nobody has mouths in this scene yet; read its sound first.")
    first = 0 if sheet.first is None else max(0, sheet.first - scene.start_frame)
    length = staves[0].arrangement.value.frames
    end = length if sheet.end is None else min(length, sheet.end - scene.start_frame + 1)
    with tempfile.TemporaryDirectory() as folder:
        sound, path = Path(folder) / "sound.flac", Path(folder) / "sheet"
        shot = shot_of(scene, material_now([planned(stave) for stave in staves]), range(first, end), sound)
        notes = {frame - first: text for frame, text in notes_of(scene).by_frame.items()}
        found = list(rows(shot, notes, sheet.step))
        write: dict[str, Callable[[], None]] = {
            "pdf": lambda: sheet_pdf.write(path, shot, found, how, columns, _peaks(shot, sheet.step, columns)),
            "ods": lambda: sheet_ods.write(path, shot, found, columns),
            "csv": lambda: _csv(path, shot, found, columns),
        }
        write[kind]()
        return Printed(path.read_bytes(), _WRITERS[kind], kind)


def _version(scene: Scene) -> str:
    return f"version {sum(versions(scene).values())}"


def _peaks(shot: Shot, step: int, columns: Sequence[str]) -> sheet_pdf.Peaks | None:
    if "sound" not in columns or shot.sound is None:
        return None
    samples, rate = soundfile.read(shot.sound, dtype="float32")
    return sheet_pdf.peaks_of(samples, float(step * rate / shot.rate))


def _csv(path: Path, shot: Shot, found: Sequence[SheetRow], columns: Sequence[str]) -> None:
    path.write_text(sheet_csv.text(shot, found, columns), encoding="utf-8", newline="")
