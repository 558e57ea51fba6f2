"""An exposure sheet as an OpenDocument spreadsheet (ISO/IEC 26300)."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from odf.element import Element
from odf.opendocument import OpenDocumentSpreadsheet
from odf.style import Style, TableCellProperties, TextProperties
from odf.table import Table, TableCell, TableHeaderRows, TableRow
from odf.text import P

from ..shot.sheet import COLUMNS, SheetRow
from ..shot.shot import Shot
from .sheet_csv import cells, header


def write(path: Path, shot: Shot, rows: Sequence[SheetRow], columns: Sequence[str] = COLUMNS) -> None:
    """The whole sheet; frames are numbers, lines and whole seconds have a rule over them."""
    document = OpenDocumentSpreadsheet()
    bold, ruled = _styles(document)
    table = Table(name=shot.name[:31])
    head = TableHeaderRows()
    head.addElement(_row(header(shot, columns), bold, numbers=0))
    table.addElement(head)
    for row in rows:
        table.addElement(_row(cells(row, columns), ruled if row.line or row.second else None, numbers=1))
    document.spreadsheet.addElement(table)
    document.save(str(path))


def _styles(document: Any) -> tuple[Element, Element]:
    bold = Style(name="head", family="table-cell")
    bold.addElement(TextProperties(fontweight="bold"))
    ruled = Style(name="ruled", family="table-cell")
    ruled.addElement(TableCellProperties(bordertop="0.5pt solid #7d8a8c"))
    for style in (bold, ruled):
        document.automaticstyles.addElement(style)
    return bold, ruled


def _row(texts: Sequence[str], style: Element | None, numbers: int) -> Element:
    row = TableRow()
    own = {"stylename": style} if style else {}
    for at, text in enumerate(texts):
        number = at < numbers
        cell = TableCell(valuetype="float" if number else "string", **({"value": text} if number else {}), **own)
        if text:
            cell.addElement(P(text=text))
        row.addElement(cell)
    return row
