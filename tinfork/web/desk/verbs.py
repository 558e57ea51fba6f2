"""What can be asked of a stave, each with what it takes. Times are seconds of the scene, frames are the scene's; a word
is named by its line and its place in that."""

from typing import Annotated, Any, ClassVar

from msgspec import Meta

from tinfork.core.exposure import track
from tinfork.core.exposure.verbs import Piece
from tinfork.web.edits.requests import Integer, Integers, Number, Request, Verbs
from tinfork.web.reading import by_hand, correcting
from tinfork.web.tracks import deciding, exposing, learning, ranging, takes, timing
from tinfork.web.tracks.exposing import Chosen

WordPlace = tuple[Integer, Integer]

MANY_FRAMES = Meta(max_length=20_000)
"""So many exposures are chosen one by one, or laid, at the most."""

Frames = Annotated[list[Integer], MANY_FRAMES]


class _Word(Request, frozen=True):
    at: WordPlace


class _Sound(_Word, frozen=True):
    sound: Integer


class _Range(Request, frozen=True):
    frame: Integer
    frames: Integer


class _Chosen(Request, frozen=True):
    """at: frames on which the exposures are seen, and long, where it is given, how many frames each of them was held
    when it was chosen; or within: the first frame and the one after the last between which they begin, and there
    drawing, those that show it."""

    at: Frames = []
    long: Frames = []
    within: tuple[Integer, Integer] | None = None
    only: str | None = None

    def values(self) -> dict[str, Any]:
        given = super().values()
        return given | {"chosen": Chosen(given.pop("at"), given.pop("within"), given.pop("only"), given.pop("long"))}


class Pin(_Range, frozen=True, tag="pin"):
    merges: ClassVar[bool] = True
    drawing: str


class Unpin(Request, frozen=True, tag="unpin"):
    merges: ClassVar[bool] = True
    frame: Integer


class Show(_Chosen, frozen=True, kw_only=True, tag="show"):
    merges: ClassVar[bool] = True
    drawing: str


class Rest(_Chosen, frozen=True, tag="rest"):
    merges: ClassVar[bool] = True


class Keep(_Chosen, frozen=True, tag="keep"):
    merges: ClassVar[bool] = True


class Free(_Chosen, frozen=True, tag="free"):
    merges: ClassVar[bool] = True


class Merge(_Chosen, frozen=True, tag="merge"):
    merges: ClassVar[bool] = True


class Remove(_Chosen, frozen=True, tag="remove"):
    merges: ClassVar[bool] = True
    hold: bool = False


class Slide(_Chosen, frozen=True, kw_only=True, tag="slide"):
    by: Integer
    border: str = "squeeze"
    words: bool = False


class SlideSound(_Chosen, frozen=True, kw_only=True, tag="slide sound"):
    by: Integer


class Ease(_Chosen, frozen=True, kw_only=True, tag="ease"):
    merges: ClassVar[bool] = True
    frames: Integer
    drawn: bool = False


class Split(Request, frozen=True, tag="split"):
    merges: ClassVar[bool] = True
    frame: Integer


class HoldOn(Request, frozen=True, tag="hold on"):
    merges: ClassVar[bool] = True
    frame: Integer


class Span(_Range, frozen=True, tag="span"):
    """frame: on which the exposure is seen; first and frames: where it is to be."""

    merges: ClassVar[bool] = True
    first: Integer


class Seam(Request, frozen=True, tag="seam"):
    merges: ClassVar[bool] = True
    frame: Integer
    to: Integer


class Lay(Request, frozen=True, tag="lay"):
    """pieces: each at a distance from the frame, for some frames, a drawing; words: the first frame, and the one after
    the last, whose words are said again with them."""

    merges: ClassVar[bool] = True
    frame: Integer
    pieces: Annotated[list[tuple[Integer, Integer, str]], MANY_FRAMES]
    words: tuple[Integer, Integer] | None = None

    def values(self) -> dict[str, Any]:
        return super().values() | {"pieces": [Piece(*one) for one in self.pieces]}


class LayTiming(Request, frozen=True, tag="lay timing"):
    """rows: first frame, frames and name of each exposure; names: the drawing each name stands for."""

    rows: Annotated[list[tuple[Integer, Integer, str]], MANY_FRAMES]
    names: Annotated[dict[str, str], Meta(max_length=2_000)]


class Repeat(_Range, frozen=True, tag="repeat"):
    merges: ClassVar[bool] = True
    times: Integer


class CopyTo(_Range, frozen=True, tag="copy to"):
    to: Integers


class Mood(_Range, frozen=True, tag="mood"):
    """chart: the number of another chart to be shown instead, 0 for the character's own."""

    merges: ClassVar[bool] = True
    mood: str
    chart: Integer = 0


class MakeStretch(_Range, frozen=True, tag="stretch"):
    drawing: str | None = None


class BendStretch(Request, frozen=True, tag="bend stretch"):
    frame: Integer
    wide: Number
    tall: Number
    lean: Number


class DropStretch(Request, frozen=True, tag="drop stretch"):
    frame: Integer


class MeanIt(_Range, frozen=True, tag="meant so"):
    """kind: of what looks wrong; meant: whether it is to be so."""

    merges: ClassVar[bool] = True
    kind: str
    meant: bool = True


