"""A production's lexicon as CSV (RFC 4180, UTF-8): word, language, pronunciation in IPA."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass

from ..errors import ScriptError, TinForkError
from ..limits import MAX_LEXICON_ROWS, MAX_NAME_CHARACTERS
from ..speech.espeak import check_language
from ..speech.phones import parse_ipa
from .cells import escaped, unescaped

COLUMNS = ("word", "language", "ipa")


@dataclass(frozen=True)
class LexiconRow:
    """word in lower case; language: a code, or "" for any; ipa as parse_ipa reads it."""

    word: str
    language: str
    ipa: str


def check_row(word: str, language: str, ipa: str) -> LexiconRow:
    """Return an entry that can be kept. ScriptError says what is wrong with it."""
    word = " ".join(word.replace("\0", "").split()).lower()
    if not word or " " in word or len(word) > MAX_NAME_CHARACTERS:
        raise ScriptError("An entry is one word, without spaces.")
    parse_ipa(ipa)
    return LexiconRow(word, check_language(language.strip()) if language.strip() else "", " ".join(ipa.split())[:200])


def parse(text: str) -> tuple[list[LexiconRow], list[str]]:
    """Return the good rows, and a sentence with the line number for each bad one. The heading names the columns."""
    reader = csv.reader(io.StringIO(text.removeprefix("\ufeff")))
    rows: list[LexiconRow] = []
    problems: list[str] = []
    columns: list[str] | None = None
    try:
        for fields in reader:
            if not any(field.strip() for field in fields):
                continue
            if columns is None:
                columns = _columns(fields)
                continue
            if len(rows) + len(problems) >= MAX_LEXICON_ROWS:
                problems.append(f"Line {reader.line_num}: over {MAX_LEXICON_ROWS:,} rows; the rest was left out.")
                break
            _take(dict(zip(columns, fields, strict=False)), reader.line_num, rows, problems)
    except csv.Error as broken:
        problems.append(f"Line {reader.line_num}: {broken}; what follows was left out.")
    return rows, problems


def _take(named: dict[str, str], line: int, rows: list[LexiconRow], problems: list[str]) -> None:
    try:
        rows.append(
            check_row(unescaped(named.get("word", "")), named.get("language", ""), unescaped(named.get("ipa", "")))
        )
    except TinForkError as wrong:
        problems.append(f"Line {line}: {wrong}")


def _columns(fields: list[str]) -> list[str]:
    names = [field.strip().lower() for field in fields]
    if "word" not in names or "ipa" not in names:
        raise ScriptError("The first row must name the columns: word, language, ipa.")
    return names


def write(rows: Iterable[LexiconRow]) -> str:
    """CSV with its heading; parse reads it back."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    writer.writerows((escaped(row.word), row.language, escaped(row.ipa)) for row in rows)
    return out.getvalue()
