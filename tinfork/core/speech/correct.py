"""Corrections of a reading by hand. Every one returns a new reading in which what a person set is pinned or decided.

A word is named by its place: (line, word), both counted from 0 in the reading. Times are in the word's own sound.
Nothing outside what was named moves, save the other side of a seam two words share. The reading's seconds are taken for
the length of that sound.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import replace

from ..errors import ReadingError
from ..limits import MAX_NAME_CHARACTERS
from .phones import parse_ipa
from .reading import Line, Reading, Sound, Word

WordPlace = tuple[int, int]

LEAST_SECONDS = 0.01
_HAIR = 1e-4
_NO_ROOM = "There is no room for this: a sound lasts at least 10 ms, and words do not overlap."
_GONE = "This word is gone; reload the page."


def word_at(reading: Reading, at: WordPlace) -> Word:
    """Return the word at a place. ReadingError when there is none."""
    line, word = at
    if not (0 <= line < len(reading.lines) and 0 <= word < len(reading.lines[line].words)):
        raise ReadingError(_GONE)
    return reading.lines[line].words[word]


def move_edge(reading: Reading, at: WordPlace, edge: int, time: float) -> Reading:
    """With an edge moved and pinned. Edge k begins sound k; the last one ends the word.

    An outer edge stretches or shrinks what lies between it and the next pinned edge, and moves the word beside it if
    they share a seam; an inner one changes the two sounds beside it.
    """
    word = _said(reading, at)
    last = len(word.sounds)
    if not 0 <= edge <= last:
        raise ReadingError(_GONE)
    changed = {at: _stretched(word, edge, time)}
    if edge in (0, last):
        changed |= _across_seam(reading, at, 1 if edge else -1, time)
    return _with_words(reading, changed)


def _across_seam(reading: Reading, at: WordPlace, side: int, time: float) -> dict[WordPlace, Word]:
    """The word that shares a word's seam before (-1) or after (1) it, stretched to where the seam goes; if there is
    one."""
    word = word_at(reading, at)
    other = _neighbour(reading, at, side)
    beside = word_at(reading, other) if other else None
    seam = word.end if side > 0 else word.start
    if other is None or beside is None or abs(_far_edge(beside, side) - seam) >= _HAIR:
        return {}
    return {other: _stretched(beside, 0 if side > 0 else len(beside.sounds), time)}


def _far_edge(word: Word, side: int) -> float:
    return word.start if side > 0 else word.end


def _stretched(word: Word, edge: int, time: float) -> Word:
    edges = list(word.edges)
    last = len(word.sounds)
    if 0 < edge < last:
        edges[edge] = time
    elif edge == 0:
        anchor = min((k for k in word.pinned if k > 0), default=last)
        edges[:anchor] = _scaled(edges[:anchor], edges[0], edges[anchor], time, edges[anchor])
    else:
        anchor = max((k for k in word.pinned if k < last), default=0)
        edges[anchor + 1 :] = _scaled(edges[anchor + 1 :], edges[anchor], edges[last], edges[anchor], time)
    moved = _checked_word(word.with_edges(edges))
    inner = 0 < edge < last
    return replace(moved, pinned=_union(word.pinned, (edge,)), decided=word.decided or inner)


def _scaled(edges: Sequence[float], first: float, last: float, new_first: float, new_last: float) -> list[float]:
    """Edges between first and last moved in proportion; evenly, where they had no room to be proportioned."""
    if last - first < LEAST_SECONDS * len(edges):
        whole = [*edges, last] if edges[0] == first else [first, *edges]
        spread = _evenly(new_first, new_last, len(whole) - 1)
        return spread[:-1] if edges[0] == first else spread[1:]
    scale = (new_last - new_first) / (last - first)
    return [new_first + (edge - first) * scale for edge in edges]


def move_word(reading: Reading, at: WordPlace, by: float) -> Reading:
    """With a word moved as a whole, both its ends pinned, and the seams it shares with it."""
    word = _said(reading, at)
    moved = word.with_edges([edge + by for edge in word.edges])
    changed = {at: replace(moved, pinned=_union(word.pinned, (0, len(word.sounds))))}
    changed |= _across_seam(reading, at, -1, moved.start) | _across_seam(reading, at, 1, moved.end)
    return _with_words(reading, changed)


def move_line(reading: Reading, line: int, by: float) -> Reading:
    """With all words of a line moved, its first edge and its last pinned, and the seams they share with them."""
    if not 0 <= line < len(reading.lines):
        raise ReadingError("This line is gone; reload the page.")
    said = [(line, n) for n, word in enumerate(reading.lines[line].words) if word.said]
    if not said:
        raise ReadingError("Nothing of this line was heard; there is nothing to move.")
    words = {at: word_at(reading, at) for at in said}
    changed = {at: word.with_edges([edge + by for edge in word.edges]) for at, word in words.items()}
    written = [at for at in said if not words[at].is_unwritten] or said
    first, last = written[0], written[-1]
    changed[first] = replace(changed[first], pinned=_union(changed[first].pinned, (0,)))
    changed[last] = replace(changed[last], pinned=_union(changed[last].pinned, (len(changed[last].sounds),)))
    changed |= _across_seam(reading, first, -1, changed[first].start)
    changed |= _across_seam(reading, last, 1, changed[last].end)
    return _with_words(reading, changed)


def approve(reading: Reading, at: WordPlace) -> Reading:
    """With a word pinned and decided just as it is, said or not."""
    word = word_at(reading, at)
    pinned = tuple(range(len(word.sounds) + 1)) if word.said else ()
    return _with_words(reading, {at: replace(word, pinned=pinned, decided=True, extra=(), tight=False)})


def unpin(reading: Reading, at: WordPlace) -> Reading:
    """With nothing of a word set by a person any more; the next reading may move it."""
    return _with_words(reading, {at: replace(word_at(reading, at), pinned=(), decided=False)})


def set_sound(reading: Reading, at: WordPlace, sound: int, ipa: str) -> Reading:
    """With another sound in a sound's place."""
    word = _said(reading, at)
    _check_sound(word, sound)
    sounds = list(word.sounds)
    name, stress = _one_sound(ipa)
    sounds[sound] = replace(sounds[sound], ipa=name, stress=stress or sounds[sound].stress)
    return _with_words(reading, {at: replace(word, sounds=tuple(sounds), decided=True, guessed=False)})


