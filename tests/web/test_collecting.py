"""What is not used any more is looked for after answers."""

import gc
import weakref
from collections.abc import Iterator

import pytest
from django.core.signals import request_finished
from django.db import close_old_connections

from tinfork.web.collecting import collect_after_answers


@pytest.fixture(autouse=True)
def _as_it_was() -> Iterator[None]:
    before = gc.get_threshold()
    request_finished.disconnect(close_old_connections)  # there is none to be closed
    yield
    request_finished.connect(close_old_connections)
    gc.set_threshold(*before)
    gc.unfreeze()
    request_finished.disconnect(dispatch_uid="collect after answers")


class Ring:
    """Something that only collecting lets go of."""

    def __init__(self) -> None:
        self.self = self


def grown_old() -> "weakref.ref[Ring]":
    """A ring that nobody has any more, after all that is looked through often."""
    ring = Ring()
    gc.collect(1)
    return weakref.ref(ring)


def answered(objects: int) -> None:
    """An answer that leaves so many young objects."""
    made = [[number] for number in range(objects)]
    request_finished.send(sender=None)
    assert len(made) == objects


def test_what_edits_leave_behind_goes_after_some_answers_and_not_within_one():
    collect_after_answers()
    left = grown_old()
    made = [[number] for number in range(400_000)]
    young = weakref.ref(Ring())
    more = [[number] for number in range(50_000)]
    assert left() is not None and young() is not None and len(made + more) == 450_000
    answered(0)
    assert young() is None
    for _ in range(4):
        answered(30_000)
    assert left() is None


def test_not_after_every_answer():
    collect_after_answers()
    left, young = grown_old(), weakref.ref(Ring())
    answered(1_000)
    assert left() is not None and young() is not None
