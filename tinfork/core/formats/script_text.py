"""Plain text and a simple screenplay layout: lines in and out.

In the layout a character's name stands on its own line, then the speech, until an empty line; "Name: speech" on one
line is read too. Directions in brackets stay in the line's text and are not read; so does everything nobody speaks.
"""

import re
from collections.abc import Iterable, Sequence

from ..errors import ScriptError
from ..limits import MAX_IMPORT_BYTES
from ..script.lines import Cue
from ..speech.words import spoken_part

_HEADING = re.compile(r"([^\W\d_][\w .'’-]{0,39}?)\s*(?:\([^()]*\)\s*)?:?", re.UNICODE)
_SAID = re.compile(r"([^\W\d_][\w .'’-]{0,39}?)\s*:\s+(\S.*)", re.UNICODE)


def check_size(size: int) -> None:
    """ScriptError when a text file has more bytes than any script or lexicon."""
    if size > MAX_IMPORT_BYTES:
        raise ScriptError(f"The file is larger than {MAX_IMPORT_BYTES // 2**20} MB; split it.")


def decode(content: bytes) -> str:
    """Return a text file's text, in UTF-8, UTF-16 with its mark, or Windows-1252. ScriptError when it is no text."""
    check_size(len(content))
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return content.decode("utf-16", "replace")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("cp1252", "replace")
    if "\0" in text:
        raise ScriptError("This is not a text file; give TXT, SRT or WebVTT in UTF-8.")
    return text


def parse_plain(text: str, speakers: Iterable[str] = ()) -> list[Cue]:
    """Return one cue for each line that is not empty; "Name: words" names a known speaker."""
    names = {name.lower(): name for name in speakers}
    return [_named(row.strip(), names) for row in text.splitlines() if row.strip()]


def looks_like_screenplay(text: str, speakers: Iterable[str] = ()) -> bool:
    """Return whether names stand on lines of their own above what is said."""
    names = {name.lower() for name in speakers}
    rows = [row.strip() for row in text.splitlines()]
    return any(_heading(rows, i, names) for i in range(len(rows)))


def speakers_in(text: str) -> list[str]:
    """Return the names that a text itself gives, in order: before a colon ("Marit: Fog."), or alone in capitals above a
    speech. Each begins with a capital and has up to three words."""
    rows = [row.strip() for row in text.splitlines()]
    found: dict[str, str] = {}
    for i, row in enumerate(rows):
        said = _SAID.fullmatch(row)
        name = said[1].strip() if said else _heading(rows, i, set()).title()
        if name and len(name.split()) <= 3 and name[0].isupper():
            found.setdefault(name.lower(), name)
    return list(found.values())


def parse_screenplay(text: str, speakers: Iterable[str] = ()) -> list[Cue]:
    """Return speech by speaker; what nobody speaks comes as a bracketed line."""
    names = {name.lower(): name for name in speakers}
    rows = [row.strip() for row in text.splitlines()]
    cues: list[Cue] = []
    speaker, aside = "", ""
    for i, row in enumerate(rows):
        heading = _heading(rows, i, set(names))
        if heading:
            speaker, aside = names.get(heading.lower(), heading), ""
        elif not row:
            cues += [Cue(aside, speaker)] if aside else []
            speaker, aside = "", ""
        elif not speaker:
            cues.append(_outside(row, names))
        elif not spoken_part(row).strip():
            aside = f"{aside} {row}".strip()
        else:
            cues.append(Cue(f"{aside} {row}".strip(), speaker))
            aside = ""
    return [*cues, Cue(aside, speaker)] if aside else cues


def write_screenplay(cues: Sequence[Cue]) -> str:
    """Return lines as text parse_screenplay reads back: a speaker's name above what they say."""
    blocks: list[str] = []
    speaker = ""
    for cue in cues:
        if cue.speaker and cue.speaker == speaker:
            blocks[-1] += f"\n{cue.text}"
        else:
            blocks.append(f"{cue.speaker.upper()}\n{cue.text}" if cue.speaker else cue.text)
        speaker = cue.speaker
    return "\n\n".join(blocks) + "\n"


def write_plain(cues: Sequence[Cue]) -> str:
    """Return one line each, the speaker's name before the words."""
    return "".join(f"{cue.named}\n" for cue in cues)


def _heading(rows: Sequence[str], i: int, names: set[str]) -> str:
    """The name on row i when it is one that stands above speech; "" otherwise."""
    if i + 1 >= len(rows) or not rows[i + 1] or (i and rows[i - 1]):
        return ""
    match = _HEADING.fullmatch(rows[i])
    if not match:
        return ""
    name = match[1].strip()
    return name if name.lower() in names or (name.isupper() and len(name.split()) <= 3) else ""


def _outside(row: str, names: dict[str, str]) -> Cue:
    cue = _named(row, names)
    return cue if cue.speaker or not spoken_part(row).strip() else Cue("[" + re.sub(r"[\[\]]", "", row) + "]")


def _named(row: str, names: dict[str, str]) -> Cue:
    match = _SAID.fullmatch(row)
    if match and match[1].strip().lower() in names:
        return Cue(match[2], names[match[1].strip().lower()])
    return Cue(row)
