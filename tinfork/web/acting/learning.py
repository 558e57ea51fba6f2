"""What is learned of a character: which kinds of what is proposed for their head people keep, and which they throw away
or turn down. It shifts what is proposed next, is shown beside the proposals, and can be forgotten there."""

from collections.abc import Iterable

from django.db import transaction

from tinfork.core.acting.lanes import Gesture
from tinfork.core.acting.temper import ACCENTS
from tinfork.core.mouths.parts import HEAD, Part
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Character
from tinfork.web.productions.permissions import Person

from .models import Acting

TURNED_DOWN = 0.5
"""From so little of a gesture on it was not liked."""


def kinds_of(part: Part, gestures: Iterable[Gesture]) -> list[str]:
    """Return the kinds that are learned of: what a head does on words. The other parts do the same."""
    return [one.kind for one in gestures if part.role == HEAD and one.kind in ACCENTS]


def learn(acting: Acting, kept: Iterable[str] = (), dropped: Iterable[str] = ()) -> None:
    """Count kinds that were kept, and that were thrown away or turned down."""
    kept, dropped = list(kept), list(dropped)
    if not kept and not dropped:
        return
    character = Character.objects.select_for_update().get(pk=acting.character_id)
    for place, kinds in enumerate((kept, dropped)):
        for kind in kinds:
            own = character.learned.setdefault(kind, [0, 0])
            own[place] += 1
    character.save(update_fields=["learned"])
    acting.character.learned = character.learned


@transaction.atomic
def forget(person: Person, acting: Acting, version: int) -> Acting:
    """Forget all that was learned of a character."""
    held = edits.locked(person, acting, version)
    Character.objects.filter(pk=held.character_id).update(learned={})
    held.character.learned = {}
    return held