class MakeRule(Request, frozen=True, tag="rule"):
    ipa: str
    drawing: str


class DropRule(Request, frozen=True, tag="no rule"):
    ipa: str


class RestoreTake(Request, frozen=True, tag="restore take"):
    take: Integer


class RestoreRange(_Range, frozen=True, tag="restore range"):
    take: Integer


class Settings(Request, frozen=True, tag="settings"):
    hold: Integer
    lead: Integer
    detail: Number
    step: Integer = 1


class SettingsOfRange(_Range, frozen=True, tag="settings of a range"):
    hold: Integer
    lead: Integer
    detail: Number
    step: Integer = 1

    def values(self) -> dict[str, Any]:
        given = super().values()
        own = track.Settings(given.pop("hold"), given.pop("lead"), given.pop("detail"), given.pop("step"))
        return given | {"settings": own}


class NoSettingsOfRange(_Range, frozen=True, tag="no settings of a range"):
    pass


class PlanAnew(Request, frozen=True, tag="plan anew"):
    pass


class PlanWithChart(Request, frozen=True, tag="plan with chart"):
    pass


class _Moving(_Word, frozen=True):
    """stay: whether what was set by hand stays on its frames, and does not go with its words."""

    stay: bool = False


class MoveEdge(_Moving, frozen=True, kw_only=True, tag="edge"):
    merges: ClassVar[bool] = True
    edge: Integer
    time: Number


class MoveWord(_Moving, frozen=True, kw_only=True, tag="move word"):
    merges: ClassVar[bool] = True
    by: Number


class MoveLine(_Moving, frozen=True, kw_only=True, tag="move line"):
    by: Number


class Approve(_Word, frozen=True, tag="approve"):
    merges: ClassVar[bool] = True


class UnpinWord(_Word, frozen=True, tag="unpin word"):
    merges: ClassVar[bool] = True


class SetSound(_Sound, frozen=True, tag="sound"):
    merges: ClassVar[bool] = True
    ipa: str


class InsertSound(_Sound, frozen=True, tag="insert sound"):
    merges: ClassVar[bool] = True
    ipa: str


class DeleteSound(_Sound, frozen=True, tag="delete sound"):
    merges: ClassVar[bool] = True


class SplitWord(_Sound, frozen=True, tag="split word"):
    first: str
    second: str


class MergeWords(_Word, frozen=True, tag="join words"):
    pass


class InsertWord(_Word, frozen=True, tag="insert word"):
    text: str
    start: Number
    end: Number


class WriteWord(_Word, frozen=True, tag="write word"):
    merges: ClassVar[bool] = True
    text: str


class WriteLine(Request, frozen=True, tag="write line"):
    """line: the script's, by its id, or None for new words; end: None for as long as it takes to say it."""

    text: str
    start: Number
    end: Number | None = None
    line: Integer | None = None


class DeleteWord(_Word, frozen=True, tag="delete word"):
    pass


class PlaceLost(_Word, frozen=True, tag="place lost"):
    lost: Integer


class DropLost(Request, frozen=True, tag="drop lost"):
    lost: Integer


VERBS = Verbs(
    {
        Pin: deciding.pin_drawing,
        Unpin: deciding.unpin,
        Show: exposing.show,
        Rest: exposing.rest,
        Keep: exposing.keep,
        Free: exposing.free,
        Merge: exposing.merge,
        Remove: exposing.remove,
        Slide: exposing.slide,
        SlideSound: exposing.slide_sound,
        Ease: exposing.ease,
        Split: exposing.split,
        HoldOn: exposing.hold_on,
        Span: exposing.span,
        Seam: exposing.seam,
        Lay: exposing.lay,
        LayTiming: timing.lay_timing,
        Repeat: exposing.repeat,
        CopyTo: exposing.copy_to,
        Mood: ranging.set_mood,
        MakeStretch: ranging.make_stretch,
        BendStretch: ranging.bend_stretch,
        DropStretch: ranging.drop_stretch,
        MeanIt: ranging.mean_it,
        MakeRule: learning.make_rule,
        DropRule: learning.drop_rule,
        RestoreTake: takes.restore_take,
        RestoreRange: takes.restore_range,
        Settings: deciding.change_settings,
        SettingsOfRange: ranging.set_passage,
        NoSettingsOfRange: ranging.no_passage,
        PlanAnew: deciding.plan_anew,
        PlanWithChart: deciding.plan_with_chart,
        MoveEdge: correcting.move_edge,
        MoveWord: correcting.move_word,
        MoveLine: correcting.move_line,
        Approve: correcting.approve,
        UnpinWord: correcting.unpin,
        SetSound: correcting.set_sound,
        InsertSound: correcting.insert_sound,
        DeleteSound: correcting.delete_sound,
        SplitWord: correcting.split_word,
        MergeWords: correcting.merge_words,
        InsertWord: correcting.insert_word,
        WriteWord: correcting.write_word,
        WriteLine: by_hand.write_line,
        DeleteWord: correcting.delete_word,
        PlaceLost: correcting.place_lost,
        DropLost: correcting.drop_lost,
    }
)
