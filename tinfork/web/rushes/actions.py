"""Versions shown for review, what is said of them, and notes on frames. None of it is a step of undo: it is kept."""

from collections.abc import Iterable
from typing import Annotated

from django.db import transaction
from django.urls import reverse
from django.utils import timezone
from msgspec import Meta, Struct

from tinfork.core.errors import TinForkError
from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.web.accounts.names import name_of
from tinfork.web.announcing import announce
from tinfork.web.cleaning import clean
from tinfork.web.edits.actions import lock_scene
from tinfork.web.edits.requests import Integer
from tinfork.web.handover.keeping import keep, packed, versions_now
from tinfork.web.handover.models import Version
from tinfork.web.handover.roles import staves_of
from tinfork.web.notices.noticing import notify
from tinfork.web.people.models import WatchLink
from tinfork.web.productions.actions import checked_name
from tinfork.web.productions.models import Membership, Scene
from tinfork.web.productions.permissions import REVIEWERS, Person, check, number_of
from tinfork.web.shots.models import Shot

from .models import Comment, Verdict

MOST_CHARACTERS = 4_000
MOST_COMMENTS = 2_000
MOST_POINTS = 400
MOST_OF_A_LINK = 200
"""So many notes are written by a link; whoever has it may hand it on."""

_GONE = "This note is gone; reload the page."

Share = Annotated[float, Meta(ge=0, le=1)]


class Note(Struct, frozen=True, forbid_unknown_fields=True):
    """A note to be kept; see Comment. version: the number of the one that was looked at, 0 for the shot as it is; on:
    the note it answers, 0 for none."""

    text: str
    frame: Annotated[int, Meta(ge=0, le=MAX_SCENE_FRAMES)] = 0
    end: Annotated[int, Meta(ge=0, le=MAX_SCENE_FRAMES)] = 0
    place: tuple[Share, Share] | None = None
    line: Annotated[list[tuple[Share, Share]], Meta(max_length=MOST_POINTS)] = []
    version: Integer = 0
    on: Integer = 0


@transaction.atomic
def show_for_review(person: Person, scene: Scene) -> Version:
    """Keep a shot as it is now, for somebody to look at. TinForkError where there is nothing to look at, or nothing
    new."""
    check(person, scene.production, "edit")
    lock_scene(scene)
    if not staves_of(scene):
        raise TinForkError("Nobody has mouths here yet; read the sound first.")
    now = versions_now([scene])[scene.pk]
    last = scene.shown_versions.defer("kept").first()
    if last and last.of == now:
        raise TinForkError(f"Nothing has changed since version {last.number}; that one is shown already.")
    number = last.number + 1 if last else 1
    kept = keep(scene)
    judges = Membership.objects.filter(production=scene.production_id, role__in=REVIEWERS)
    _tell(name_of(person), person.pk, scene, judges.values_list("person", flat=True), f"shows version {number}")
    return Version.objects.create(
        scene=scene,
        number=number,
        person_id=number_of(person),
        name=name_of(person),
        of=now,
        frames=kept.arrangement.frames,
        rate=scene.rate,
        start_frame=scene.start_frame,
        who={str(n): role.name for n, role in zip(kept.characters, kept.roles, strict=True)},
        kept=packed(kept),
    )


@transaction.atomic
def judge(person: Person, scene: Scene, number: int, kind: str) -> Verdict:
    """Say of the newest version that it is approved, or that it wants changes. TinForkError where another is newer, or
    it was said already."""
    check(person, scene.production, "approve")
    lock_scene(scene)
    version = scene.shown_versions.defer("kept").first()
    if version is None or version.number != number:
        raise TinForkError("There is a newer version by now; reload the page and look at that one.")
    if kind not in Verdict.Kind.values:
        raise TinForkError("This could not be understood; reload the page and do it again.")
    last = version.verdicts.first()
    if last and last.kind == kind:
        raise TinForkError(f"{last.name} has said so already.")
    said = "approves" if kind == Verdict.Kind.APPROVED else "wants changes to"
    _tell(name_of(person), person.pk, scene, _concerned(scene), f"{said} version {number}")
    return version.verdicts.create(person_id=number_of(person), name=name_of(person), kind=kind)


