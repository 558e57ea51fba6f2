"""A production's shots as its board shows them, in as many questions to the database whatever their number."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.utils import timezone
from django.utils.safestring import SafeString, mark_safe

from tinfork.web.accounts.names import name_of
from tinfork.web.faces.portraits import portraits
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, may
from tinfork.web.rushes.reviewing import Review, reviews
from tinfork.web.shots.changing import in_film_order, last_step
from tinfork.web.shots.models import Shot
from tinfork.web.sound.document import addresses
from tinfork.web.sound.models import SoundFile

from .facts import DrawnClip, Facts, drawn, known_facts
from .states import Progress, State, is_late, progress, state_of

_MOST_FACES = 3


@dataclass(frozen=True)
class Row:
    """A shot as its board shows it; facts: what there is of its scene."""

    scene: Scene
    shot: Shot
    facts: Facts
    state: State
    late: bool
    sequence: str
    clips: list[dict[str, Any]]

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.facts.frames / float(self.scene.fps)

    @property
    def who(self) -> str:
        """Whose it is, in words."""
        return name_of(self.shot.who) if self.shot.who else ""

    @property
    def document(self) -> dict[str, Any]:
        """It as the page draws it."""
        scene, shot = self.scene, self.shot
        return {
            "id": scene.pk,
            "name": scene.name,
            "number": shot.number,
            "state": self.state,
            "who": self.who,
            "sequence": self.sequence,
            "due": shot.due.isoformat() if shot.due else "",
            "priority": shot.priority,
            "late": self.late,
            "frames": self.facts.frames,
            "fps": float(scene.fps),
            "begun": self.facts.sound,
            "speakers": self.facts.speakers[:_MOST_FACES],
            "clips": self.clips,
        }


def board_document(person: Person, production: Production, archived: bool = False) -> dict[str, Any]:
    """Return what a board draws, anew after each change. archived: the shots that are put away, instead of the
    others."""
    found = rows(production, archived)
    step = last_step(person, production) if may(person, production, "edit") else None
    return {
        "rows": [row.document for row in found],
        "progress": [
            {
                "name": part.name,
                "counts": [[state, count] for state, count in part.counts],
                "shots": part.shots,
                "finished": part.finished,
                "late": part.late,
                "seconds": part.seconds,
            }
            for part in _progress(found)
        ],
        "undo": step.text if step else "",
    }


def portraits_of(production: Production) -> list[SafeString]:
    """Return the faces of a production's cast, each once, to be shown in many places by its id."""
    faces = portraits(production.characters.all())
    return [mark_safe(svg.replace("<svg", f'<svg id="portrait-{pk}"', 1)) for pk, svg in faces.items()]


def rows(production: Production, archived: bool = False) -> list[Row]:
    """Return the shots of a production in their order."""
    own = production.scenes.filter(shot__archived__isnull=not archived).select_related("shot__who")
    scenes = list(in_film_order(own))
    known, shown, today = known_facts(scenes), reviews(production, scenes), timezone.localdate()
    names = dict(production.sequences.values_list("pk", "name"))
    peaks = _peaks(clip for facts, *_ in known.values() for clip in facts.clips)
    return [_row(scene, *known[scene.pk][:2], shown.get(scene.pk), names, peaks, today) for scene in scenes]


def _row(
    scene: Scene,
    facts: Facts,
    wrong: int | None,
    review: Review | None,
    names: dict[int, str],
    peaks: dict[tuple[int, int], str],
    today: date,
) -> Row:
    shot = getattr(scene, "shot", None) or Shot(scene=scene)
    state = state_of(facts, wrong, review)
    late = is_late(state, shot.due, today)
    return Row(scene, shot, facts, state, late, names.get(shot.sequence_id or 0, ""), drawn(facts.clips, peaks))


def _peaks(clips: Iterable[DrawnClip]) -> dict[tuple[int, int], str]:
    """The addresses of the peaks that clips are drawn by."""
    wanted = {(clip.sound, clip.channel) for clip in clips}
    sounds = SoundFile.objects.in_bulk({sound for sound, _ in wanted})
    return {
        (sound, channel): addresses(sounds[sound], channel)["peaks"] for sound, channel in wanted if sound in sounds
    }


def _progress(found: list[Row]) -> list[Progress]:
    """How far the film is, and where it has sequences each of them; what is in none comes last."""
    names = sorted({row.sequence for row in found}, key=lambda name: (not name, _first(found, name)))
    if names in ([], [""]):
        return [progress("The film", _states_of(found))]
    parts = [progress(name or "In no sequence", _states_of(r for r in found if r.sequence == name)) for name in names]
    return [progress("The film", _states_of(found)), *parts]


def _first(found: list[Row], name: str) -> int:
    return next(place for place, row in enumerate(found) if row.sequence == name)


def _states_of(found: Iterable[Row]) -> list[tuple[State, bool, float]]:
    return [(row.state, row.late, row.seconds) for row in found]
