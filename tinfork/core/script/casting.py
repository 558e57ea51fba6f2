"""Which lines are looked for in which sound.

A character with a dialogue track of their own is heard there; everybody else on the shared tracks. Where there is but
one voice in the scene, lines that name nobody are theirs.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from ..sound.arrangement import DIALOGUE, SHARED, Arrangement, Clip
from .lines import Script, ScriptLine


@dataclass(frozen=True)
class SoundToRead:
    """Clips heard together, with the lines to be found in them in order. character: whose own track it is, or None."""

    clips: tuple[Clip, ...]
    lines: tuple[ScriptLine, ...]
    character: int | None


@dataclass(frozen=True)
class Casting:
    """Which lines are looked for in which sound. parts: what is to be read; without_sound: lines for which there is
    no sound."""

    parts: tuple[SoundToRead, ...]
    without_sound: tuple[ScriptLine, ...]


def own_clips(arrangement: Arrangement, character: int) -> tuple[Clip, ...]:
    """Return the clips on a character's own dialogue tracks."""
    return tuple(c for t in arrangement.tracks if t.kind == DIALOGUE and t.character == character for c in t.clips)


def has_track(arrangement: Arrangement, character: int) -> bool:
    """Return whether a character has a dialogue track of their own, be it empty: then they are in the scene, even if
    they say nothing."""
    return any(t.kind == DIALOGUE and t.character == character for t in arrangement.tracks)


def only_listens(arrangement: Arrangement, character: int) -> bool:
    """Return whether a character is in the scene by a track of their own on which nothing lies."""
    return has_track(arrangement, character) and not own_clips(arrangement, character)


def shared_clips(arrangement: Arrangement) -> tuple[Clip, ...]:
    """Return the clips on shared dialogue tracks."""
    return tuple(c for t in arrangement.tracks if t.kind == SHARED for c in t.clips)


def clips_of(arrangement: Arrangement, character: int) -> tuple[Clip, ...]:
    """Return the clips a character is heard in."""
    return own_clips(arrangement, character) or shared_clips(arrangement)


def cast_lines(arrangement: Arrangement, script: Script) -> Casting:
    """Share the script's lines out among the sounds."""
    voices = dict.fromkeys(
        t.character for t in arrangement.tracks if t.kind == DIALOGUE and t.clips and t.character is not None
    )
    shared = shared_clips(arrangement)
    only = next(iter(voices)) if len(voices) == 1 and not shared else None
    parts: dict[int | None, list[ScriptLine]] = {}
    without_sound = []
    for line in script.lines:
        character = line.character if line.character is not None else only
        if character in voices:
            parts.setdefault(character, []).append(line)
        elif shared:
            parts.setdefault(None, []).append(line)
        else:
            without_sound.append(line)
    return Casting(
        tuple(SoundToRead(_sound(arrangement, who, shared), tuple(lines), who) for who, lines in parts.items()),
        tuple(without_sound),
    )


def unwritten(arrangement: Arrangement, casting: Casting) -> tuple[SoundToRead, ...]:
    """Return the sounds with speech for which no line is written."""
    written = {part.character for part in casting.parts}
    voices = dict.fromkeys(
        t.character if t.kind == DIALOGUE else None for t in arrangement.tracks if t.is_read and t.clips
    )
    shared = shared_clips(arrangement)
    return tuple(SoundToRead(_sound(arrangement, who, shared), (), who) for who in voices if who not in written)


def _sound(arrangement: Arrangement, who: int | None, shared: Sequence[Clip]) -> tuple[Clip, ...]:
    return tuple(shared) if who is None else own_clips(arrangement, who)
