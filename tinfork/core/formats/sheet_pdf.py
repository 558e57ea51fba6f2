"""An exposure sheet as a PDF to be printed: A4 or Letter, portrait, made to be read at arm's length."""

import io
import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.utils import ImageReader, simpleSplit
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
_WIDTHS = {
    "timecode": 58.0,
    "sound": 40.0,
    "words": 84.0,
    "words of one": 64.0,
    "ipa": 52.0,
    "acting": 74.0,
    "notes": 84.0,
}
_NUMBER = 40.0
_SMALLEST = 5.5
"""Smaller letters, in points, cannot be read at arm's length."""

_LEADING = 1.15
"""From line to line, as a share of the letters' size: descenders do not touch what is below."""

_STEPS = 8
"""In so many steps letters become smaller, until a text has room."""

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
    page.in_full()
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
        self.cut: list[tuple[str, str]] = []
        self.thumbs = self._thumbs() if "drawings" in columns else []

    def _places(self) -> list[tuple[str, float, float]]:
        """The columns, each with its left edge and its width; drawings share what the others leave."""
        room = self.width - 2 * _MARGIN
        own = [("frame", _NUMBER)]
        for column in self.columns:
            roles = range(len(self.shot.roles))
            if column == "drawings":
                own += [(f"drawing {at}", 0.0) for at in roles]
            elif column == "words":
                own += [
                    (f"words {at}", _WIDTHS[column] if len(roles) == 1 else _WIDTHS["words of one"]) for at in roles
                ]
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
        for name, left, width in self.places:
            if name.split()[0] in _TEXTS:
                self._column(name, rows, left, width, top)
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
        title = f"{self.how.title} · {self.shot.name}"
        self._block(title, "title", _MARGIN, top, self.width * 0.62, 24.0, 13.0, "DejaVuSans-Bold")
        self.canvas.setFont("DejaVuSans", 9)
        told = f"{self.how.version} · " if self.how.version else ""
        self.canvas.drawRightString(self.width - _MARGIN, top - 12, f"{told}page {number} of {of}")
        for name, left, width in self.places:
            head = self._called(name)
            self._block(head, f"column {head}", left + 2, top - 25, width - 4, 16.0, 9.0, "DejaVuSans-Bold")
        self._line(_MARGIN, top - _HEAD + 2, self.width - _MARGIN, top - _HEAD + 2, 1.0)

    def _row(self, row: SheetRow, at: int, bottom: float) -> None:
        heavy = row.line or row.second
        self.canvas.setStrokeColorRGB(*(_HEAVY if heavy else _RULE))
        self._line(_MARGIN, bottom + self.row, self.width - _MARGIN, bottom + self.row, 0.9 if heavy else 0.3)
        self.canvas.setFillColorRGB(*_INK)
        base = bottom + (self.row - self.size) / 2 + self.size * 0.15
        own = {"frame": str(row.number), "timecode": row.timecode}
        for name, left, width in self.places:
            if name in own:
                size = self.size * (0.85 if name == "timecode" else 1)
                self._text(own[name], left + 2, base, size, width - 4, "DejaVuSansMono")
            elif name == "sound":
                self._wave(at, left, bottom, width)
            elif name.startswith("drawing "):
                self._cell(row, int(name.split()[1]), left, bottom, width)

    def _called(self, name: str) -> str:
        """What a column is called at its head."""
        kind, _, at = name.partition(" ")
        if not at:
            return "IPA" if kind == "ipa" else kind
        who = self.shot.roles[int(at)].name
        return who if kind == "drawing" else "words" if len(self.shot.roles) == 1 else f"{who} says"

    def _column(self, name: str, rows: Sequence[SheetRow], left: float, width: float, top: float) -> None:
        """A column of texts, each of which goes on down the rows until the next begins."""
        kind, _, who = name.partition(" ")
        texts = [_TEXTS[kind](row, int(who or 0)) for row in rows]
        begins = [at for at, text in enumerate(texts) if text]
        for at, end in itertools.pairwise([*begins, len(rows)]):
            font = "DejaVuSans-Bold" if kind == "words" and rows[at].line else "DejaVuSans"
            where = f"frame {rows[at].number}, {self._called(name)}"
            height = (end - at) * self.row
            self._block(texts[at], where, left + 2, top - at * self.row, width - 4, height, self.size, font)

    def _cell(self, row: SheetRow, at: int, left: float, bottom: float, width: float) -> None:
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
        where = f"frame {row.number}, {self.shot.roles[at].name}"
        self._block(
            text, where, left + 3 + wide, bottom + self.row, width - 5 - wide, self.row, self.size, "DejaVuSans"
        )

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
        self.canvas.setFont(font, min(size, size * room / max(_wide(text, font, size), 1e-6)))
        self.canvas.drawString(x, y, text)

    def _block(
        self, text: str, where: str, left: float, top: float, width: float, height: float, size: float, font: str
    ) -> None:
        """A text in a room, in as many lines as it needs and as large as they allow; what has no room in the least
        letters is told in full at the end. where: what that is called there."""
        lines, size = _fitted(text, width, height, size, font)
        room = _lines_in(height, size)
        if len(lines) > room:
            self.cut.append((where, text))
            lines = [*lines[: room - 1], _ended(lines[room - 1], width, size, font)]
        self.canvas.setFont(font, size)
        first = (self.row + size * 0.7) / 2 if len(lines) == 1 and height >= self.row else size
        for at, line in enumerate(lines):
            self.canvas.drawString(left, top - first - at * size * _LEADING, line)

    def in_full(self) -> None:
        """What had no room on its page, on pages of its own."""
        top, width = self.height - _MARGIN, self.width - 2 * _MARGIN
        said = [f"{where}: {text}" for where, text in dict.fromkeys(self.cut)]
        lines = [line for one in said for line in (*simpleSplit(one, "DejaVuSans", 9.0, width), "")]
        per_page = int((top - _MARGIN - 24) / 12)
        for at in range(0, len(lines), per_page):
            self.canvas.setFillColorRGB(*_INK)
            self.canvas.setFont("DejaVuSans-Bold", 11)
            self.canvas.drawString(_MARGIN, top - 12, "In full, what had no room")
            self.canvas.setFont("DejaVuSans", 9)
            for row, line in enumerate(lines[at : at + per_page]):
                self.canvas.drawString(_MARGIN, top - 30 - row * 12, line)
            self.canvas.showPage()

    def _line(self, x: float, y: float, to_x: float, to_y: float, width: float) -> None:
        self.canvas.setLineWidth(width)
        self.canvas.line(x, y, to_x, to_y)


