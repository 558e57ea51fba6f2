"""What is done with the mouths of many shots at once: in each of them a step that is undone there, and on the board one
that takes all of them back."""

from collections.abc import Iterator
from typing import Annotated, Any

from django.db import transaction
from msgspec import Meta, Struct

from tinfork.core.errors import TinForkError
from tinfork.core.limits import MAX_CAST
from tinfork.web.edits import history
from tinfork.web.edits.actions import lock_scene, one_step
from tinfork.web.edits.models import Edit
from tinfork.web.edits.requests import Integer, Number
from tinfork.web.productions.actions import remove
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, check, number_of
from tinfork.web.shots import changing
from tinfork.web.shots.models import BoardStep, Shot
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.models import Stave
from tinfork.web.tracks.deciding import change_settings
from tinfork.web.tracks.ranging import set_mood

MOST_AT_ONCE = 300
STEP, PLACE, MADE = "step", "place", "made"
"""How a step of the board calls what it did in a scene's history, where it put it in the film, and that it made it."""


class Mouths(Struct, frozen=True, forbid_unknown_fields=True):
    """What is to be of the mouths of some shots; what is None stays. characters: whose, by their numbers; nobody for
    everybody's. mood: over all of the shot, "" for the character's own; chart: whose drawings are shown, by its
    number."""

    scenes: Annotated[list[Integer], Meta(max_length=MOST_AT_ONCE)]
    characters: Annotated[list[Integer], Meta(max_length=MAX_CAST)] = []
    hold: Integer | None = None
    lead: Integer | None = None
    detail: Number | None = None
    step: Integer | None = None
    mood: str | None = None
    chart: Integer = 0

    @property
    def settings(self) -> dict[str, int | float]:
        """What of the settings is to be another."""
        asked = {"hold": self.hold, "lead": self.lead, "detail": self.detail, "step": self.step}
        return {name: value for name, value in asked.items() if value is not None}


def change_mouths(person: Person, production: Production, asked: Mouths) -> str:
    """Change the mouths of many shots. Return what was done, in words; where it cannot be done in one of them, it is
    said, and the others are changed. TinForkError where it can in none."""
    check(person, production, "edit")
    if not asked.scenes:
        raise TinForkError("Choose shots first: tick them in the list.")
    if not asked.settings and asked.mood is None and not asked.chart:
        raise TinForkError("Say what is to be another: a setting, a mood, or drawings.")
    done, left = [], []
    for scene in production.scenes.filter(pk__in=asked.scenes).select_related("production"):
        try:
            if step := _change(person, scene, asked):
                done.append((scene.pk, step))
        except TinForkError as refused:
            left.append(f"{scene}: {refused}")
    if not done and left:
        raise TinForkError(left[0])
    text = f"change the mouths of {len(done)} shot{'' if len(done) == 1 else 's'}"
    if done:
        with transaction.atomic():
            changing.keep_step(person, production, text, [(scene, STEP, None, step) for scene, step in done])
    more = f" {len(left)} left out, the first: {left[0]}" if left else ""
    return f"{text.capitalize()}.{more}" if done else "All of them are so already."


@transaction.atomic
def _change(person: Person, scene: Scene, asked: Mouths) -> int | None:
    """Change one shot; the step of its history, None where it was so already."""
    lock_scene(scene)
    before = _last(scene)
    staves = list(_staves(scene, asked))
    if not staves:
        raise TinForkError("nobody of these has mouths here")
    with one_step():
        for stave in staves:
            if asked.settings:
                own = stave.settings_value
                now = {"hold": own.hold, "lead": own.lead, "detail": own.detail, "step": own.step} | asked.settings
                change_settings(person, stave, None, **now)  # type: ignore[arg-type]
            if asked.mood is not None or asked.chart:
                frames = arrangement_of(scene).value.frames
                set_mood(person, stave, None, 0, frames, asked.mood or "", asked.chart)
    after = _last(scene)
    return after if after != before else None


def _staves(scene: Scene, asked: Mouths) -> Iterator[Stave]:
    for stave in scene.staves.select_related("character"):
        stave.scene = scene
        if stave.has_mouths and (not asked.characters or stave.character_id in asked.characters):
            yield stave


def _last(scene: Scene) -> int | None:
    own = Edit.objects.of_scene(scene, undone=False).last()
    return own.step if own else None


def undo(person: Person, production: Production) -> str:
    """Take back what a person did last on a board, in the shots' own histories too. What was done since stays. Return
    what was taken back, in words."""
    check(person, production, "edit")
    step = changing.last_step(person, production)
    if step is None or not any(field in (STEP, PLACE, MADE) for _, field, *_ in step.changes):
        return changing.undo(person, production)
    return _undo(person, step)


@transaction.atomic
def _undo(person: Person, step: BoardStep) -> str:
    left = []
    for scene, name, before, now in step.changes:
        found = Scene.objects.filter(pk=scene, production=step.production).select_related("production").first()
        try:
            if found:
                _take_back(person, found, name, before, now)
        except TinForkError as refused:
            left.append(f"{found}: {refused}")
    BoardStep.objects.filter(pk=step.pk, person=number_of(person)).update(undone=True)
    more = f" {len(left)} stay, the first: {left[0]}" if left else ""
    return f"Taken back: {step.text}.{more}"


def _take_back(person: Person, scene: Scene, name: str, before: Any, now: Any) -> None:
    """Take back what a step did with a shot, where that is still so."""
    if name == STEP:
        history.take_back(person, scene, now)
    elif name == PLACE:
        Scene.objects.filter(pk=scene.pk, place=now).update(place=before)
    elif name == MADE:
        remove(person, scene)
    else:
        Shot.objects.filter(scene=scene).update(**{name: before})
