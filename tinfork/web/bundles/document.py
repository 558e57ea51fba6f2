"""What a bundle's document holds, and so what is let in: see docs/formats.md.

A number that stands for a character, chart, drawing, sound or stave is its place in the document's list of them, from
1; 0 for one that is gone. Drawings are counted through all charts.
"""

from datetime import datetime
from typing import Annotated, Any, Literal

from msgspec import Meta, Struct

from tinfork.core.limits import (
    MAX_CHANNELS,
    MAX_GESTURES,
    MAX_NAME_CHARACTERS,
    MAX_PARTS,
    MAX_PHASES,
    MAX_SCENE_FRAMES,
    MAX_START_FRAME,
    MAX_VIEWS,
)
from tinfork.core.mouths.shapes import ARTICULATORS

Name = Annotated[str, Meta(min_length=1, max_length=MAX_NAME_CHARACTERS)]
MaybeName = Annotated[str, Meta(max_length=MAX_NAME_CHARACTERS)]
Temper = Literal["even", "calm", "lively", "nervous", "grand"]
Framing = Literal["close", "medium", "wide"]
Kind = Literal["nod", "rise", "tilt", "lean", "narrow", "one brow", "shake", "shrug"]
Short = Annotated[str, Meta(max_length=40)]
Code = Annotated[str, Meta(max_length=20)]
Text = Annotated[str, Meta(max_length=200)]
Colour = Annotated[str, Meta(pattern=r"^#[0-9a-fA-F]{6}\Z")]
Size = Annotated[float, Meta(ge=-1e6, le=1e6)]
MouthSize = Annotated[float, Meta(ge=0.02, le=50)]
Count = Annotated[int, Meta(ge=0, le=2_000_000_000)]
Frame = Annotated[int, Meta(ge=0, le=MAX_SCENE_FRAMES)]
Place = Annotated[
    list[Annotated[float, Meta(ge=-1, le=2)]], Meta(min_length=len(ARTICULATORS), max_length=len(ARTICULATORS))
]
Share = Annotated[float, Meta(ge=0, le=1)]
Picture = Annotated[str, Meta(pattern=r"^pictures/[0-9a-f]{64}\.png\Z")]
MaybePicture = Annotated[str, Meta(pattern=r"^(pictures/[0-9a-f]{64}\.png)?\Z")]
Sound = Annotated[str, Meta(pattern=r"^sounds/[0-9a-f]{64}\Z")]
Exposed = tuple[Frame, Frame, Text, bool]
"""First frame, how many, the drawing, and whether it is pinned."""


class Layer(Struct, frozen=True, forbid_unknown_fields=True):
    """A picture of a face; part: the name of what it is of, "" for the head; view: the only one it is seen in, "" for
    all; depth: how far before the head's axis; also: the pictures by which it moves, beside its own; each, once:
    how."""

    name: Name
    number: Count
    x: Size
    y: Size
    scale: Size
    turn: Size
    in_front: bool
    hidden: bool
    removed: bool
    picture: Picture
    part: MaybeName = ""
    switched: bool = False
    view: Annotated[str, Meta(max_length=40)] = ""
    depth: Annotated[float, Meta(ge=0, le=1)] = 0.0
    also: Annotated[list[Picture], Meta(max_length=MAX_PHASES - 1)] = []
    each: Annotated[int, Meta(ge=1, le=MAX_PHASES)] = 2
    once: bool = False


class Part(Struct, frozen=True, forbid_unknown_fields=True):
    """Something of a face that moves."""

    name: Name
    number: Count
    x: Size
    y: Size
    on: MaybeName
    role: Code
    rest: MaybeName


class MouthIn(Struct, frozen=True, forbid_unknown_fields=True):
    """Where the mouth lies in a view."""

    x: Size
    y: Size
    size: MouthSize
    turn: Size


class Face(Struct, frozen=True, forbid_unknown_fields=True):
    """Where the mouth lies on a face, and in other views; the face's layers, and its parts."""

    x: Size
    y: Size
    size: MouthSize
    turn: Size
    layers: Annotated[list[Layer], Meta(max_length=400)]
    parts: Annotated[list[Part], Meta(max_length=MAX_PARTS)] = []
    views: Annotated[dict[Annotated[str, Meta(min_length=1, max_length=40)], MouthIn], Meta(max_length=MAX_VIEWS)] = {}


class Rule(Struct, frozen=True, forbid_unknown_fields=True):
    """A sound with a drawing of its own."""

    ipa: Annotated[str, Meta(min_length=1, max_length=8)]
    drawing: Text
    place: Place


class Match(Struct, frozen=True, forbid_unknown_fields=True):
    """What a drawing is called in another program."""

    name: Text
    drawing: Text