def insert_sound(reading: Reading, at: WordPlace, sound: int, ipa: str) -> Reading:
    """With a sound put before the sound of this number, in the first half of its time; at the end in the last's second
    half. The sound itself given again splits it."""
    word = _said(reading, at)
    last = len(word.sounds)
    if not 0 <= sound <= last:
        raise ReadingError(_GONE)
    name, stress = _one_sound(ipa)
    split = word.sounds[min(sound, last - 1)]
    middle = (split.start + split.end) / 2
    new = replace(split, ipa=name, stress=stress, confidence=0.0)
    sounds = (*word.sounds[:sound], new, *word.sounds[sound:])
    edges = list(word.edges)
    edges.insert(min(sound + 1, last), middle)
    inserted = min(sound + 1, last)
    pinned = tuple(k + (k >= inserted) for k in word.pinned)
    changed = replace(word, sounds=sounds, pinned=pinned, decided=True, guessed=False).with_edges(edges)
    return _with_words(reading, {at: _checked_word(changed)})


def delete_sound(reading: Reading, at: WordPlace, sound: int) -> Reading:
    """Without a sound; the one before it, or after the first, takes its time."""
    word = _said(reading, at)
    _check_sound(word, sound)
    if len(word.sounds) == 1:
        raise ReadingError("This is the word's only sound; delete the word instead.")
    gone = max(1, sound)
    edges = [edge for k, edge in enumerate(word.edges) if k != gone]
    sounds = tuple(one for k, one in enumerate(word.sounds) if k != sound)
    pinned = tuple(k - (k > gone) for k in word.pinned if k != gone)
    changed = replace(word, sounds=sounds, pinned=pinned, decided=True, guessed=False).with_edges(edges)
    return _with_words(reading, {at: changed})


def split_word(reading: Reading, at: WordPlace, sound: int, first: str, second: str) -> Reading:
    """With a word made two before the sound of this number."""
    word = _said(reading, at)
    if not 0 < sound < len(word.sounds):
        raise ReadingError("A word is split between two of its sounds; choose a later sound.")
    edges = word.edges
    head = _part(word, _text(first), 0, sound, edges)
    tail = _part(word, _text(second), sound, len(word.sounds), edges)
    return _with_line(
        reading, at[0], lambda words: [*words[: at[1]], head, replace(tail, extra=()), *words[at[1] + 1 :]]
    )


