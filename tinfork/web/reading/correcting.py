"""What people do to a reading by hand. Each is one undoable action on one version of a stave; times are the scene's."""

from collections.abc import Callable
from dataclasses import replace

from django.db import transaction

from tinfork.core.errors import ReadingError
from tinfork.core.sound.anchors import SCENE, clip_at, clip_of
from tinfork.core.sound.arrangement import Clip
from tinfork.core.speech import correct, pronounce, words
from tinfork.core.speech.reading import Reading
from tinfork.web.edits import actions as edits
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.permissions import Person

from .models import Stave
from .planning import stave_clips

Place = tuple[int, int]


@transaction.atomic
def _change(person: Person, stave: Stave, version: int, verb: str, do: Callable[[Reading, Stave], Reading]) -> Stave:
    stave = edits.locked(person, stave, version)
    reading = stave.the_reading()
    if reading is None:
        raise ReadingError("There is no reading yet; read the sound first.")
    changed = do(reading, stave)
    return edits.change(person, stave, verb, reading=replace(changed, seconds=reading.seconds).to_json())


def _in_sound(reading: Reading, stave: Stave, at: Place) -> tuple[Reading, float]:
    """The reading with the length of a word's sound for its own, and how much later that is heard in the scene."""
    word = correct.word_at(reading, at)
    fps = float(stave.scene.fps)
    clip = clip_of(word, stave_clips(stave), fps)
    return _measured(reading, clip, fps), 0.0 if clip is None else (clip.start - clip.offset) / fps


def _measured(reading: Reading, clip: Clip | None, fps: float) -> Reading:
    return reading if clip is None else replace(reading, seconds=clip.whole / fps)


def move_edge(person: Person, stave: Stave, version: int, at: Place, edge: int, time: float) -> Stave:
    """Put one of a word's edges at a time of the scene, and pin it."""

    def do(reading: Reading, held: Stave) -> Reading:
        measured, later = _in_sound(reading, held, at)
        return correct.move_edge(measured, at, edge, time - later)

    return _change(person, stave, version, "move a seam", do)


def move_word(person: Person, stave: Stave, version: int, at: Place, by: float) -> Stave:
    """Move a word by seconds, and pin both its ends."""
    return _change(
        person, stave, version, "move a word", lambda r, held: correct.move_word(_in_sound(r, held, at)[0], at, by)
    )


def move_line(person: Person, stave: Stave, version: int, at: Place, by: float) -> Stave:
    """Move the line a word is in by seconds, and pin its first edge and its last."""
    return _change(
        person, stave, version, "move a line", lambda r, held: correct.move_line(_in_sound(r, held, at)[0], at[0], by)
    )


def approve(person: Person, stave: Stave, version: int, at: Place) -> Stave:
    """Say that a word looks right: it is pinned as it is."""
    return _change(person, stave, version, "looks right", lambda r, held: correct.approve(r, at))


def release(person: Person, stave: Stave, version: int, at: Place) -> Stave:
    """Let the next reading move a word again."""
    return _change(person, stave, version, "release", lambda r, held: correct.release(r, at))


def set_sound(person: Person, stave: Stave, version: int, at: Place, sound: int, ipa: str) -> Stave:
    """Put another sound in a sound's place."""
    return _change(person, stave, version, "change a sound", lambda r, held: correct.set_sound(r, at, sound, ipa))


def insert_sound(person: Person, stave: Stave, version: int, at: Place, sound: int, ipa: str) -> Stave:
    """Put a sound before another, or at the word's end."""
    return _change(person, stave, version, "put in a sound", lambda r, held: correct.insert_sound(r, at, sound, ipa))


def delete_sound(person: Person, stave: Stave, version: int, at: Place, sound: int) -> Stave:
    """Take a sound away; its neighbour takes its time."""
    return _change(person, stave, version, "take a sound away", lambda r, held: correct.delete_sound(r, at, sound))


def split_word(person: Person, stave: Stave, version: int, at: Place, sound: int, first: str, second: str) -> Stave:
    """Make two words of one."""
    return _change(
        person, stave, version, "split a word", lambda r, held: correct.split_word(r, at, sound, first, second)
    )


def merge_words(person: Person, stave: Stave, version: int, at: Place) -> Stave:
    """Make one word of a word and the next."""
    return _change(person, stave, version, "join words", lambda r, held: correct.merge_words(r, at))


def insert_word(person: Person, stave: Stave, version: int, at: Place, text: str, start: float, end: float) -> Stave:
    """Put a word into the line a word is in, between two times of the scene where nothing is said yet."""

    def do(reading: Reading, held: Stave) -> Reading:
        fps = float(held.scene.fps)
        clip = clip_at((start + end) / 2 * fps, stave_clips(held))
        later = 0.0 if clip is None else (clip.start - clip.offset) / fps
        return correct.insert_word(
            _measured(reading, clip, fps),
            at[0],
            text,
            first_pronunciation(held, text),
            start - later,
            end - later,
            clip.material if clip else SCENE,
        )

    return _change(person, stave, version, "put in a word", do)


def first_pronunciation(stave: Stave, text: str) -> list[tuple[str, int]]:
    """The first way to say a word, in its character's language."""
    production = stave.scene.production
    tokens = words.tokens(text, stave.character.language or production.language)
    said = pronounce.pronounce(tokens, lexicon_of(production, tokens))
    return [phone for word in said if word for phone in word.variants[0]]


def delete_word(person: Person, stave: Stave, version: int, at: Place) -> Stave:
    """Say that a word is not spoken."""
    return _change(person, stave, version, "not said", lambda r, held: correct.delete_word(r, at))


def place_lost(person: Person, stave: Stave, version: int, lost: int, at: Place) -> Stave:
    """Put a pin whose word vanished on another word."""
    return _change(person, stave, version, "place a lost pin", lambda r, held: correct.place_lost(r, lost, at))


def drop_lost(person: Person, stave: Stave, version: int, lost: int) -> Stave:
    """Let go of a pin whose word vanished."""
    return _change(person, stave, version, "drop a lost pin", lambda r, held: correct.drop_lost(r, lost))
