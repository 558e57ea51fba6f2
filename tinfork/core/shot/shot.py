"""What is handed over: everybody who speaks in a shot, frame by frame, with their drawings and their words."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property
from pathlib import Path

from ..acting.lanes import PlacedLane
from ..errors import TrackError
from ..exposure.easing import Blend, blends
from ..exposure.track import Exposure, cut_to
from ..mouths.chart import Chart
from ..mouths.draw import Style
from ..mouths.face import Face, turns_on
from ..mouths.parts import Pose
from ..mouths.picture import Picture
from ..naming import file_stem
from ..speech.reading import Line, Reading, moved
from ..timebase import frame_at, frame_time
from .behind import Strip


@dataclass(frozen=True)
class Beat:
    """A phrase as somebody means it. frame, end: its first frame and the one after its last; note: what the character
    means and does; moments: frames that matter."""

    frame: int
    end: int
    note: str = ""
    moments: tuple[int, ...] = ()


@dataclass(frozen=True)
class Role:
    """One character in a shot. exposures: follow one another from frame 0; chart: where each of their drawings lies;
    drawn: each drawing that is used on its anchor, as SVG, "" for nothing; reading: what they say, in the shot's
    seconds; eases: for frames on which a seam lies over how many it is eased; lanes: what parts of the face do, by
    their names; beats: what is said of phrases; style: how mouths of ours are drawn, None where none is ours."""

    name: str
    exposures: tuple[Exposure, ...]
    chart: Chart
    drawn: Mapping[str, str]
    reading: Reading
    face: Face = field(default_factory=Face)
    eases: Mapping[int, int] = field(default_factory=dict)
    lanes: Mapping[str, PlacedLane] = field(default_factory=dict)
    beats: tuple[Beat, ...] = ()
    style: Style | None = None

    @property
    def stem(self) -> str:
        """The name as file names have it."""
        return file_stem(self.name)

    @property
    def acts(self) -> bool:
        """Whether anything of it moves beside the mouth."""
        return any(self.poses)

    @cached_property
    def poses(self) -> list[dict[str, Pose]]:
        """What the parts do on each frame, but for those that rest; after the track's last frame as on it. Beside them
        lies which picture is seen of what moves."""
        frames = range(self.exposures[-1].end)
        own = {name: lane.poses(frames) for name, lane in self.lanes.items() if self.face.part(name)}
        rests = {part.name: part.rest for part in self.face.parts}
        turns = turns_on(self.face, {name: [one.drawing for one in poses] for name, poses in own.items()}, len(frames))
        return [
            {
                name: poses[n]
                for name, poses in own.items()
                if poses[n].dials or poses[n].drawing not in (None, rests[name])
            }
            | turns[n]
            for n in frames
        ]

    @cached_property
    def blends(self) -> dict[int, Blend]:
        """The frames on which two drawings are seen at once."""
        return {one.frame: one for one in blends(self.exposures, lambda frame: self.eases.get(frame, 0))}

    @property
    def drawings(self) -> tuple[str, ...]:
        """The drawings that are used, in the order they are first seen; nothing is none."""
        return tuple(dict.fromkeys(e.drawing for e in self.exposures if e.drawing))

    def on_each_frame(self) -> Iterator[Exposure]:
        """Return the exposure of each frame."""
        return (e for e in self.exposures for _ in range(e.frames))


@dataclass(frozen=True)
class Shot:
    """A scene as it is handed over. name: of the scene; start_frame: the scene's own number of frame 0; sound: a
    mono file of what is heard, from frame 0 on, or None; film: its reference film; backdrop: a picture that can lie
    behind everybody."""

    name: str
    rate: Fraction
    start_frame: int
    roles: tuple[Role, ...]
    sound: Path | None = None
    film: tuple[Strip, ...] = ()
    backdrop: Picture | None = None

    def __post_init__(self) -> None:
        if not self.roles or not all(role.exposures for role in self.roles):
            raise TrackError("There is nothing to hand over: nobody in this shot has a mouth track yet.")

    @property
    def stem(self) -> str:
        """The name as file names have it."""
        return file_stem(self.name)

    @property
    def frames(self) -> int:
        """How long it is."""
        return max(role.exposures[-1].end for role in self.roles)

    def lines(self) -> list[tuple[Role, Line]]:
        """Return what is said, by whom, in order."""
        found = [(role, line) for role in self.roles for line in role.reading.lines]
        return sorted(found, key=lambda one: one[1].start)

    def words_on(self, frame: int) -> list[str]:
        """Return the words that are being said on a frame."""
        return [word for _, word in self._said_on(frame)]

    def said_on(self, frame: int) -> list[str]:
        """Return the words that are being said on a frame, of several characters each with who says it."""
        return [f"{who}: {word}" if len(self.roles) > 1 else word for who, word in self._said_on(frame)]

    def _said_on(self, frame: int) -> list[tuple[str, str]]:
        return [(who, word) for who, word, first, end in self._words if first <= frame < end]

    @cached_property
    def _words(self) -> list[tuple[str, str, int, int]]:
        words = ((role.name, word) for role, line in self.lines() for word in line.words if word.said)
        return [(who, w.text, frame_at(w.start, self.rate), frame_at(w.end, self.rate)) for who, w in words]

    def between(self, frames: range) -> "Shot":
        """Return the shot cut to some of its frames; its sound stays whole. TrackError where it has none of them."""
        if not range(max(0, frames.start), min(self.frames, frames.stop)):
            raise TrackError("This range has no frame of the shot; set its first and last frame anew.")
        roles = tuple(_role_between(role, frames, self.rate) for role in self.roles)
        by = frames.start
        film = tuple(replace(strip, first=strip.first - by, end=strip.end - by) for strip in self.film)
        return replace(self, roles=roles, start_frame=self.start_frame + by, film=film)


def _role_between(role: Role, frames: range, rate: Fraction) -> Role:
    """A role cut to some frames, with the lines that begin in them; what its exposures serve is numbered anew."""
    first, by = frames.start, -frame_time(frames.start, rate)
    seconds = frame_time(len(frames), rate)
    lines, numbers, count = [], dict[int, int](), 0
    for line in role.reading.lines:
        sounds = sum(len(word.sounds) for word in line.words)
        if 0 <= line.start + by < seconds:
            numbers |= {count + k: len(numbers) + k for k in range(sounds)}
            lines.append(moved(line, by))
        count += sounds
    exposures = tuple(
        replace(e, frame=e.frame - first, sounds=tuple(numbers[n] for n in e.sounds if n in numbers))
        for e in cut_to(role.exposures, frames)
    )
    eases = {frame - first: ease for frame, ease in role.eases.items()}
    lanes = {name: lane.between(frames) for name, lane in role.lanes.items()}
    beats = tuple(_beat_between(beat, frames) for beat in role.beats if beat.frame < frames.stop and beat.end > first)
    reading = replace(role.reading, lines=tuple(lines))
    return replace(role, exposures=exposures, reading=reading, eases=eases, lanes=lanes, beats=beats)


def _beat_between(beat: Beat, frames: range) -> Beat:
    moments = tuple(frame - frames.start for frame in beat.moments if frame in frames)
    end = min(beat.end, frames.stop) - frames.start
    return Beat(max(0, beat.frame - frames.start), end, beat.note, moments)


@dataclass(frozen=True)
class Plate:
    """A drawing seen from first to before end, over those that came before it. shares: how much of it is seen on each
    of its first frames, where it is eased in."""

    drawing: str
    first: int
    end: int
    shares: tuple[float, ...] = ()


def plates(role: Role) -> list[Plate]:
    """Return the drawings of a role as plates laid one over the other, for what has no more than that; nothing is
    none."""
    eased: dict[int, list[Blend]] = {}
    for blend in role.blends.values():
        eased.setdefault(blend.after.frame, []).append(blend)
    found = []
    for e in role.exposures:
        into, out_of = eased.get(e.frame, []), eased.get(e.end, [])
        first = into[0].frame if into else e.frame
        end = out_of[-1].frame + 1 if out_of else e.end
        if e.drawing:
            found.append(Plate(e.drawing, first, end, tuple(blend.weight for blend in into)))
    return found
