"""What can be asked of a scene's arrangement, each with what it takes. Frames are the scene's."""

from typing import Annotated

from tinfork.web.edits.requests import MANY, Integer, Integers, Number, Request, Span, Verbs

from . import arranging


class Slide(Request, frozen=True, tag="slide"):
    clips: Integers
    by: Integer
    ripple: bool


class ToTrack(Request, frozen=True, tag="move"):
    clip: Integer
    track: Integer


class Trim(Request, frozen=True, tag="trim"):
    clip: Integer
    first: Integer
    end: Integer


class Split(Request, frozen=True, tag="split"):
    clips: Integers
    frame: Integer


class Delete(Request, frozen=True, tag="delete"):
    clips: Integers
    ripple: bool


class CutOut(Request, frozen=True, tag="cut-out"):
    """tracks: None for all of them, here and below."""

    first: Integer
    end: Integer
    ripple: bool
    tracks: Integers | None = None


class OpenGap(Request, frozen=True, tag="open-gap"):
    frame: Integer
    frames: Integer
    tracks: Integers | None = None


class SetGain(Request, frozen=True, tag="gain"):
    clip: Integer
    gain: Number


class SetChannel(Request, frozen=True, tag="channel"):
    clip: Integer
    channel: Integer


class AddTrack(Request, frozen=True, tag="add-track"):
    kind: str
    name: str
    character: Integer | None = None


class RemoveTrack(Request, frozen=True, tag="remove-track"):
    track: Integer


class SetTrack(Request, frozen=True, tag="track"):
    """What is not given stays."""

    track: Integer
    muted: bool | None = None
    solo: bool | None = None
    gain: Number | None = None
    name: str | None = None


class SetLength(Request, frozen=True, tag="length"):
    """frames: None to follow the sound."""

    frames: Integer | None


class KeepTake(Request, frozen=True, tag="keep-take"):
    take: Integer
    start: Integer | None = None


class MarkPass(Request, frozen=True, tag="pass"):
    """held: when the character's key was held, between first and end, in seconds of the scene."""

    character: Integer
    held: Annotated[list[Span], MANY]
    first: Number
    end: Number


class AddMark(Request, frozen=True, tag="add-mark"):
    """start, end: in seconds of the scene, here and below."""

    character: Integer
    start: Number
    end: Number


class GiveMark(Request, frozen=True, tag="give-mark"):
    mark: Integer
    character: Integer


class MoveMark(Request, frozen=True, tag="mark"):
    mark: Integer
    start: Number
    end: Number


class RemoveMark(Request, frozen=True, tag="remove-mark"):
    mark: Integer


class TakeVoices(Request, frozen=True, tag="take-voices"):
    """spans: start, end and number of the voice; who: the character of each voice."""

    spans: Annotated[list[tuple[Number, Number, Integer]], MANY]
    who: Integers


VERBS = Verbs(
    {
        Slide: arranging.slide,
        ToTrack: arranging.to_track,
        Trim: arranging.trim,
        Split: arranging.split,
        Delete: arranging.delete,
        CutOut: arranging.cut_out,
        OpenGap: arranging.open_gap,
        SetGain: arranging.set_gain,
        SetChannel: arranging.set_channel,
        AddTrack: arranging.add_track,
        RemoveTrack: arranging.remove_track,
        SetTrack: arranging.set_track,
        SetLength: arranging.set_length,
        KeepTake: arranging.keep_take,
        MarkPass: arranging.mark_pass,
        AddMark: arranging.add_mark,
        GiveMark: arranging.give_mark,
        MoveMark: arranging.move_mark,
        RemoveMark: arranging.remove_mark,
        TakeVoices: arranging.take_groups,
    }
)
