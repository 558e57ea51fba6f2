"""A line with the words that were said in place of those that are written."""

from ..errors import ScriptError
from ..speech.words import tokens


def numbered(text: str, language: str) -> list[tuple[str, range]]:
    """Return the pieces of a line between its blanks, each with the numbers of its speakable words; a direction in
    brackets has none."""
    found: list[tuple[str, range]] = []
    inside, at = 0, 0
    for piece in text.split():
        opens, closes = piece.count("(") + piece.count("["), piece.count(")") + piece.count("]")
        count = 0 if inside or opens else len(tokens(piece, language))
        inside = max(0, inside + opens - closes)
        found.append((piece, range(at, at + count)))
        at += count
    return found


def count(text: str, language: str) -> int:
    """Return how many speakable words a line has."""
    pieces = numbered(text, language)
    return pieces[-1][1].stop if pieces else 0


def written(text: str, language: str, first: int, last: int) -> str:
    """Return what of a line holds its words from first to last, last exclusive."""
    return parted(text, language, first, last)[1]


def parted(text: str, language: str, first: int, last: int) -> tuple[str, str, str]:
    """Return a line before, in and after its words from first to last, last exclusive."""
    pieces = numbered(text, language)
    gone = [at for at, (_, own) in enumerate(pieces) if own.start < last and own.stop > first]
    before = [at for at, (_, own) in enumerate(pieces) if own.stop <= first and (own or own.start < first)]
    begin = gone[0] if gone else before[-1] + 1 if before else 0
    end = gone[-1] + 1 if gone else begin
    texts = [piece for piece, _ in pieces]
    return " ".join(texts[:begin]), " ".join(texts[begin:end]), " ".join(texts[end:])


def with_said(text: str, language: str, first: int, last: int, said: str) -> str:
    """Return a line in which other words stand for those from first to last, or are put in before first where that is
    last. What ends what is replaced ends what replaces it. ScriptError where the line has no such words."""
    if not 0 <= first <= last <= count(text, language):
        raise ScriptError("The line was changed since; compare script and recording again.")
    before, gone, rest = parted(text, language, first, last)
    return " ".join(filter(None, (before, _as(gone.split(), said), rest)))


def _as(gone: list[str], said: str) -> str:
    """What was said with the mark the words it stands for end in, and a capital where they have one."""
    if not gone or not said:
        return said
    said = said.rstrip(".,;:!?…")
    mark = gone[-1][len(gone[-1].rstrip(".,;:!?…—–")) :]
    if gone[0][:1].isupper() and gone[0] != "I":
        said = said[:1].upper() + said[1:]
    elif said[:1].isupper() and said[1:2].islower() and not gone[0][:1].isupper():
        said = said[:1].lower() + said[1:]
    return said + mark
