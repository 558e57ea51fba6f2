"""What is told of a shot's review: its versions with what was said of them, its notes, what changed since; and of many
shots how their reviews stand."""

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, TypeVar

from django.db.models import Prefetch, Q

from tinfork.core.following.clocked import exposures_at
from tinfork.core.mouths.face import VIEW
from tinfork.core.plain import plain
from tinfork.core.shot.flowing import flowing
from tinfork.core.shot.shot import Role
from tinfork.core.timebase import nearest_frame, parse_rate
from tinfork.web.accounts.names import name_of
from tinfork.web.handover.keeping import Versions, kept_in, versions_now
from tinfork.web.handover.models import Handover, Version
from tinfork.web.handover.roles import role_of, staves_of
from tinfork.web.jobs.models import Job
from tinfork.web.people.models import WatchLink
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, may
from tinfork.web.staves.mouths import face_document
from tinfork.web.staves.planning import planned

from .models import Comment, Verdict

T = TypeVar("T")

MOST_TOLD = 200
"""So many changed stretches are told."""


@dataclass(frozen=True)
class Review:
    """How the newest version of a shot stands. verdict: "approved", "changes", or "" for none yet; changed: whether the
    shot is another by now than this version; handed_over: whether this version was."""

    verdict: str
    changed: bool = False
    handed_over: bool = False


def reviews(production: Production, scenes: Iterable[Scene]) -> dict[int, Review]:
    """Return of scenes that were shown for review, by their numbers, how that stands; in as many questions to the
    database whatever their number."""
    newest: dict[int, Version] = {}
    shown = Version.objects.filter(scene__in=list(scenes)).defer("kept").order_by("number")
    for version in shown.select_related("scene").prefetch_related("verdicts"):
        newest[version.scene_id] = version
    if not newest:
        return {}
    now = versions_now(version.scene for version in newest.values())
    handed = _handed_over(production)
    return {pk: _review(version, now[pk], handed.get(pk, [])) for pk, version in newest.items()}


def _review(version: Version, now: Versions, handed: Iterable[Versions]) -> Review:
    said = next(iter(version.verdicts.all()), None)
    seen = {area: number for area, number in version.of.items() if not area.startswith("look ")}
    given = any(all(seen.get(area) == number for area, number in one.items()) for one in handed if one)
    return Review(said.kind if said else "", version.of != now, given)


def _handed_over(production: Production) -> dict[int, list[Versions]]:
    """Of what versions files were made, by scene."""
    found: dict[int, list[Versions]] = {}
    made = Handover.objects.filter(job__scene__production=production, job__state=Job.State.DONE)
    for of in made.values_list("of", flat=True):
        for scene, versions in of.items():
            found.setdefault(int(scene), []).append(versions)
    return found


def review_document(person: Person, scene: Scene) -> dict[str, Any]:
    """Return what a page tells of a shot's review."""
    said = Prefetch("verdicts", Verdict.objects.all())
    versions = list(scene.shown_versions.defer("kept").select_related("person").prefetch_related(said))
    now = versions_now([scene])[scene.pk] if versions else {}
    notes = scene.comments.select_related("version")
    return {
        "versions": [_version(one) for one in versions],
        "changed": bool(versions) and versions[0].of != now,
        "notes": [_note(one, person) for one in notes],
        "mayComment": may(person, scene.production, "comment"),
        "mayFinish": may(person, scene.production, "comment"),
        "mayApprove": may(person, scene.production, "approve"),
        "mayEdit": may(person, scene.production, "edit"),
    }


def _version(one: Version) -> dict[str, Any]:
    said = [{"kind": v.kind, "who": v.name, "when": v.made.isoformat(timespec="seconds")} for v in one.verdicts.all()]
    who = one.name or (name_of(one.person) if one.person else "somebody who left")
    return {"number": one.number, "who": who, "when": one.made.isoformat(timespec="seconds"), "said": said}


def guest_document(scene: Scene, link: WatchLink) -> dict[str, Any]:
    """Return what is told of a shot's review to somebody who watches it by a link: the notes that were written by that
    link, and what was answered."""
    own = scene.comments.filter(Q(link=link) | Q(on__link=link)).select_related("version")
    notes = own if link.may_comment else ()
    return {
        "versions": [],
        "changed": False,
        "notes": [_note(one) for one in notes],
        "mayComment": link.may_comment,
        "mayFinish": False,
        "mayApprove": False,
        "mayEdit": False,
    }


