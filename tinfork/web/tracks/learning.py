"""What a person corrects again and again is offered as a rule of the character's, with every place it would change."""

from dataclasses import asdict
from typing import Any

from django.db import transaction

from tinfork.core.errors import TrackError
from tinfork.core.exposure import habits, plan
from tinfork.core.exposure.curves import targets_of
from tinfork.core.exposure.track import Exposure, Pin
from tinfork.core.speech.phones import KEYBOARD
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person
from tinfork.web.staves.models import SoundRule, Stave
from tinfork.web.staves.mouths import mouths_of, rules_now
from tinfork.web.staves.placing import Placed, placed_now
from tinfork.web.staves.planning import articulation, planned, sounds_on, with_rules

AROUND = 48
MOST_PINS = 60
"""No more of the pins set last are looked at."""


def habits_of(placed: Placed) -> dict[str, Any]:
    """What might be a rule, and the rules the character keeps, each with whether it holds in this scene."""
    stave = placed.stave
    here = {ipa: drawing for ipa, drawing, _ in stave.rules}
    kept = {ipa: drawing for ipa, drawing, _ in rules_now(stave.character)}
    rules = [{"ipa": ipa, "drawing": name, "here": here.get(ipa) == name} for ipa, name in (here | kept).items()]
    return {"offers": [asdict(one) for one in _offers(placed) if here.get(one.ipa) != one.drawing], "rules": rules}


def _offers(placed: Placed) -> tuple[habits.Habit, ...]:
    """The habits among the pins that were chosen. Only where the same was chosen often is it planned without the pin,
    to see whether it would be there anyway."""
    chosen = [pin for pin in placed.pins.shown if pin.chosen][-MOST_PINS:]
    sounds = [(pin, ipa) for pin in chosen if (ipa := _sound_of(placed, pin))]
    often = {(one.ipa, one.drawing) for one in habits.habits((ipa, pin.drawing) for pin, ipa in sounds)}
    likely = [(pin, ipa) for pin, ipa in sounds if (ipa, pin.drawing) in often]
    return habits.habits((ipa, pin.drawing) for pin, ipa in likely if habits.is_correction(pin, _without(placed, pin)))


def _around(placed: Placed, pin: Pin) -> range:
    return range(max(0, pin.frame - AROUND), min(placed.frames, pin.end + AROUND))


def _sound_of(placed: Placed, pin: Pin) -> str:
    """The sound a pin is set for, in IPA; "" for none."""
    sounds = sounds_on(placed, _around(placed, pin))
    number = habits.sound_of(pin, targets_of(sounds, placed.allowed), placed.rate, placed.stave.lead)
    return "" if number is None else sounds[number].ipa


def _without(placed: Placed, pin: Pin) -> tuple[Exposure, ...]:
    """What would be planned around a pin if nothing were pinned."""
    stave, shape = placed.stave, articulation(placed, _around(placed, pin))
    return plan.exposures(shape, mouths_of(stave).basis, stave.settings_value, (), placed.passages)


def preview(stave: Stave, ipa: str, drawing: str) -> list[dict[str, Any]]:
    """Every place in the scene that a rule would change; pins stay as they are."""
    placed = planned(stave)
    before = placed.stave.track.exposures()
    after = with_rules(placed, _with_rule(placed.stave, ipa, drawing))
    return [asdict(one) for one in habits.changed(before, after)]


def _with_rule(stave: Stave, ipa: str, drawing: str) -> list[list[Any]]:
    own = mouths_of(stave)
    own.check(drawing)
    if not drawing or ipa not in _signs(stave):
        raise TrackError("A rule is for one sound and one drawing of the chart.")
    return [*(rule for rule in stave.rules if rule[0] != ipa), [ipa, drawing, list(own.place_of(drawing))]]


def _signs(stave: Stave) -> set[str]:
    """The sounds that can be picked, and those that are heard in a stave."""
    placed = placed_now(stave)
    return {sound.ipa for sound in sounds_on(placed, range(placed.frames))}.union(*KEYBOARD)


@transaction.atomic
def make_rule(person: Person, stave: Stave, version: int, ipa: str, drawing: str) -> Stave:
    """A sound is shown by one drawing wherever nobody decided otherwise; the character keeps that."""
    stave = edits.locked(person, stave, version)
    rules = _with_rule(stave, ipa, drawing)
    SoundRule.objects.update_or_create(
        character=stave.character, ipa=ipa, defaults={"drawing": drawing, "place": rules[-1][2]}
    )
    return edits.change(person, stave, f"rule for /{ipa}/", {"rules": rules})


@transaction.atomic
def drop_rule(person: Person, stave: Stave, version: int, ipa: str) -> Stave:
    """A rule taken back: the character no longer keeps it, and this scene follows from the sound again."""
    stave = edits.locked(person, stave, version)
    gone = SoundRule.objects.filter(character=stave.character, ipa=ipa).delete()[0]
    rules = [rule for rule in stave.rules if rule[0] != ipa]
    if not gone and rules == stave.rules:
        raise TrackError("There is no rule for this sound.")
    return edits.change(person, stave, f"no rule for /{ipa}/", {"rules": rules})
