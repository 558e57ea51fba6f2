"""A report as a PDF to be printed or sent: what it is of, its sums, and a table over as many pages as it needs."""

import io
from collections.abc import Sequence
from pathlib import Path
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

_FONTS = Path("/usr/share/fonts/truetype/dejavu")
_INK, _RULE, _HEAVY = HexColor("#22302f"), HexColor("#c9cfcc"), HexColor("#5f6d6f")
_MARGIN = 36.0
_MOST_CHARACTERS = 300


def write(
    title: str, sums: Sequence[str], columns: Sequence[tuple[str, float]], rows: Sequence[Sequence[str]]
) -> bytes:
    """Return the PDF, A4 lying. sums: lines under the title; columns: the head of each, and its share of the page's
    width."""
    for name, file in (("report", "DejaVuSans.ttf"), ("report-bold", "DejaVuSans-Bold.ttf")):
        pdfmetrics.registerFont(TTFont(name, _FONTS / file))
    paper = landscape(A4)
    room = (paper[0] - 2 * _MARGIN) / sum(share for _, share in columns)
    plain = ParagraphStyle("plain", fontName="report", fontSize=8, leading=10, textColor=_INK)
    bold = ParagraphStyle("bold", plain, fontName="report-bold")
    large = ParagraphStyle("large", bold, fontSize=15, leading=20)
    cells = [[_cell(text, bold) for text, _ in columns], *([_cell(text, plain) for text in row] for row in rows)]
    table = Table(cells, [share * room for _, share in columns], repeatRows=1)
    lines = [("LINEBELOW", (0, 0), (-1, 0), 0.9, _HEAVY), ("LINEBELOW", (0, 1), (-1, -1), 0.4, _RULE)]
    table.setStyle(TableStyle([*lines, ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 3)]))
    out = io.BytesIO()
    told = [_cell(title, large), *(_cell(line, plain) for line in sums), Spacer(1, 10), table]
    margins = {f"{side}Margin": _MARGIN for side in ("left", "right", "top", "bottom")}
    SimpleDocTemplate(out, pagesize=paper, title=title, **margins).build(told, _foot, _foot)
    return out.getvalue()


def _cell(text: str, style: ParagraphStyle) -> Paragraph:
    short = text if len(text) <= _MOST_CHARACTERS else f"{text[:_MOST_CHARACTERS]}…"
    return Paragraph(escape(short), style)


def _foot(canvas: Canvas, _: object) -> None:
    canvas.setFont("report", 8)
    canvas.setFillColor(_HEAVY)
    canvas.drawRightString(canvas._pagesize[0] - _MARGIN, _MARGIN / 2, str(canvas.getPageNumber()))
