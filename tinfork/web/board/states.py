"""In what state a shot is: nobody sets it, it follows from what there is of the shot."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from tinfork.web.rushes.reviewing import Review

from .facts import Facts


class State(StrEnum):
    """From nothing to handed over, in the order a shot goes through."""

    NO_SOUND = "no sound"
    NO_WORDS = "no words"
    TO_READ = "to read"
    LOOKING = "being looked at"
    CHECKS = "open checks"
    READ = "read"
    IN_REVIEW = "in review"
    WANTS_CHANGES = "wants changes"
    CHANGED = "changed since approved"
    APPROVED = "approved"
    HANDED_OVER = "handed over"


FINISHED = frozenset({State.APPROVED, State.HANDED_OVER})


def state_of(facts: Facts, wrong: int | None, review: Review | None = None) -> State:
    """Return a shot's state. wrong: how many of its tracks have open checks; None where that was not looked at."""
    if review is not None:
        return _reviewed(review)
    if not facts.sound:
        return State.NO_SOUND
    if not facts.words:
        return State.NO_WORDS
    if facts.unread or not facts.read:
        return State.TO_READ
    if wrong is None:
        return State.LOOKING
    return State.CHECKS if wrong else State.READ


def _reviewed(review: Review) -> State:
    if review.verdict == "approved":
        if review.changed:
            return State.CHANGED
        return State.HANDED_OVER if review.handed_over else State.APPROVED
    return State.WANTS_CHANGES if review.verdict else State.IN_REVIEW


def is_late(state: State, due: date | None, today: date) -> bool:
    """Return whether a shot should be finished by now."""
    return due is not None and due < today and state not in FINISHED


@dataclass(frozen=True)
class Progress:
    """How far a part of the film is. counts: how many shots are in each state there is any in, in the states' order;
    late: how many should be finished by now; seconds: how long it is."""

    name: str
    counts: tuple[tuple[State, int], ...]
    late: int
    seconds: float

    @property
    def shots(self) -> int:
        """How many there are."""
        return sum(count for _, count in self.counts)

    @property
    def finished(self) -> int:
        """How many are approved or handed over."""
        return sum(count for state, count in self.counts if state in FINISHED)


def progress(name: str, shots: Iterable[tuple[State, bool, float]]) -> Progress:
    """Return how far shots are. Each: its state, whether it is late, its length in seconds."""
    known = list(shots)
    counts = tuple((state, count) for state in State if (count := sum(one == state for one, *_ in known)))
    return Progress(name, counts, sum(late for _, late, _ in known), sum(seconds for *_, seconds in known))
