"""A scene as a shot to be handed over, and the files made of it."""

import base64
import tempfile
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec

from tinfork.core.acting.lanes import PlacedLane
from tinfork.core.exposure.ranges import Bend
from tinfork.core.exposure.track import NOTHING
from tinfork.core.exposure.verbs import alike_as_one
from tinfork.core.formats import registry
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.picture import Picture
from tinfork.core.mouths.picture import open_picture as opened_picture
from tinfork.core.shot.behind import Strip
from tinfork.core.shot.shot import Beat, Role, Shot
from tinfork.core.sound import arrangement, mix
from tinfork.core.timebase import frame_time
from tinfork.web.acting.document import moments_of
from tinfork.web.acting.models import Acting
from tinfork.web.acting.staging import Stage
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.faces.models import FaceLayer
from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.sound.actions import local_file
from tinfork.web.sound.arranging import filmed, pieces_of
from tinfork.web.sound.listening import open_sounds
from tinfork.web.sound.models import Arrangement
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import Mouths, NamedDrawing, mouths_of
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import planned, scene_reading
from tinfork.web.staves.seeing import seen_throughout

from .models import Handover, backdrop_of
from .wishes import Wish, called, chosen, parts

Report = Callable[[float], None]


def role_of(placed: Placed) -> Role:
    """Return what a stave's character does, planned to the end, with each drawing that is used as it is seen."""
    stave = placed.stave
    own, found = mouths_of(stave), seen_throughout(placed)
    used = {(one.exposure.drawing, one.bend) for one in found}
    drawn = {bend.named(name): _bent(own, name, bend) for name, bend in used}
    named = tuple(replace(one.exposure, drawing=one.bend.named(one.exposure.drawing)) for one in found)
    exposures = alike_as_one(named, [e.drawing for e in named], decided=True)
    bent = (Drawing(bend.named(name), own.place_of(name)) for name, bend in used if bend.transform and name)
    reading = scene_reading(stave) or stave.reading_with(())
    eases = {frame: one.ease for span, one in placed.eases for frame in span}
    chart, face = Chart((*own.chart.drawings, *bent)), own.face(_embedded)
    lanes, beats = acted(stave)
    return Role(stave.character.name, exposures, chart, drawn, reading, face, eases, lanes, beats)


def acted(stave: Stave) -> tuple[dict[str, PlacedLane], tuple[Beat, ...]]:
    """Return what a stave's character does beside speaking, where its sounds lie now, and what is said of the
    phrases."""
    acting = Acting.objects.filter(scene=stave.scene, character=stave.character).first()
    if acting is None:
        return {}, ()
    acting.scene, acting.character = stave.scene, stave.character
    stage, notes = Stage(acting), acting.notes
    lanes = {part: stage.place(lane) for part, lane in acting.all_lanes().items()}
    moments = moments_of(stage)
    beats = (Beat(s.frame, s.end, notes[s.line].note, tuple(moments[s.line])) for s in stage.lines if s.line in notes)
    return lanes, tuple(beats)


def _bent(own: Mouths, name: str, bend: Bend) -> str:
    """A drawing on its anchor, stretched and bent, as SVG; "" for nothing."""
    if name == NOTHING:
        return ""
    one = own.names[name]
    svg = own.markup(one, "m", _picture_of(one))
    return f'<g transform="{bend.transform}">{svg}</g>' if bend.transform else svg


def _picture_of(one: NamedDrawing) -> str:
    """The address of a drawing's picture; "" for one of ours."""
    return "" if one.drawing is None else _embedded(one.drawing)


def _embedded(drawing: ChartDrawing | FaceLayer) -> str:
    """A picture inside the address that stands for it."""
    return f"data:image/png;base64,{base64.b64encode(drawing.data).decode()}"


def shot_of(
    scene: Scene,
    placed: Sequence[Placed],
    frames: range,
    sound: Path,
    film: Sequence[Strip] = (),
    backdrop: Picture | None = None,
) -> Shot:
    """Return a scene cut to some of its frames, with those who are placed in it. sound: where to write what is heard:
    of one alone their clips, of several everything that is not muted; film, backdrop: what lies behind them."""
    arranged = placed[0].arrangement.value
    span = range(frames.start, min(frames.stop, arranged.frames))
    roles = tuple(role_of(one) for one in placed)
    whole = Shot(scene.name, scene.fps, scene.start_frame, roles, film=tuple(film), backdrop=backdrop).between(span)
    with open_sounds() as path_of:
        if len(placed) == 1:
            pieces = pieces_of(placed[0].clips, scene, path_of)
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


def _make(asked: Handover, scene: Scene, wish: Wish, report: Report) -> dict[str, int]:
    """The files of one scene; the versions of what they were made of."""
    placed = [planned(stave) for stave in chosen(wish, scene)]
    names = {one.stave.character_id: one.stave.character.name for one in placed}
    how, groups = wish.how(names), parts(wish, placed)
    with tempfile.TemporaryDirectory() as folder, ExitStack() as stack:
        path = Path(folder) / "made"
        film = film_of(placed[0].arrangement, stack) if wish.film else []
        behind = backdrop_of(scene) if wish.backdrop else None
        backdrop = opened_picture("The picture behind everybody", behind.data) if behind else None
        shots = [
            shot_of(scene, group, wish.frames(scene), Path(folder) / f"sound {number}.flac", film, backdrop)
            for number, group in enumerate(groups)
        ]
        work = [(kind, number) for kind in wish.kinds for number in range(len(groups))]
        for at, (kind, number) in enumerate(work):

            def share(done: float, at: int = at) -> None:
                report((at + done) / len(work))

            registry.write(kind, path, shots[number], how, share)
            _keep(asked, path, called(kind, scene, [one.stave for one in groups[number]], list(names.values())))
    return _versions(placed)


def _versions(placed: Sequence[Placed]) -> dict[str, int]:
    found = {one.stave.area: one.stave.version for one in placed}
    who = [one.stave.character_id for one in placed]
    found |= {one.area: one.version for one in Acting.objects.filter(scene=placed[0].stave.scene, character__in=who)}
    return found | {placed[0].arrangement.area: placed[0].arrangement.version}


def _keep(asked: Handover, path: Path, name: str) -> Any:
    digest = store.digest(path)
    kept = store.keep(f"handover/{asked.job_id}/{name}", path, digest)
    asked.files.filter(name=name).delete()
    return asked.files.create(name=name, file=kept, size=path.stat().st_size, sha256=digest)
