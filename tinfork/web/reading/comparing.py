"""A scene's script laid beside what is heard in its sounds: where something else is said than is written."""

from collections.abc import Iterable

from django.db import transaction

from tinfork.core.script import otherwise as core
from tinfork.core.script.casting import SoundToRead
from tinfork.core.sound.anchors import bound_span
from tinfork.core.speech.otherwise import AGAIN, differences
from tinfork.core.speech.takes import LineTake, takes_of
from tinfork.core.speech.unscripted import read_unscripted
from tinfork.web import fence
from tinfork.web.jobs.running import Report
from tinfork.web.productions.models import Scene
from tinfork.web.script.actions import script_of
from tinfork.web.script.languages import language_of
from tinfork.web.script.models import Difference
from tinfork.web.sound.arranging import arrangement_of

from .hinting import listening_for
from .scene import recording_of, to_read, written_lines


def compare(scene: Scene, report: Report) -> str:
    """Hear what is said in a scene's sounds and keep where the script has it otherwise; a sentence says how often. What
    somebody has looked at and let stay is not told again."""
    found = list(_compared(scene, report))
    with transaction.atomic():
        fence.hold()
        kept = {_key(one) for one in scene.differences.filter(kept=True)}
        scene.differences.filter(kept=False).delete()
        new = Difference.objects.bulk_create([one for one in found if _key(one) not in kept])
    return _sentence(len(new))


def _sentence(count: int) -> str:
    if not count:
        return "What is said is what is written."
    return f"At {count} place{'' if count == 1 else 's'} something else is said than is written."


def _key(one: Difference) -> tuple[str, int, str, str]:
    return one.kind, one.line, one.written, one.heard


def _compared(scene: Scene, report: Report) -> Iterable[Difference]:
    document, cast = arrangement_of(scene), list(scene.production.characters.all())
    fps = float(scene.fps)
    parts = [part for part in to_read(scene)[0] if part.lines]
    texts = {line.id: (line.text, language_of(scene, line, cast)) for line in script_of(scene).value.lines}
    for number, part in enumerate(parts):
        recording = recording_of(document, part)
        lines = [line for line in written_lines(scene, part.lines, part, cast) if not line.recognised]
        if not lines:
            continue

        def done(share: float, number: int = number) -> None:
            report((number + 0.9 * share) / len(parts))

        spoken = {line.language for line in lines}
        how = listening_for(scene.production, cast, lines[0].language, spoken, progress=done)
        found = read_unscripted(recording, how)
        for one in differences(recording, lines, found.heard, how.lexicon, found.sound):
            start, end, source = bound_span(one.start, one.end, part.clips, fps)
            takes = takes_of(*texts[one.line], found.heard, recording) if one.kind == AGAIN else []
            yield Difference(
                scene=scene,
                kind=one.kind,
                line=one.line,
                first=one.first,
                last=one.last,
                written=core.written(*texts[one.line], one.first, one.last),
                heard=one.heard,
                start=start or 0.0,
                end=end or 0.0,
                source_id=source,
                takes=list(filter(None, (_bound_take(take, source, part, fps) for take in takes))),
            )


def _bound_take(take: LineTake, source: int, part: SoundToRead, fps: float) -> list[float]:
    """A take in the time of the sound of this source_id, what else is known of it rounded."""
    start, end, own = bound_span(take.start, take.end, part.clips, fps)
    return [start or 0.0, end or 0.0, round(take.sure, 2), round(take.clean)] if own == source else []
