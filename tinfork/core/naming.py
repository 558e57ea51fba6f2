"""Names of files that every file system takes, and things named in a sentence."""

import re
import unicodedata
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import count

from .errors import HandoverError

MOST_LETTERS = 60
MOST_DIGITS = 9
_FIELDS = ("character", "scene", "drawing")
_ALLOWED = re.compile(r"[A-Za-z0-9_. #{}-]+")


def file_stem(name: str) -> str:
    """Return a name any file system takes: ASCII letters, digits, - and _; never empty."""
    ascii_name = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    return re.sub(r"[^A-Za-z0-9]+", "_", ascii_name).strip("_")[:MOST_LETTERS] or "character"


def some_of(things: Sequence[str], most: int) -> str:
    """Return the first of some things in words, and how many more there are.

    >>> some_of(["a", "b", "c"], 2), some_of(["a", "b"], 2)
    ('a, b and 1 more', 'a, b')
    """
    more = f" and {len(things) - most} more" if len(things) > most else ""
    return ", ".join(things[:most]) + more


def numbered(name: str, suffix: str = " {}", most: int | None = None) -> Iterator[str]:
    """A name, then the names to try where it is taken: with a number from 2 on, in a suffix. most: so many characters
    of the name stand before a number.

    >>> names = numbered("Harbour", " ({})", 4)
    >>> next(names), next(names), next(names)
    ('Harbour', 'Harb (2)', 'Harb (3)')
    """
    yield name
    for number in count(2):
        yield name[:most] + suffix.format(number)


def _apart(names: Iterable[str]) -> list[str]:
    """The names, with a number where one differs from an earlier one in nothing but case."""
    found: dict[str, str] = {}
    for name in names:
        own = next(one for one in numbered(name, "_{}") if one.lower() not in found)
        found[own.lower()] = own
    return list(found.values())


def stems(names: Iterable[str]) -> dict[str, str]:
    """Return a file name for each name, without two that differ only in case.

    >>> stems(["Ah!", "ah?", "o/e"])
    {'Ah!': 'Ah', 'ah?': 'ah_2', 'o/e': 'o_e'}
    """
    given = list(names)
    return dict(zip(given, _apart(map(file_stem, given)), strict=True))


class _Given(dict[str, str]):
    """What a shot has; nothing for what it has not."""

    def __missing__(self, name: str) -> str:
        return ""


FOLDER_FIELDS = ("number", "name", "sequence", "version")


def folders(pattern: str, shots: Iterable[Mapping[str, str]]) -> list[str]:
    """Return a folder's name for each shot, all different. pattern: text with {number}, {name}, {sequence} and
    {version} where a shot has these; a slash begins a folder within. HandoverError where it is none.

    >>> folders("{sequence}/{number}_{name}", [{"number": "0010", "name": "Fog", "sequence": "The pier"}])
    ['The_pier/0010_Fog']
    """
    fields = re.findall(r"\{([^{}]*)\}", pattern)
    plain = re.sub(r"\{[^{}]*\}", "", pattern)
    parts = pattern.split("/")
    bad = not re.fullmatch(r"[A-Za-z0-9_. {}/-]{1,120}", pattern) or set(plain) & {"{", "}"}
    if bad or set(fields) - set(FOLDER_FIELDS) or any(not part.strip(" .") for part in parts):
        raise HandoverError(
            "A folder's name has letters, digits, - _ . and spaces, and {number}, {name}, {sequence} or {version}; "
            "a slash begins a folder within."
        )
    return _apart("/".join(file_stem(part.format_map(_Given(shot))) for part in parts) for shot in shots)


@dataclass(frozen=True)
class Pattern:
    """How the pictures of a sequence are called: a row of # stands for the frame's number in so many digits; between
    braces character, scene and drawing stand for their names.

    >>> Pattern("{character}_####").name(101, character="Marit", scene="Fog", drawing="open")
    'Marit_0101'
    """

    text: str

    def __post_init__(self) -> None:
        fields = re.findall(r"\{([^{}]*)\}", self.text)
        plain = re.sub(r"\{[^{}]*\}", "", self.text)
        rows = re.findall(r"#+", plain)
        if not _ALLOWED.fullmatch(self.text) or set(plain) & {"{", "}"} or set(fields) - set(_FIELDS):
            raise HandoverError(
                "A naming pattern has letters, digits, - _ . and spaces, # for the frame's digits, and "
                "{character}, {scene} or {drawing}."
            )
        if len(rows) != 1 or len(rows[0]) > MOST_DIGITS:
            raise HandoverError(
                f"A naming pattern has one row of 1 to {MOST_DIGITS} # where the frame's number stands."
            )
        if self.text.startswith((".", " ")) or self.text.endswith((".", " ")):
            raise HandoverError("A naming pattern neither begins nor ends with a dot or a space.")

    def name(self, frame: int, **names: str) -> str:
        """Return what the picture of a frame is called, without its ending. names: what the braces stand for."""
        text = re.sub(r"\{([^{}]*)\}", lambda field: file_stem(names.get(field[1], "")), self.text)
        return re.sub(r"#+", lambda row: f"{frame:0{len(row[0])}d}", text)