def _part(word: Word, text: str, first: int, last: int, edges: Sequence[float]) -> Word:
    sounds = word.sounds[first:last]
    pinned = tuple(k - first for k in word.pinned if first <= k <= last)
    return replace(
        word,
        text=text,
        start=edges[first],
        end=edges[last],
        sounds=sounds,
        confidence=_mean(sounds),
        pinned=pinned,
        decided=True,
    )


def merge_words(reading: Reading, at: WordPlace) -> Reading:
    """With a word and the next of its line made one; a pause between them goes to the sound before it."""
    after = (at[0], at[1] + 1)
    if after[1] >= len(reading.lines[at[0]].words):
        raise ReadingError("This is the last word of its line; there is none to join it to.")
    word, other = _said(reading, at), _said(reading, after)
    if word.source_id != other.source_id:
        raise ReadingError("These words lie in different sounds; they stay apart.")
    count = len(word.sounds)
    sounds = (*word.sounds, *other.sounds)
    pinned = _union(tuple(k for k in word.pinned if k < count), tuple(k + count for k in other.pinned))
    merged = replace(
        word,
        text=_text(f"{word.text} {other.text}"),
        sounds=sounds,
        confidence=_mean(sounds),
        extra=(*word.extra, *other.extra),
        pinned=pinned,
        decided=True,
    ).with_edges([*word.edges[:-1], *other.edges])
    return _with_line(reading, at[0], lambda words: [*words[: at[1]], merged, *words[after[1] + 1 :]])


def insert_word(
    reading: Reading,
    line: int,
    text: str,
    sounds: Sequence[tuple[str, int]],
    start: float,
    end: float,
    source_id: int = 0,
) -> Reading:
    """With a word put into a line where nothing was said, its sounds spread evenly. sounds: IPA and stress of each."""
    if not 0 <= line < len(reading.lines):
        raise ReadingError("This line is gone; reload the page.")
    if not sounds:
        raise ReadingError("Nobody can say this word; give its sounds.")
    blank = tuple(Sound(ipa, start, end, 0.0, stress) for ipa, stress in sounds)
    step = (end - start) / len(blank)
    new = Word(_text(text), start, end, 0.0, False, blank, source_id, pinned=(0, len(blank)), decided=True)
    new = _checked_word(new.with_edges([start + k * step for k in range(len(blank) + 1)]))
    words = reading.lines[line].words
    number = sum(1 for word in words if word.start < start - _HAIR or (word.said and word.end <= start + _HAIR))
    done = _with_line(reading, line, lambda old: [*old[:number], new, *old[number:]])
    _check_room(done, (line, number))
    return done


def write_word(reading: Reading, at: WordPlace, text: str) -> Reading:
    """With words for what was said and nobody wrote; it keeps the sounds that are heard."""
    word = _said(reading, at)
    if not word.is_unwritten:
        raise ReadingError("This word is written already; change it in the script.")
    written = replace(word, text=_text(text), guessed=False, decided=True)
    done = _with_words(reading, {at: written})

    def known(one: Word) -> Word:
        left = tuple(span for span in one.extra if span[1] <= word.start + _HAIR or span[0] >= word.end - _HAIR)
        return one if left == one.extra else replace(one, extra=left)

    return _with_line(done, at[0], lambda words: [known(one) for one in words])


def delete_word(reading: Reading, at: WordPlace) -> Reading:
    """With a word marked as not said; later readings leave it out."""
    word = _said(reading, at)
    gone = word.with_edges([word.start] * (len(word.sounds) + 1))
    return _with_words(reading, {at: replace(gone, said=False, decided=True, pinned=(), confidence=0.0)})


def place_lost(reading: Reading, lost: int, at: WordPlace) -> Reading:
    """With a word of the lost put in the place of another: where a person had set it, and with its sounds if it was
    decided. Words beside it make room."""
    _, was = _lost_at(reading, lost)
    word = word_at(reading, at)
    if word.source_id != was.source_id and word.said:
        raise ReadingError("This word lies in another sound than the pin; choose one nearer to it.")
    sounds = was.sounds if was.decided else word.sounds
    edges = list(was.edges) if was.decided else _evenly(was.start, was.end, len(sounds))
    pinned = was.pinned if was.decided else (0, len(sounds))
    placed = replace(word, sounds=sounds, source_id=was.source_id, said=True, decided=was.decided, pinned=pinned)
    changed = {at: _checked_word(placed.with_edges(edges))}
    for side, edge in ((-1, was.start), (1, was.end)):
        other = _neighbour(reading, at, side, was.source_id)
        beside = word_at(reading, other) if other else None
        if other and beside and side * (_far_edge(beside, side) - edge) < 0:
            yields = _stretched(beside, 0 if side > 0 else len(beside.sounds), edge)
            changed[other] = replace(yields, pinned=beside.pinned)
    return _with_words(drop_lost(reading, lost), changed)


