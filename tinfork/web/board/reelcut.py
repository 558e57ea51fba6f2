"""Shots of a film that is cut already, as an OpenTimelineIO timeline says where."""

from collections.abc import Sequence
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.formats import cut_in
from tinfork.core.timebase import format_rate
from tinfork.web.files.aside import aside
from tinfork.web.productions.actions import create_scene, free_scene_name, hold
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.sound import arranging
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.models import SoundFile
from tinfork.web.sound.reels import ask_for_reel

_MOST_TOLD = 8


def shots_of_cut(
    person: Person,
    production: Production,
    film: "UploadedFile[Any] | None",
    cut: "UploadedFile[Any] | None",
    first: str,
) -> str:
    """Make the shots of a film's cut, each with its stretch of the film's sound and picture. Return what was done, in
    words."""
    check(person, production, "edit")
    if film is None or cut is None:
        raise SoundError("Choose both: the film, or its sound, and its cut as an OpenTimelineIO file.")
    found = read_cut(cut)
    sound = bring_in(person, production, film)
    left = list(found.left)
    made: list[Scene] = []
    with transaction.atomic():
        hold(production)
        for shot in found.shots:
            try:
                with transaction.atomic():
                    made.append(_shot_of(person, production, sound, found, shot, first))
            except TinForkError as refused:
                left.append(f"“{shot.name}”: {refused}")
        if not made:
            raise TinForkError(f"No shot could be made: {_list_left(left)}")
        ask_for_reel(person, made[0], sound)
    return f"{len(made)} shots made." + (f" {len(left)} left out: {_list_left(left)}" if left else "")


def _list_left(left: Sequence[str]) -> str:
    more = f"; and {len(left) - _MOST_TOLD} more" if len(left) > _MOST_TOLD else ""
    return f"{'; '.join(left[:_MOST_TOLD])}{more}."


def read_cut(cut: "UploadedFile[Any]") -> cut_in.FilmCut:
    """Return the cut in a file that was sent. SoundError where it is none."""
    if (cut.size or 0) > cut_in.MOST_BYTES:
        raise SoundError(f"A cut has {cut_in.MOST_BYTES // 1_000_000} MB at the most.")
    with TemporaryDirectory() as folder:
        path = Path(folder) / "cut.otio"
        path.write_bytes(cut.read())
        return aside(cut_in.read, path)


def _shot_of(
    person: Person, production: Production, sound: SoundFile, cut: cut_in.FilmCut, shot: cut_in.CutShot, first: str
) -> Scene:
    if shot.start / float(cut.rate) >= sound.seconds:
        raise SoundError("it lies behind the end of the film")
    scene = create_scene(person, production, free_scene_name(production, shot.name), format_rate(cut.rate), first)
    arranging.place_part(person, arranging.arrangement_of(scene), sound, shot.start, shot.frames)
    return scene
