"""What people do to a reading by hand. Each is one undoable action on one version of a stave; times are the scene's."""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction

from tinfork.core.errors import ReadingError
from tinfork.core.plain import plain
from tinfork.core.sound.anchors import SCENE, clip_at
from tinfork.core.sound.arrangement import Clip
from tinfork.core.speech import correct, pronounce, words
from tinfork.core.speech.anchors import clip_of
from tinfork.core.speech.by_sounds import without_covered
from tinfork.core.speech.reading import Reading
from tinfork.core.timebase import frame_at
from tinfork.web.edits import actions as edits
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.permissions import Person
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import Placed, placed_now
from tinfork.web.staves.travelling import along_with

WordPlace = tuple[int, int]


@transaction.atomic
def _change(
    person: Person,
    stave: Stave,
    version: int,
    verb: str,
    at: WordPlace | None,
    do: Callable[[Reading, Placed, WordPlace], Reading],
    stay: bool = False,
) -> Stave:
    """Change a reading near a word. do: takes as much of the reading as the change can touch, and the word's place in
    that; what comes back has the same lines. stay: whether what was set by hand there stays on its frames."""
    stave = edits.locked(person, stave, version)
    if not stave.is_read:
        raise ReadingError("There is no reading yet; read the sound first.")
    placed = placed_now(stave)
    numbers = _lines_around(placed, at)
    reading = stave.reading_with(tuple(placed.load(numbers)))
    changed = do(reading, placed, _place_among(placed, numbers, at))
    changed = replace(changed, lines=without_covered(changed.lines))
    parts = _changed_lines(numbers, reading, changed)
    if changed.lost != reading.lost:
        parts["lost"] = plain(changed.lost)
    if not stay:
        parts |= along_with(stave, reading.lines, changed.lines)
    return edits.change(person, stave, verb, parts)


def _changed_lines(numbers: Sequence[int], reading: Reading, changed: Reading) -> dict[str, Any]:
    """What to decide so that lines of these numbers are as they are in a changed reading."""
    lines = zip(numbers, reading.lines, changed.lines, strict=True)
    return {f"line {number}": plain(new) for number, old, new in lines if new != old}


def _lines_around(placed: Placed, at: WordPlace | None) -> list[int]:
    """The numbers of the line a place is in, and for every sound of the stave of the next lines before and after in
    which something is said in it."""
    order = placed.stave.order
    if at is None or not 0 <= at[0] < len(order):
        return []
    spoken = placed.spoken
    chosen = {at[0]}
    for own in {source_id for sources in spoken.values() for source_id in sources}:
        for places in (range(at[0] - 1, -1, -1), range(at[0] + 1, len(order))):
            chosen |= set(itertools.islice((p for p in places if own in spoken.get(order[p], ())), 1))
    return [order[place] for place in sorted(chosen)]


def _place_among(placed: Placed, numbers: list[int], at: WordPlace | None) -> WordPlace:
    """A word's place in a reading of a few of its lines; outside of it, when there is no such word."""
    if at is None or not 0 <= at[0] < len(placed.stave.order):
        return -1, -1
    return numbers.index(placed.stave.order[at[0]]), at[1]


def _in_sound(reading: Reading, placed: Placed, at: WordPlace) -> tuple[Reading, float]:
    """The reading with the length of a word's sound for its own, and how much later that is heard in the scene."""
    word = correct.word_at(reading, at)
    clip = clip_of(word, placed.clips, placed.fps)
    return _measured(reading, clip, placed.fps), 0.0 if clip is None else (clip.start - clip.offset) / placed.fps


def _measured(reading: Reading, clip: Clip | None, fps: float) -> Reading:
    return reading if clip is None else replace(reading, seconds=clip.whole / fps)


def move_edge(
    person: Person, stave: Stave, version: int, at: WordPlace, edge: int, time: float, stay: bool = False
) -> Stave:
    """Put one of a word's edges at a time of the scene, and pin it."""

    def do(reading: Reading, placed: Placed, here: WordPlace) -> Reading:
        measured, later = _in_sound(reading, placed, here)
        return correct.move_edge(measured, here, edge, time - later)

    return _change(person, stave, version, "move a seam", at, do, stay)


def move_word(person: Person, stave: Stave, version: int, at: WordPlace, by: float, stay: bool = False) -> Stave:
    """Move a word by seconds, and pin both its ends."""

    def do(reading: Reading, placed: Placed, here: WordPlace) -> Reading:
        return correct.move_word(_in_sound(reading, placed, here)[0], here, by)

    return _change(person, stave, version, "move a word", at, do, stay)


