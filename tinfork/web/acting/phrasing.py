"""What is said of phrases, and what is wished of the proposals."""

from django.db import transaction

from tinfork.core.acting.blinks import LEAST_RATE, MOST_RATE
from tinfork.core.acting.framing import FRAMINGS
from tinfork.core.acting.temper import TEMPERS
from tinfork.core.errors import ActingError
from tinfork.core.plain import plain
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Character
from tinfork.web.productions.permissions import Person

from .models import Acting, PhraseNotes
from .staging import Stage, stage_of

MOST_MOMENTS, MOST_NOTE = 40, 2_000


@transaction.atomic
def set_phrase(
    person: Person,
    acting: Acting,
    version: int,
    line: int,
    note: str | None,
    amount: float | None,
    locked: bool | None,
    moments: list[int] | None,
) -> Acting:
    """What is said of a phrase; what is not given stays. A phrase that is locked can only be unlocked."""
    held = edits.locked(person, acting, version)
    stage, notes = stage_of(held), held.notes
    stage.line(line)
    own = notes.get(line, PhraseNotes())
    if own.locked and locked is not False:
        raise ActingError("This phrase is locked; unlock it first.")
    if amount is not None and not 0.0 <= amount <= 3.0:
        raise ActingError("The amount of a phrase goes from 0 to 3; 1 is as proposed.")
    if (note is not None and len(note) > MOST_NOTE) or (moments is not None and len(moments) > MOST_MOMENTS):
        raise ActingError(f"A note has {MOST_NOTE:,} characters and {MOST_MOMENTS} key moments at the most.")
    if amount is not None and amount != own.amount:
        _check_amount(stage, line, amount)
    new = PhraseNotes(
        own.note if note is None else note,
        own.moments if moments is None else tuple(stage.where.anchored(frame, 0) for frame in sorted(set(moments))),
        own.amount if amount is None else amount,
        own.locked if locked is None else locked,
        own.again,
    )
    verb = "lock phrase" if locked else "unlock phrase" if locked is not None else "note phrase"
    return edits.change(person, held, verb, {"phrases": {**held.phrases, str(line): plain(new)}})


def _check_amount(stage: Stage, line: int, amount: float) -> None:
    """ActingError where gestures of a phrase reach into another that is locked, and would be seen otherwise there."""
    for lane in stage.acting.all_lanes().values() if stage.locked else ():
        own = [one for one in stage.place(lane).gestures if one.gesture.line == line]
        if any(one.frame < frames.stop and frames.start < one.end for one in own for frames in stage.locked):
            raise ActingError("A gesture of this phrase reaches into one that is locked; unlock that first.")


@transaction.atomic
def set_wish(
    person: Person,
    acting: Acting,
    version: int,
    rate: float | None,
    seed: int | None,
    eyes_first: int | None,
    amount: float | None,
    temper: str | None = None,
    framing: str | None = None,
) -> Acting:
    """What is left to the proposals, and how much of all gestures is seen. A temper is the character's from now on, in
    scenes that are new to them."""
    held = edits.locked(person, acting, version)
    if rate is not None and not LEAST_RATE <= rate <= MOST_RATE:
        raise ActingError(f"Blinks go from {LEAST_RATE:.0f} to {MOST_RATE:.0f} a minute.")
    if seed is not None and not 1 <= seed <= 1_000_000:
        raise ActingError("A seed is a number from 1 to 1,000,000.")
    if eyes_first is not None and not 0 <= eyes_first <= 24:
        raise ActingError("Eyes go 0 to 24 frames before the head.")
    if amount is not None and not 0.0 <= amount <= 3.0:
        raise ActingError("The amount of all gestures goes from 0 to 3; 1 is as proposed.")
    if amount is not None and amount != held.amount and stage_of(held).locked:
        raise ActingError("A phrase of this scene is locked; unlock it before the amount of all is changed.")
    if temper is not None and temper not in TEMPERS:
        raise ActingError(f"A temper is one of {', '.join(TEMPERS)}.")
    if framing is not None and framing not in FRAMINGS:
        raise ActingError(f"A framing is one of {', '.join(FRAMINGS)}.")
    if temper is not None:
        Character.objects.filter(pk=held.character_id).update(temper=temper)
    given = {
        "rate": rate,
        "seed": seed,
        "eyes_first": eyes_first,
        "amount": amount,
        "temper": temper,
        "framing": framing,
    }
    return edits.change(person, held, "acting settings", {k: v for k, v in given.items() if v is not None})
