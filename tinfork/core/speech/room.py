"""Room for each sound beside a seam that a person set: what is left of it is at least what its class needs."""

import itertools
from collections.abc import Sequence

from .phones import is_vowel

VOWEL_SECONDS, CONSONANT_SECONDS = 0.04, 0.03
"""No shorter is a vowel heard, or another sound: the least durations of synthesis by rule (Klatt 1979), rounded down to
the aligner's 10 ms, of which each of its phones has three."""

HAIR = 1e-6
"""In seconds: times are kept in millionths."""


def needed(ipa: str) -> float:
    """Return how long a sound lasts at least, in seconds."""
    return VOWEL_SECONDS if is_vowel(ipa) else CONSONANT_SECONDS


def with_room(edges: Sequence[float], held: Sequence[bool], needs: Sequence[float]) -> list[float]:
    """Return edges in order between which there is as much as is needed, those that are held where they were; between
    two held ones with less than they need in all, all stay. needs: (edges - 1,) seconds, 0 for a pause."""
    found = list(edges)
    fixed = [at for at, own in enumerate(held) if own]
    for first, last in itertools.pairwise(fixed):
        if found[last] - found[first] < sum(needs[first:last]) - HAIR:
            continue
        for at in range(first + 1, last):
            found[at] = max(found[at], found[at - 1] + needs[at - 1])
        for at in range(last - 1, first, -1):
            found[at] = min(found[at], found[at + 1] - needs[at])
    return found