def words_moved(placed: Placed, spans: Sequence[range], by: float) -> dict[str, Any]:
    """What to decide so that the words said on some frames of the scene are that many seconds later."""
    stave, rate = placed.stave, placed.rate
    near = [number for span in spans for number in placed.numbers_in(span)]
    numbers = sorted(set(near), key=placed.places.__getitem__)
    middle = {
        word.at: frame_at((word.start + word.end) / 2, rate)
        for line in placed.in_scene(placed.load(numbers))
        for word in line.words
        if word.said
    }
    chosen = [at for at, frame in middle.items() if any(frame in span for span in spans)]
    around = sorted(
        {n for at in chosen for n in _lines_around(placed, (placed.places[numbers[at[0]]], at[1]))} | {*numbers},
        key=placed.places.__getitem__,
    )
    reading = stave.reading_with(tuple(placed.load(around)))
    changed = reading
    for at in sorted(chosen, reverse=by > 0):
        here = around.index(numbers[at[0]]), at[1]
        changed = correct.move_word(_in_sound(changed, placed, here)[0], here, by)
    return _changed_lines(around, reading, changed)


def move_line(person: Person, stave: Stave, version: int, at: WordPlace, by: float, stay: bool = False) -> Stave:
    """Move the line a word is in by seconds, and pin its first edge and its last."""

    def do(reading: Reading, placed: Placed, here: WordPlace) -> Reading:
        return correct.move_line(_in_sound(reading, placed, here)[0], here[0], by)

    return _change(person, stave, version, "move a line", at, do, stay)


def approve(person: Person, stave: Stave, version: int, at: WordPlace) -> Stave:
    """Say that a word looks right: it is pinned as it is."""
    return _change(person, stave, version, "looks right", at, lambda r, _, here: correct.approve(r, here))


def unpin(person: Person, stave: Stave, version: int, at: WordPlace) -> Stave:
    """Let the next reading move a word again."""
    return _change(person, stave, version, "unpin a word", at, lambda r, _, here: correct.unpin(r, here))


def set_sound(person: Person, stave: Stave, version: int, at: WordPlace, sound: int, ipa: str) -> Stave:
    """Put another sound in a sound's place."""
    return _change(
        person, stave, version, "change a sound", at, lambda r, _, here: correct.set_sound(r, here, sound, ipa)
    )


def insert_sound(person: Person, stave: Stave, version: int, at: WordPlace, sound: int, ipa: str) -> Stave:
    """Put a sound before another, or at the word's end."""
    return _change(
        person, stave, version, "put in a sound", at, lambda r, _, here: correct.insert_sound(r, here, sound, ipa)
    )


def delete_sound(person: Person, stave: Stave, version: int, at: WordPlace, sound: int) -> Stave:
    """Take a sound away; its neighbour takes its time."""
    return _change(
        person, stave, version, "take a sound away", at, lambda r, _, here: correct.delete_sound(r, here, sound)
    )


def split_word(person: Person, stave: Stave, version: int, at: WordPlace, sound: int, first: str, second: str) -> Stave:
    """Make two words of one."""
    return _change(
        person, stave, version, "split a word", at, lambda r, _, here: correct.split_word(r, here, sound, first, second)
    )


def merge_words(person: Person, stave: Stave, version: int, at: WordPlace) -> Stave:
    """Make one word of a word and the next."""
    return _change(person, stave, version, "join words", at, lambda r, _, here: correct.merge_words(r, here))


def insert_word(
    person: Person, stave: Stave, version: int, at: WordPlace, text: str, start: float, end: float
) -> Stave:
    """Put a word into the line a word is in, between two times of the scene where nothing is said yet."""

    def do(reading: Reading, placed: Placed, here: WordPlace) -> Reading:
        clip = clip_at((start + end) / 2 * placed.fps, placed.clips)
        later = 0.0 if clip is None else (clip.start - clip.offset) / placed.fps
        return correct.insert_word(
            _measured(reading, clip, placed.fps),
            here[0],
            text,
            first_pronunciation(placed.stave, text),
            start - later,
            end - later,
            clip.source_id if clip else SCENE,
        )

    return _change(person, stave, version, "put in a word", at, do)


def write_word(person: Person, stave: Stave, version: int, at: WordPlace, text: str) -> Stave:
    """Give the words for what was said and nobody wrote."""
    return _change(person, stave, version, "write a word", at, lambda r, _, here: correct.write_word(r, here, text))


def first_pronunciation(stave: Stave, text: str) -> list[tuple[str, int]]:
    """The first way to say a word, in its character's language."""
    production = stave.scene.production
    tokens = words.tokens(text, stave.character.language or production.language)
    said = pronounce.pronounce(tokens, lexicon_of(production, tokens))
    return [phone for word in said if word for phone in word.variants[0]]


def delete_word(person: Person, stave: Stave, version: int, at: WordPlace) -> Stave:
    """Say that a word is not spoken."""
    return _change(person, stave, version, "not said", at, lambda r, _, here: correct.delete_word(r, here))


def place_lost(person: Person, stave: Stave, version: int, lost: int, at: WordPlace) -> Stave:
    """Put a pin whose word vanished on another word."""
    return _change(person, stave, version, "place a lost pin", at, lambda r, _, here: correct.place_lost(r, lost, here))


def drop_lost(person: Person, stave: Stave, version: int, lost: int) -> Stave:
    """Let go of a pin whose word vanished."""
    return _change(person, stave, version, "drop a lost pin", None, lambda r, _, here: correct.drop_lost(r, lost))
