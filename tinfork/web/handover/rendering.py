"""A scene as a shot to be handed over, and the files made of it."""

import tempfile
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec

from tinfork.core.formats import registry
from tinfork.core.mouths.picture import Picture
from tinfork.core.mouths.picture import open_picture as opened_picture
from tinfork.core.script.casting import clips_of
from tinfork.core.shot.behind import Strip
from tinfork.core.shot.shot import Shot
from tinfork.core.sound import arrangement, mix
from tinfork.core.timebase import frame_time
from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.sound.actions import local_file
from tinfork.web.sound.arranging import arrangement_of, filmed, pieces_of
from tinfork.web.sound.listening import open_sounds
from tinfork.web.sound.models import Arrangement

from .keeping import Material, Versions, material_of
from .models import Handover, backdrop_of
from .wishes import Wish, called, parts

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
    scenes = list(Scene.objects.filter(pk__in=[job.scene_id, *wish.scenes]).select_related("production"))
    of = {}
    for number, scene in enumerate(scenes):

        def share(done: float, number: int = number) -> None:
            report((number + done) / len(scenes))

        of[str(scene.pk)] = _make(asked, scene, wish, share)
    Handover.objects.filter(pk=asked.pk).update(of=of)


def _make(asked: Handover, scene: Scene, wish: Wish, report: Report) -> Versions:
    """The files of one scene; the versions of what they were made of."""
    material = material_of(wish, scene)
    everybody = list(zip(material.characters, material.roles, strict=True))
    names = {number: role.name for number, role in everybody}
    how, groups = wish.how(names), parts(wish, everybody)
    with tempfile.TemporaryDirectory() as folder, ExitStack() as stack:
        path = Path(folder) / "made"
        film = film_of(arrangement_of(scene), stack) if wish.film else []
        behind = backdrop_of(scene) if wish.backdrop else None
        backdrop = opened_picture("The picture behind everybody", behind.data) if behind else None
        shots = [
            shot_of(
                scene,
                material.of_some([number for number, _ in group]),
                wish.frames(scene),
                Path(folder) / f"sound {place}.flac",
                film,
                backdrop,
            )
            for place, group in enumerate(groups)
        ]
        work = [(kind, number) for kind in wish.kinds for number in range(len(groups))]
        for at, (kind, number) in enumerate(work):

            def share(done: float, at: int = at) -> None:
                report((at + done) / len(work))

            registry.write(kind, path, shots[number], how, share)
            who = [role.name for _, role in groups[number]]
            _keep(asked, path, called(kind, scene, who, list(names.values())))
    return material.of


def _keep(asked: Handover, path: Path, name: str) -> Any:
    digest = store.digest(path)
    kept = store.keep(f"handover/{asked.job_id}/{name}", path, digest)
    asked.files.filter(name=name).delete()
    return asked.files.create(name=name, file=kept, size=path.stat().st_size, sha256=digest)
