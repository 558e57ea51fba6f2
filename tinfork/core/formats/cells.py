"""Text in the cells of a CSV file, such that a spreadsheet takes none for a formula.

A cell that begins with = + - @, a tab or a line break gets an apostrophe before it, as spreadsheets have it for text;
so does one that begins with apostrophes and then such a sign, so that every cell can be read back.
"""

import re

_FORMULA = re.compile(r"'*[=+\-@\t\r\n]")


def escaped(text: str) -> str:
    """Return the text as a cell.

    >>> escaped("=1+1"), escaped("'-x"), escaped("goat")
    ("'=1+1", "''-x", 'goat')
    """
    return f"'{text}" if _FORMULA.match(text) else text


def unescaped(cell: str) -> str:
    """Return the text of a cell that escaped made; of another cell, what stands in it."""
    return cell[1:] if cell.startswith("'") and _FORMULA.match(cell) else cell