def drop_lost(reading: Reading, lost: int) -> Reading:
    """Without a word of the lost."""
    _lost_at(reading, lost)
    return replace(reading, lost=tuple(one for number, one in enumerate(reading.lost) if number != lost))


def _lost_at(reading: Reading, lost: int) -> tuple[int, Word]:
    if not 0 <= lost < len(reading.lost):
        raise ReadingError("This pin is gone; reload the page.")
    return reading.lost[lost]


def _evenly(start: float, end: float, count: int) -> list[float]:
    return [start + k * (end - start) / count for k in range(count + 1)]


def _said(reading: Reading, at: WordPlace) -> Word:
    word = word_at(reading, at)
    if not word.said:
        raise ReadingError(f"“{word.text}” was not heard; unpin it and read its line again, or put it in by hand.")
    return word


def _neighbour(reading: Reading, at: WordPlace, side: int, source_id: int | None = None) -> WordPlace | None:
    """The nearest word before (-1) or after (1) that was said in the same sound, or in one of another number; what
    nobody wrote gives way (see without_covered)."""
    source_id = word_at(reading, at).source_id if source_id is None else source_id
    places = [
        (line, number)
        for line, own in enumerate(reading.lines)
        for number, word in enumerate(own.words)
        if (line, number) == at or (word.said and word.source_id == source_id and not word.is_unwritten)
    ]
    found = places.index(at) + side
    return places[found] if 0 <= found < len(places) else None


def _with_words(reading: Reading, changed: dict[WordPlace, Word]) -> Reading:
    lines = list(reading.lines)
    for (line, number), word in changed.items():
        words = list(lines[line].words)
        words[number] = word
        lines[line] = _line(lines[line], words)
    done = replace(reading, lines=tuple(lines))
    for at in changed:
        _check_room(done, at)
    return done


def _with_line(reading: Reading, line: int, change: Callable[[Sequence[Word]], Sequence[Word]]) -> Reading:
    lines = list(reading.lines)
    lines[line] = _line(lines[line], change(lines[line].words))
    return replace(reading, lines=tuple(lines))


def _line(line: Line, words: Sequence[Word]) -> Line:
    said = [word for word in words if word.said] or words
    return replace(line, words=tuple(words), start=said[0].start, end=said[-1].end)


def _check_room(reading: Reading, at: WordPlace) -> None:
    """ReadingError when a word runs into its neighbours, or out of its sound."""
    word = word_at(reading, at)
    if not word.said:
        return
    before, after = _neighbour(reading, at, -1), _neighbour(reading, at, 1)
    if (
        word.start < 0
        or word.end > reading.seconds + _HAIR
        or (before and word_at(reading, before).end > word.start + _HAIR)
        or (after and word_at(reading, after).start < word.end - _HAIR)
    ):
        raise ReadingError(_NO_ROOM)


def _checked_word(word: Word) -> Word:
    """ReadingError when one of its sounds would last no time."""
    edges = word.edges
    if any(b - a < LEAST_SECONDS - _HAIR for a, b in itertools.pairwise(edges)):
        raise ReadingError(_NO_ROOM)
    return word


def _check_sound(word: Word, sound: int) -> None:
    if not 0 <= sound < len(word.sounds):
        raise ReadingError("This sound is gone; reload the page.")


def _one_sound(ipa: str) -> tuple[str, int]:
    found = parse_ipa(ipa)
    if len(found) != 1:
        raise ReadingError("Give one sound; insert more sounds one by one.")
    return found[0]


def _text(text: str) -> str:
    cleaned = " ".join(text.split())[:MAX_NAME_CHARACTERS]
    if not cleaned:
        raise ReadingError("A word needs a text.")
    return cleaned


def _mean(sounds: Sequence[Sound]) -> float:
    return round(sum(sound.confidence for sound in sounds) / len(sounds), 3)


def _union(one: Sequence[int], other: Sequence[int]) -> tuple[int, ...]:
    return tuple(sorted({*one, *other}))
