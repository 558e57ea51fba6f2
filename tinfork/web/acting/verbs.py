"""What can be asked of acting, each with what it takes. Frames are the scene's; a part is named by its name."""

from typing import Annotated, ClassVar

from msgspec import Meta

from tinfork.web.edits.requests import Integer, Integers, Number, Request, Verbs

from . import gesturing, keying, learning, phrasing, posing, showing

Name = Annotated[str, Meta(max_length=120)]
Names = Annotated[list[Name], Meta(max_length=60)]
Samples = Annotated[list[tuple[Number, Number]], Meta(max_length=80_000)]
Pressed = Annotated[list[tuple[Number, Name]], Meta(max_length=8_000)]
Note = Annotated[str, Meta(max_length=4_000)]


class _OfPart(Request, frozen=True):
    part: Name


class SetKey(_OfPart, frozen=True, kw_only=True, tag="key"):
    merges: ClassVar[bool] = True
    dial: Name
    frame: Integer
    value: Number
    ease: Name | None = None


class MoveKeys(_OfPart, frozen=True, kw_only=True, tag="move keys"):
    merges: ClassVar[bool] = True
    dial: Name
    frames: Integers
    by: Integer = 0
    up: Number = 0.0


class EaseKeys(_OfPart, frozen=True, kw_only=True, tag="ease"):
    merges: ClassVar[bool] = True
    dial: Name
    frames: Integers
    ease: Name


class DropKeys(_OfPart, frozen=True, kw_only=True, tag="drop keys"):
    merges: ClassVar[bool] = True
    dials: Names = []
    first: Integer
    end: Integer


class Show(_OfPart, frozen=True, kw_only=True, tag="show"):
    merges: ClassVar[bool] = True
    frame: Integer
    frames: Integer
    drawing: Name


class Swap(_OfPart, frozen=True, kw_only=True, tag="swap"):
    merges: ClassVar[bool] = True
    at: Integers
    drawing: Name


class Slide(_OfPart, frozen=True, kw_only=True, tag="slide"):
    merges: ClassVar[bool] = True
    at: Integers
    by: Integer


class Span(_OfPart, frozen=True, kw_only=True, tag="span"):
    merges: ClassVar[bool] = True
    frame: Integer
    first: Integer
    frames: Integer


class Split(_OfPart, frozen=True, kw_only=True, tag="split"):
    merges: ClassVar[bool] = True
    frame: Integer


class HoldOn(_OfPart, frozen=True, kw_only=True, tag="hold on"):
    merges: ClassVar[bool] = True
    frame: Integer


class Remove(_OfPart, frozen=True, kw_only=True, tag="remove"):
    merges: ClassVar[bool] = True
    at: Integers


class Free(_OfPart, frozen=True, kw_only=True, tag="free"):
    merges: ClassVar[bool] = True
    at: Integers


class ChangeGestures(_OfPart, frozen=True, kw_only=True, tag="gestures"):
    ids: Integers
    by: Integer = 0
    amount: Number | None = None


class DropGestures(_OfPart, frozen=True, kw_only=True, tag="drop gestures"):
    ids: Integers


class AsKeys(_OfPart, frozen=True, kw_only=True, tag="as keys"):
    ids: Integers


class SetLane(_OfPart, frozen=True, kw_only=True, tag="lane"):
    lead: Integer | None = None
    alone: bool | None = None


class Record(_OfPart, frozen=True, kw_only=True, tag="record"):
    """samples: frame, not a whole number, and value; late: by how many frames the hand is late; smooth: over how many
    frames to either side; allowed: by how much keys may miss the hand."""

    merges: ClassVar[bool] = True
    dial: Name
    first: Integer
    end: Integer
    samples: Samples
    late: Number = 0.0
    smooth: Integer = 2
    allowed: Number = 0.5


class RecordSwitch(_OfPart, frozen=True, kw_only=True, tag="record switch"):
    first: Integer
    end: Integer
    shown: Pressed
    late: Number = 0.0


class LookThere(Request, frozen=True, kw_only=True, tag="look"):
    frame: Integer
    frames: Integer
    x: Number
    y: Number
    head: bool = False


class Propose(Request, frozen=True, kw_only=True, tag="propose"):
    """another: something else than was proposed before."""

    merges: ClassVar[bool] = True
    lines: Integers = []
    parts: Names = []
    another: bool = False


class Accept(Request, frozen=True, kw_only=True, tag="accept"):
    merges: ClassVar[bool] = True
    line: Integer
    parts: Names = []


class ThrowAway(Request, frozen=True, kw_only=True, tag="throw away"):
    merges: ClassVar[bool] = True
    line: Integer
    parts: Names = []


class SetPhrase(Request, frozen=True, kw_only=True, tag="phrase"):
    line: Integer
    note: Note | None = None
    amount: Number | None = None
    locked: bool | None = None
    moments: Integers | None = None


class SetWish(Request, frozen=True, kw_only=True, tag="wish"):
    rate: Number | None = None
    seed: Integer | None = None
    eyes_first: Integer | None = None
    amount: Number | None = None
    temper: Name | None = None
    framing: Name | None = None


class Forget(Request, frozen=True, kw_only=True, tag="forget"):
    pass


class LayPose(Request, frozen=True, kw_only=True, tag="pose"):
    pose: Integer
    frame: Integer
    amount: Number = 1.0
    mirrored: bool = False


class Paste(Request, frozen=True, kw_only=True, tag="paste"):
    """source: whose acting, by its number."""

    source: Integer
    first: Integer
    end: Integer
    frame: Integer
    parts: Names = []


VERBS = Verbs(
    {
        SetKey: keying.set_key,
        MoveKeys: keying.move_keys,
        EaseKeys: keying.ease_keys,
        DropKeys: keying.drop_keys,
        Show: showing.show,
        Swap: showing.swap,
        Slide: showing.slide,
        Span: showing.span,
        Split: showing.split,
        HoldOn: showing.hold_on,
        Remove: showing.remove,
        Free: showing.free,
        ChangeGestures: gesturing.change_gestures,
        DropGestures: gesturing.drop_gestures,
        AsKeys: gesturing.as_keys,
        SetLane: keying.set_lane,
        Record: keying.record,
        RecordSwitch: showing.record_switch,
        LookThere: gesturing.look,
        Propose: gesturing.propose,
        Accept: gesturing.accept,
        ThrowAway: gesturing.throw_away,
        SetPhrase: phrasing.set_phrase,
        SetWish: phrasing.set_wish,
        Forget: learning.forget,
        LayPose: posing.lay_pose,
        Paste: posing.paste,
    }
)