def _fitted(text: str, width: float, height: float, size: float, font: str) -> tuple[list[str], float]:
    """A text in lines, and its size: as large as it stands whole in its room, and no smaller than can be read."""
    least = min(size, _SMALLEST)
    for step in range(_STEPS + 1):
        now = size - (size - least) * step / _STEPS
        lines = simpleSplit(text, font, now, width)
        whole = all(_wide(line, font, now) <= width for line in lines)
        if whole and len(lines) <= _lines_in(height, now):
            return lines, now
    return _broken(text, width, least, font), least


def _lines_in(height: float, size: float) -> int:
    return max(1, int(height / (size * _LEADING) + 1e-6))


def _broken(text: str, width: float, size: float, font: str) -> list[str]:
    """A text in lines; a word that is wider than they are goes on in the next."""
    found = []
    for line in simpleSplit(text, font, size, width):
        left = line
        while len(left) > 1 and _wide(left, font, size) > width:
            fits = next(n for n in range(len(left) - 1, 0, -1) if n == 1 or _wide(left[:n], font, size) <= width)
            found.append(left[:fits])
            left = left[fits:]
        found.append(left)
    return found


def _wide(text: str, font: str, size: float) -> float:
    return float(pdfmetrics.stringWidth(text, font, size))


def _ended(line: str, width: float, size: float, font: str) -> str:
    """A line that says that more follows at the end."""
    while line and _wide(f"{line}…", font, size) > width:
        line = line[:-1]
    return f"{line}…"


_TEXTS: dict[str, Callable[[SheetRow, int], str]] = {
    "words": lambda row, who: row.words[who],
    "ipa": lambda row, who: row.ipa,
    "acting": lambda row, who: row.acting,
    "notes": lambda row, who: row.note,
}


def peaks_of(samples: NDArray[np.float32], per_row: float) -> Peaks:
    """Return (rows, 2) the lowest and the highest of some samples, on each of the rows they are cut into."""
    edges = np.round(np.arange(0, len(samples), per_row)).astype(int)
    edges = edges[edges < len(samples)]
    return np.column_stack([np.minimum.reduceat(samples, edges), np.maximum.reduceat(samples, edges)])