@transaction.atomic
def write(person: Person, scene: Scene, note: Note) -> Comment:
    """Keep a note, or an answer to one."""
    check(person, scene.production, "comment")
    return _keep(scene, note, Comment(scene=scene, person_id=number_of(person), name=name_of(person)))


@transaction.atomic
def write_as_guest(link: WatchLink, scene: Scene, note: Note, name: str) -> Comment:
    """Keep a note of somebody who watches by a link, under the name they give."""
    if not link.may_comment:
        raise TinForkError("By this link one watches; ask who sent it for one to write notes by.")
    if link.comments.count() >= MOST_OF_A_LINK:
        raise TinForkError(f"{MOST_OF_A_LINK} notes were written by this link already; ask who sent it for another.")
    if not name.strip():
        raise TinForkError("Write your name first, so that it is known whose note this is.")
    return _keep(scene, note, Comment(scene=scene, link=link, guest=True, name=checked_name(name, "note")))


def _keep(scene: Scene, note: Note, comment: Comment) -> Comment:
    """Keep a note; comment: with who wrote it."""
    text = clean(note.text).strip()
    if not text:
        raise TinForkError("Write something first.")
    if len(text) > MOST_CHARACTERS:
        raise TinForkError(f"A note has up to {MOST_CHARACTERS:,} characters; this one has {len(text):,}.")
    if scene.comments.count() >= MOST_COMMENTS:
        raise TinForkError(f"There are {MOST_COMMENTS:,} notes here already; take some away first.")
    threads = scene.comments.filter(on=None, **({"link": comment.link} if comment.guest else {}))
    on = threads.filter(pk=note.on).first() if note.on else None
    if note.on and on is None:
        raise TinForkError(_GONE)
    asked = [on.person_id, *on.answers.values_list("person", flat=True)] if on else []
    frame = on.frame if on else note.frame
    doing = f"{'answers' if on else 'notes'} on frame {frame + scene.start_frame}: {text}"
    _tell(comment.who, comment.person_id, scene, [*_concerned(scene), *asked], doing, frame)
    comment.version, comment.on = scene.shown_versions.filter(number=note.version).first(), on
    comment.text, comment.frame, comment.end, comment.line = text, frame, max(frame, note.end), note.line
    comment.x, comment.y = note.place or (None, None)
    comment.save()
    return comment


def _concerned(scene: Scene) -> list[int]:
    """Whose the shot is, and who showed its newest version; where that is nobody, who owns the production."""
    whose = Shot.objects.filter(scene=scene).values_list("who", flat=True)
    found = [pk for pk in (*whose, *scene.shown_versions.values_list("person", flat=True)[:1]) if pk]
    owner = Membership.objects.filter(production=scene.production_id, role=Membership.Role.OWNER)
    return found or list(owner.values_list("person", flat=True))


def _tell(
    who: str, own: int | None, scene: Scene, others: Iterable[int | None], doing: str, frame: int | None = None
) -> None:
    """Tell open pages that the review is another, and some people what somebody did; own: the number of who did it,
    who knows."""
    announce("review", production=scene.production_id, scene=scene.pk)
    address = reverse("rushes", args=[scene.pk]) + ("" if frame is None else f"?frame={frame}")
    notify([one for one in others if one != own], scene.production, f"{who} {doing}", address, scene)


def _note(scene: Scene, number: int) -> Comment:
    found = scene.comments.filter(pk=number).first()
    if found is None:
        raise TinForkError(_GONE)
    return found


@transaction.atomic
def set_done(person: Person, scene: Scene, number: int, done: bool) -> None:
    """Say of a note that it is done, or that it is not."""
    check(person, scene.production, "comment")
    found = _note(scene, number)
    found.done, found.done_by_id = (timezone.now(), number_of(person)) if done else (None, None)
    found.save(update_fields=["done", "done_by"])
    _tell(name_of(person), person.pk, scene, [found.person_id] if done else [], f"has done: {found.text}", found.frame)


@transaction.atomic
def take_away(person: Person, scene: Scene, number: int) -> None:
    """Take away a note of one's own, with its answers. TinForkError for somebody else's."""
    check(person, scene.production, "comment")
    found = _note(scene, number)
    if found.person_id != number_of(person):
        raise TinForkError("Who wrote a note takes it away.")
    found.delete()
    _tell("", person.pk, scene, [], "")