class Character(Struct, frozen=True, forbid_unknown_fields=True):
    """One of the cast. chart: what they speak with, 0 for ours, in a mood."""

    name: Name
    form: Short
    skin: Colour
    trim: Colour
    lip: Colour
    language: Code
    place: Count
    removed: bool
    chart: Count
    mood: Short
    face: Face | None
    rules: Annotated[list[Rule], Meta(max_length=400)]
    matches: Annotated[list[Match], Meta(max_length=4000)]
    temper: Temper = "even"
    learned: dict[Kind, tuple[Count, Count]] = {}


class Drawing(Struct, frozen=True, forbid_unknown_fields=True):
    """A drawing of a chart. drawn: its picture before its lines were made like those of the others, "" for the same;
    also: the pictures by which it moves, beside its own; each, once: how."""

    name: Name
    mood: Short
    number: Count
    place: Place
    by_hand: bool
    special: bool
    x: Size
    y: Size
    scale: Size
    turn: Size
    formerly: Annotated[list[Text], Meta(max_length=400)]
    vector: Annotated[str, Meta(max_length=200_000)]
    removed: bool
    picture: Picture
    drawn: MaybePicture
    key: Annotated[str, Meta(pattern="^[a-z0-9]?$")] = ""
    meant: bool = False
    also: Annotated[list[Picture], Meta(max_length=MAX_PHASES)] = []
    each: Annotated[int, Meta(ge=1, le=MAX_PHASES)] = 2
    once: bool = False


class Chart(Struct, frozen=True, forbid_unknown_fields=True):
    """A mouth chart."""

    name: Name
    part: Short
    removed: bool
    drawings: Annotated[list[Drawing], Meta(max_length=4000)]


class Entry(Struct, frozen=True, forbid_unknown_fields=True):
    """How a word is said."""

    word: Name
    language: Code
    ipa: Text


class Preset(Struct, frozen=True, forbid_unknown_fields=True):
    """A way to hand over; wish: as tinfork.web.handover.wishes.Wish."""

    name: Annotated[str, Meta(min_length=1, max_length=60)]
    wish: dict[str, Any]


class Heard(Struct, frozen=True, forbid_unknown_fields=True):
    """A sound as it was brought in; channels: which were listened to alone."""

    name: Annotated[str, Meta(min_length=1, max_length=255)]
    file: Sound
    channels: Annotated[list[Annotated[int, Meta(ge=0, lt=MAX_CHANNELS)]], Meta(max_length=MAX_CHANNELS)]


class Decided(Struct, frozen=True, forbid_unknown_fields=True):
    """What people decided of a part of a scene, by the names of its parts, and how often that has changed."""

    version: Count
    parts: dict[str, Any]


class TrackTake(Struct, frozen=True, forbid_unknown_fields=True):
    """A mouth track that was kept: what was decided, and what was seen; rate: the scene's then, "" for as it is."""

    name: Annotated[str, Meta(min_length=1, max_length=120)]
    decisions: dict[str, Any]
    exposures: list[Exposed]
    rate: Code = ""


class Stave(Struct, frozen=True, forbid_unknown_fields=True):
    """A character's lanes. lines: the reading's, by their numbers; exposures: the mouth track as it is seen; unplanned:
    the stretches of it, first frame and the one after the last, that do not follow from the rest yet."""

    character: Count
    version: Count
    parts: dict[str, Any]
    lines: dict[str, Any]
    exposures: list[Exposed]
    unplanned: Annotated[list[tuple[Frame, Frame]], Meta(max_length=4000)]
    takes: Annotated[list[TrackTake], Meta(max_length=400)]


class ActedLane(Struct, frozen=True, forbid_unknown_fields=True):
    """A lane (tinfork.core.acting.lanes) but for its gestures, and they; None for nothing."""

    body: dict[str, Any] | None
    gestures: Annotated[list[Any], Meta(max_length=MAX_GESTURES)] | None


class Acting(Struct, frozen=True, forbid_unknown_fields=True):
    """What a character does beside speaking. lanes: by the names of parts."""

    character: Count
    version: Count
    parts: dict[str, Any]
    lanes: Annotated[dict[Name, ActedLane], Meta(max_length=400)]


class SavedPose(Struct, frozen=True, forbid_unknown_fields=True):
    """A pose under a name; parts: what each part does (tinfork.core.mouths.parts.Pose)."""

    name: Name
    parts: Annotated[dict[Name, Any], Meta(max_length=400)]


class Recorded(Struct, frozen=True, forbid_unknown_fields=True):
    """A recording that was made of somebody here, and whether it is the one that is kept."""

    character: Count
    sound: Count
    kept: bool


