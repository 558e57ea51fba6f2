"""An exposure sheet as a PDF to be printed: A4 or Letter, portrait, made to be read at arm's length."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from ..errors import HandoverError
from ..shot.sheet import COLUMNS, SheetRow
from ..shot.shot import Shot
from ..shot.stage import Look
from .pictures import as_png, each
from .sheet_csv import NOTHING

PAPERS = {"A4": A4, "Letter": LETTER}
FEWEST_ROWS, MOST_ROWS = 12, 60
ROWS = 40
_FONTS = Path("/usr/share/fonts/truetype/dejavu")
_MARGIN, _HEAD = 36.0, 44.0
_WIDTHS = {"timecode": 58.0, "sound": 40.0, "words": 84.0, "ipa": 52.0, "acting": 74.0, "notes": 84.0}
_NUMBER = 40.0
_SMALLEST = 0.6
_LEAST_FOR_THUMB = 50.0
_HOLD = 12.0
_INK, _RULE, _HEAVY = (0.13, 0.19, 0.18), (0.79, 0.81, 0.80), (0.37, 0.43, 0.44)
_SOUND = (0.18, 0.49, 0.45)

Peaks = NDArray[np.float32]


@dataclass(frozen=True)
class Print:
    """How a sheet is printed. paper: of PAPERS; per_page: rows on each; title: the production; version: what the
    sheet is of, in a word or two."""

    paper: str = "A4"
    per_page: int = ROWS
    title: str = ""
    version: str = ""

    def __post_init__(self) -> None:
        if self.paper not in PAPERS:
            raise HandoverError("A sheet is printed on A4 or Letter.")
        if not FEWEST_ROWS <= self.per_page <= MOST_ROWS:
            raise HandoverError(f"A page has {FEWEST_ROWS} to {MOST_ROWS} rows.")


def write(
    path: Path,
    shot: Shot,
    rows: Sequence[SheetRow],
    how: Print,
    columns: Sequence[str] = COLUMNS,
    peaks: Peaks | None = None,
) -> None:
    """The sheet, page after page. peaks: (rows, 2) the lowest and the highest of the sound on each row, -1 to 1."""
    page = _Page(path, shot, how, columns, peaks)
    pages = [rows[at : at + how.per_page] for at in range(0, len(rows), how.per_page)]
    for number, own in enumerate(pages, 1):
        page.draw(own, number, len(pages))
    page.canvas.save()


class _Page:
    """Pages of one sheet, drawn one after the other."""

    def __init__(self, path: Path, shot: Shot, how: Print, columns: Sequence[str], peaks: Peaks | None) -> None:
        for name in ("DejaVuSans", "DejaVuSans-Bold", "DejaVuSansMono"):
            if name not in pdfmetrics.getRegisteredFontNames():
                pdfmetrics.registerFont(TTFont(name, str(_FONTS / f"{name}.ttf")))
        self.width, self.height = PAPERS[how.paper]
        self.canvas = Canvas(str(path), (self.width, self.height))
        self.canvas.setTitle(f"{shot.name}, exposure sheet")
        self.shot, self.how, self.columns, self.peaks = shot, how, columns, peaks
        self.row = (self.height - 2 * _MARGIN - _HEAD) / how.per_page
        self.size = min(11.0, self.row * 0.72)
        self.places = self._places()
        self.held, self.begins = ["" for _ in shot.roles], True
        self.thumbs = self._thumbs() if "drawings" in columns else []

    def _places(self) -> list[tuple[str, float, float]]:
        """The columns, each with its left edge and its width; drawings share what the others leave."""
        room = self.width - 2 * _MARGIN
        own = [("frame", _NUMBER)]
        for column in self.columns:
            if column == "drawings":
                own += [(f"drawing {at}", 0.0) for at in range(len(self.shot.roles))]
            else:
                own.append((column, _WIDTHS[column]))
        fixed = sum(width for _, width in own)
        flexible = sum(width == 0.0 for _, width in own)
        least = 54.0 * flexible
        shrink = min(1.0, (room - least) / fixed)
        each_drawing = (room - fixed * shrink) / flexible if flexible else 0.0
        found, left = [], _MARGIN
        for name, width in own:
            wide = width * shrink if width else each_drawing
            found.append((name, left, wide))
            left += wide
        return found

    def _thumbs(self) -> list[dict[str, ImageReader]]:
        look = Look(120, 100, mouth=True)
        return [
            {name: ImageReader(io.BytesIO(as_png(picture))) for name, picture in each(role, self.shot, look)}
            for role in self.shot.roles
        ]

    def draw(self, rows: Sequence[SheetRow], number: int, of: int) -> None:
        """One page."""
        self._head(number, of)
        top = self.height - _MARGIN - _HEAD
        for at, row in enumerate(rows):
            self.begins = at == 0
            self._row(row, (number - 1) * self.how.per_page + at, top - (at + 1) * self.row)
        self.canvas.setStrokeColorRGB(*_HEAVY)
        bottom = top - len(rows) * self.row
        for _, left, _ in self.places[1:]:
            self._line(left, top, left, bottom, 0.4)
        self._line(_MARGIN, bottom, self.width - _MARGIN, bottom, 0.8)
        self.canvas.showPage()

    def _head(self, number: int, of: int) -> None:
        top = self.height - _MARGIN
        self.canvas.setFillColorRGB(*_INK)
        self.canvas.setStrokeColorRGB(*_HEAVY)
        self._text(
            f"{self.how.title} · {self.shot.name}", _MARGIN, top - 12, 13.0, self.width * 0.62, "DejaVuSans-Bold"
        )
        self.canvas.setFont("DejaVuSans", 9)
        told = f"{self.how.version} · " if self.how.version else ""
        self.canvas.drawRightString(self.width - _MARGIN, top - 12, f"{told}page {number} of {of}")
        for name, left, width in self.places:
            shown = self.shot.roles[int(name.split()[1])].name if name.startswith("drawing ") else name
            self._text("IPA" if name == "ipa" else shown, left + 2, top - 36, 9.0, width - 4, "DejaVuSans-Bold")
        self._line(_MARGIN, top - _HEAD + 2, self.width - _MARGIN, top - _HEAD + 2, 1.0)

    def _row(self, row: SheetRow, at: int, bottom: float) -> None:
        heavy = row.line or row.second
        self.canvas.setStrokeColorRGB(*(_HEAVY if heavy else _RULE))
        self._line(_MARGIN, bottom + self.row, self.width - _MARGIN, bottom + self.row, 0.9 if heavy else 0.3)
        self.canvas.setFillColorRGB(*_INK)
        base = bottom + (self.row - self.size) / 2 + self.size * 0.15
        own = {
            "frame": str(row.number),
            "timecode": row.timecode,
            "words": row.words,
            "ipa": row.ipa,
            "notes": row.note,
            "acting": row.acting,
        }
        for name, left, width in self.places:
            if name in own:
                font = "DejaVuSansMono" if name in ("frame", "timecode") else "DejaVuSans"
                font = "DejaVuSans-Bold" if name == "words" and row.line else font
                self._text(own[name], left + 2, base, self.size * (0.85 if name == "timecode" else 1), width - 4, font)
            elif name == "sound":
                self._wave(at, left, bottom, width)
            else:
                self._cell(row, int(name.split()[1]), left, bottom, width, base)

    def _cell(self, row: SheetRow, at: int, left: float, bottom: float, width: float, base: float) -> None:
        """The drawing that begins on a row, or the line of the one that is held; a page begins with its name, in
        brackets."""
        drawing = row.cells[at].drawing
        if drawing is not None:
            self.held[at] = drawing
        elif not self.begins:
            self.canvas.setStrokeColorRGB(*_HEAVY)
            self._line(left + _HOLD, bottom, left + _HOLD, bottom + self.row, 1.3)
            return
        shown = self.held[at] or NOTHING
        thumb = self.thumbs[at].get(shown) if width >= _LEAST_FOR_THUMB else None
        wide = min((self.row - 1) * 1.2, width * 0.4) if thumb else 0.0
        if thumb:
            self.canvas.drawImage(thumb, left + 2, bottom + (self.row - wide / 1.2) / 2, wide, wide / 1.2, mask="auto")
        text = shown if drawing is not None else f"({shown})"
        self._text(text, left + 3 + wide, base, self.size, width - 5 - wide, "DejaVuSans")

    def _wave(self, at: int, left: float, bottom: float, width: float) -> None:
        """The sound of a row, turned upright: loud is wide."""
        if self.peaks is None or at >= len(self.peaks):
            return
        low, high = self.peaks[at].tolist()
        self.canvas.setFillColorRGB(*_SOUND)
        middle, half = left + width / 2, (width - 6) / 2
        self.canvas.rect(middle + low * half, bottom, max(0.6, (high - low) * half), self.row, 0, 1)
        self.canvas.setFillColorRGB(*_INK)

    def _text(self, text: str, x: float, y: float, size: float, room: float, font: str) -> None:
        text, size = _fitted(text, size, room, font)
        self.canvas.setFont(font, size)
        self.canvas.drawString(x, y, text)

    def _line(self, x: float, y: float, to_x: float, to_y: float, width: float) -> None:
        self.canvas.setLineWidth(width)
        self.canvas.line(x, y, to_x, to_y)


def _fitted(text: str, size: float, room: float, font: str) -> tuple[str, float]:
    """A text and its size: smaller where it must be to stand whole, and cut with … where it would be too small to be
    read."""
    wide = pdfmetrics.stringWidth(text, font, size)
    if wide <= room:
        return text, size
    size = max(size * room / wide, size * _SMALLEST)
    if pdfmetrics.stringWidth(text, font, size) <= room + 0.01:
        return text, size
    while text and pdfmetrics.stringWidth(f"{text}…", font, size) > room:
        text = text[:-1]
    return f"{text}…", size


def peaks_of(samples: NDArray[np.float32], per_row: float) -> Peaks:
    """Return (rows, 2) the lowest and the highest of some samples, on each of the rows they are cut into."""
    edges = np.round(np.arange(0, len(samples), per_row)).astype(int)
    edges = edges[edges < len(samples)]
    return np.column_stack([np.minimum.reduceat(samples, edges), np.maximum.reduceat(samples, edges)])
