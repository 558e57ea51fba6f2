"""A scene as a shot to be handed over, and the files made of it."""

import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path

import msgspec

from tinfork.core.formats import joined, registry
from tinfork.core.formats.joined import Screened
from tinfork.core.mouths.picture import Picture
from tinfork.core.mouths.picture import open_picture as opened_picture
from tinfork.core.script.casting import clips_of
from tinfork.core.shot.behind import Strip
from tinfork.core.shot.shot import Shot
from tinfork.core.sound import arrangement, mix
from tinfork.core.timebase import frame_time
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.shots.changing import in_film_order
from tinfork.web.shots.models import Shot as ShotRow
from tinfork.web.sound.actions import local_file
from tinfork.web.sound.arranging import arrangement_of, filmed, pieces_of
from tinfork.web.sound.listening import open_sounds
from tinfork.web.sound.models import Arrangement

from .keeping import Material, Versions, material_of
from .models import Handover, backdrop_of
from .placing import Place, place_of
from .wishes import Wish, called, joined_files, parts, scene_as_wished

Report = Callable[[float], None]


def shot_of(
    scene: Scene,
    material: Material,
    frames: range,
    sound: Path,
    film: Sequence[Strip] = (),
    backdrop: Picture | None = None,
) -> Shot:
    """Return a scene cut to some of its frames, with those who are in it. sound: where to write what is heard: of one
    alone their clips, of several everything that is not muted; film, backdrop: what lies behind them."""
    arranged, roles = material.arrangement, tuple(material.roles)
    span = range(frames.start, min(frames.stop, arranged.frames))
    whole = Shot(scene.name, scene.fps, scene.start_frame, roles, film=tuple(film), backdrop=backdrop).between(span)
    with open_sounds() as path_of:
        if len(roles) == 1:
            pieces = pieces_of(clips_of(arranged, material.characters[0]), scene, path_of)
        else:
            tracks = arrangement.heard_tracks(arranged)
            pieces = [one for track in tracks for one in pieces_of(track.clips, scene, path_of, track.gain)]
        mix.write(sound, pieces, len(span) / float(scene.fps), frame_time(span.start, scene.fps))
    return replace(whole, sound=sound)


def film_of(document: Arrangement, stack: ExitStack) -> list[Strip]:
    """Return the pictures of the videos whose sound lies in a scene. stack: their files hold as long as it does."""
    rate = float(document.scene.fps)
    return [
        Strip(stack.enter_context(local_file(sound.original)), c.start, c.start + c.frames, c.offset / rate)
        for c, sound in filmed(document)
    ]


def make_handover(job: Job, report: Report) -> None:
    """All files that a hand-over asks for, one after the other; a scene is made ready once for all of its files."""
    asked = Handover.objects.get(job=job)
    wish = msgspec.convert(asked.wish, Wish)
    own = Scene.objects.filter(pk__in=[job.scene_id, *wish.scenes]).select_related("production")
    scenes = list(in_film_order(own))
    of: dict[str, Versions] = {}
    steps = len(scenes) * (1 + len(wish.joins))
    with place_of(asked, wish, scenes) as place:
        for number, scene in enumerate(scenes):

            def share(done: float, number: int = number) -> None:
                report((number + done) / steps)

            of[str(scene.pk)] = _make(place, scene, wish, share)
        for at, kind in enumerate(wish.joins, 1):

            def joined(done: float, at: int = at) -> None:
                report((at + done) * len(scenes) / steps)

            _join(place, kind, scenes, wish, joined)
    Handover.objects.filter(pk=asked.pk).update(of=of)


def _make(place: Place, scene: Scene, wish: Wish, report: Report) -> Versions:
    """The files of one scene; the versions of what they were made of."""
    material = material_of(wish, scene)
    scene = scene_as_wished(wish, scene)
    everybody = list(zip(material.characters, material.roles, strict=True))
    names = {number: role.name for number, role in everybody}
    how, groups = wish.how(names), parts(wish, everybody)
    work = [(kind, number) for kind in wish.alone for number in range(len(groups))]
    with tempfile.TemporaryDirectory() as folder, ExitStack() as stack:
        path = Path(folder) / "made"
        some = [material.of_some([number for number, _ in group]) for group in groups] if work else []
        shots = [_shot(scene, wish, own, Path(folder) / f"sound {at}.flac", stack) for at, own in enumerate(some)]
        for at, (kind, number) in enumerate(work):

            def share(done: float, at: int = at) -> None:
                report((at + done) / len(work))

            registry.write(kind, path, shots[number], how, share)
            who = [role.name for _, role in groups[number]]
            place.put(path, called(kind, scene, who, list(names.values())), scene)
    return material.of


def _shot(scene: Scene, wish: Wish, material: Material, sound: Path, stack: ExitStack) -> Shot:
    """A scene as it is wished for, with what lies behind it. stack: the files hold as long as it does."""
    film = film_of(arrangement_of(scene), stack) if wish.film else []
    behind = backdrop_of(scene) if wish.backdrop else None
    backdrop = opened_picture("The picture behind everybody", behind.data) if behind else None
    return shot_of(scene, material, wish.frames(scene), sound, film, backdrop)


def _join(place: Place, kind: str, scenes: Sequence[Scene], wish: Wish, report: Report) -> None:
    """The film of all scenes, one after another."""
    numbers = dict(ShotRow.objects.filter(scene__in=scenes).values_list("scene", "number"))

    def shots(folder: str, stack: ExitStack) -> Iterator[Screened]:
        for scene in scenes:
            material = material_of(wish, scene)
            sound = Path(folder) / "sound.flac"
            shot = _shot(scene, wish, material, sound, stack)
            how = wish.how(dict(zip(material.characters, (role.name for role in material.roles), strict=True)))
            slate = _slate(scene, numbers.get(scene.pk, ""), shot) if wish.slates else ()
            yield Screened(shot, how.look, slate)

    codec = registry.FORMATS[kind].codec
    assert codec is not None
    with tempfile.TemporaryDirectory() as folder, ExitStack() as stack:
        path = Path(folder) / "made"
        joined.write(path, shots(folder, stack), len(scenes), codec, report)
        (row,) = (one for one in joined_files(wish, scenes[0]) if one["name"].endswith(registry.FORMATS[kind].suffix))
        place.put(path, row["name"])


def _slate(scene: Scene, number: str, shot: Shot) -> list[str]:
    """What stands before a shot: its number and name, the production, and its frames."""
    frames = f"{shot.start_frame} to {shot.start_frame + shot.frames - 1}, {scene.rate} fps"
    return [line for line in (number, scene.name, scene.production.name, frames) if line]