class Step(Struct, frozen=True, forbid_unknown_fields=True):
    """An edit. area: sound, script, sheet, or stave or acting with its number; changes: as tinfork.web.edits.diff has
    them; what has one step was one action; by: who did it."""

    area: Short
    verb: Short
    changes: dict[str, list[Any]]
    version: Count
    step: Count
    undone: bool
    superseded: bool
    made: datetime
    by: Annotated[str, Meta(max_length=150)]


class Shot(Struct, frozen=True, forbid_unknown_fields=True):
    """A frame that was shot at the camera, or is to be shot again."""

    frame: Frame
    again: bool
    when: datetime


class AsShot(Struct, frozen=True, forbid_unknown_fields=True):
    """A scene as the film counts it. sequence: its place among them, 0 for none; who: whose it was; due: a day, ""
    for none."""

    number: Annotated[str, Meta(max_length=12)]
    sequence: Count
    who: Annotated[str, Meta(max_length=150)]
    due: Annotated[str, Meta(pattern=r"^(\d{4}-\d\d-\d\d)?\Z")]
    priority: Annotated[int, Meta(ge=-1, le=1)]
    archived: bool


class Verdict(Struct, frozen=True, forbid_unknown_fields=True):
    """What somebody said of a version: approved, or changes."""

    kind: Code
    name: MaybeName
    made: datetime


class Version(Struct, frozen=True, forbid_unknown_fields=True):
    """A shot as it was shown for review. kept: tinfork.web.handover.keeping.Kept as JSON; now: whether the scene is as
    it was then; verdicts: the first first; rate: the scene's then, "" for as it is; start_frame: its first frame's
    number."""

    number: Annotated[int, Meta(ge=1, le=100_000)]
    name: MaybeName
    made: datetime
    now: bool
    kept: Annotated[str, Meta(pattern=r"^versions/[0-9a-f]{64}\Z")]
    verdicts: Annotated[list[Verdict], Meta(max_length=1_000)]
    rate: Code = ""
    start_frame: Annotated[int, Meta(ge=0, le=MAX_START_FRAME)] = 1


class Comment(Struct, frozen=True, forbid_unknown_fields=True):
    """A note on frames, or an answer to one. on: the place of what it answers among the scene's notes, 0 for none;
    version: the number of the one it is about, 0 for none; x, y and line: in shares of the picture."""

    name: MaybeName
    guest: bool
    text: Annotated[str, Meta(min_length=1, max_length=4_000)]
    frame: Frame
    end: Frame
    x: Share | None
    y: Share | None
    line: Annotated[list[tuple[Share, Share]], Meta(max_length=400)]
    done: datetime | None
    made: datetime
    on: Count
    version: Count


class Member(Struct, frozen=True, forbid_unknown_fields=True):
    """Somebody who worked on it, by name: nobody comes in by it."""

    name: Annotated[str, Meta(max_length=150)]
    role: Code


class Scene(Struct, frozen=True, forbid_unknown_fields=True):
    """A scene. sound, script, sheet, timing: None where there is nothing of it yet; backdrop: the picture behind
    everybody."""

    name: Name
    rate: Code
    start_frame: Annotated[int, Meta(ge=0, le=MAX_START_FRAME)]
    place: Count
    removed: bool
    sound: Decided | None
    script: Decided | None
    sheet: Decided | None
    staves: Annotated[list[Stave], Meta(max_length=400)]
    recorded: Annotated[list[Recorded], Meta(max_length=10_000)]
    history: Annotated[list[Step], Meta(max_length=100_000)]
    shots: Annotated[list[Shot], Meta(max_length=1_000_000)]
    backdrop: MaybePicture = ""
    actings: Annotated[list[Acting], Meta(max_length=400)] = []
    film: AsShot | None = None
    versions: Annotated[list[Version], Meta(max_length=1_000)] = []
    comments: Annotated[list[Comment], Meta(max_length=2_000)] = []
    timing: Decided | None = None


class Production(Struct, frozen=True, forbid_unknown_fields=True):
    """Everything that a bundle says."""

    name: Name
    language: Code
    characters: Annotated[list[Character], Meta(max_length=400)]
    charts: Annotated[list[Chart], Meta(max_length=400)]
    lexicon: Annotated[list[Entry], Meta(max_length=50_000)]
    presets: Annotated[list[Preset], Meta(max_length=40)]
    sounds: Annotated[list[Heard], Meta(max_length=10_000)]
    scenes: Annotated[list[Scene], Meta(max_length=2_000)]
    poses: Annotated[list[SavedPose], Meta(max_length=1_000)] = []
    sequences: Annotated[list[Name], Meta(max_length=400)] = []
    people: Annotated[list[Member], Meta(max_length=2_000)] = []