def _note(one: Comment, person: Person | None = None) -> dict[str, Any]:
    return {
        "id": one.pk,
        "on": one.on_id or 0,
        "who": one.who,
        "own": person is not None and one.person_id == person.pk,
        "text": one.text,
        "frame": one.frame,
        "end": one.end,
        "place": None if one.x is None else [one.x, one.y],
        "line": one.line,
        "version": one.version.number if one.version else 0,
        "done": bool(one.done),
        "when": one.made.isoformat(timespec="seconds"),
    }


def watched(version: Version) -> dict[str, Any]:
    """Return a version as a page shows it: of everybody their face with the drawings that are used, and what is seen on
    which frames."""
    ratio, kept = _ratio(version), kept_in(version.kept)
    return {"number": version.number, "roles": [role_document(role, ratio) for role in kept.roles]}


def _ratio(version: Version) -> Fraction:
    """How many frames the scene has now for one that it had then."""
    return version.scene.fps / parse_rate(version.rate)


def role_document(role: Role, ratio: Fraction = Fraction(1)) -> dict[str, Any]:
    """Return somebody as a page draws them without asking for more: their face with the drawings that are used, and
    what is seen on which frames. ratio: how many frames the page has for one of theirs."""
    role = flowing(role)
    poses = role.poses if role.acts else []
    return {
        "name": role.name,
        "chart": {
            "view": VIEW,
            **face_document(role.face),
            "drawings": [{"name": name, "svg": svg} for name, svg in role.drawn.items()],
        },
        "exposures": [
            {"frame": e.frame, "frames": e.frames, "drawing": e.drawing} for e in exposures_at(role.exposures, ratio)
        ],
        "eases": [[nearest_frame(frame * ratio), 1, over] for frame, over in role.eases.items()],
        "poses": plain(_resampled(poses, ratio)),
    }


def changed_since(version: Version, than: Version | None = None) -> list[dict[str, Any]]:
    """Return where what is seen differs from a version: of whom, on which frames, what was shown and what is now; at
    most MOST_TOLD stretches. than: another version, in place of the shot as it is now."""
    before = _roles_in(version)
    now = _roles_in(than) if than else {s.character_id: role_of(planned(s)) for s in staves_of(version.scene)}
    ratios = _ratio(version), _ratio(than) if than else Fraction(1)
    found: list[dict[str, Any]] = []
    for number in dict.fromkeys((*before, *now)):
        pairs = zip((before, now), ratios, strict=True)
        was, own = (_frames(roles[number], ratio) if number in roles else [] for roles, ratio in pairs)
        who = (now.get(number) or before[number]).name
        found += [{"who": who, **one} for one in _differ(was, own)]
    return found[:MOST_TOLD]


def _roles_in(version: Version) -> dict[int, Role]:
    kept = kept_in(version.kept)
    return dict(zip(kept.characters, kept.roles, strict=True))


def _resampled(frames: list[T], ratio: Fraction) -> list[T]:
    """What is on each frame where there are so many for each that there was."""
    if ratio == 1:
        return frames
    return [
        frames[min(int((n + Fraction(1, 2)) / ratio), len(frames) - 1)]
        for n in range(nearest_frame(len(frames) * ratio))
    ]


def _frames(role: Role, ratio: Fraction) -> list[str]:
    return [one.drawing for one in exposures_at(role.exposures, ratio) for _ in range(one.frames)]


def _differ(before: list[str], now: list[str]) -> list[dict[str, Any]]:
    """Stretches of frames that show something else, with what and what was before."""
    found: list[dict[str, Any]] = []
    for frame in range(max(len(before), len(now))):
        was, own = (one[frame] if frame < len(one) else "" for one in (before, now))
        if was == own:
            continue
        last = found[-1] if found else None
        if last and last["end"] == frame and (last["was"], last["now"]) == (was, own):
            last["end"] = frame + 1
        else:
            found.append({"frame": frame, "end": frame + 1, "was": was, "now": own})
    return found
