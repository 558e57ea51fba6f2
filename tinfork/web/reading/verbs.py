"""What can be asked of a stave, each with what it takes. Times are seconds of the scene, frames are the scene's; a word
is named by its line and its place in that."""

from tinfork.web.edits.requests import Integer, Number, Request, Verbs

from . import actions, by_hand, correcting

WordPlace = tuple[Integer, Integer]


class _Word(Request, frozen=True):
    at: WordPlace


class _Sound(_Word, frozen=True):
    sound: Integer


class Pin(Request, frozen=True, tag="pin"):
    frame: Integer
    frames: Integer
    drawing: str


class Unpin(Request, frozen=True, tag="unpin"):
    frame: Integer


class Settings(Request, frozen=True, tag="settings"):
    hold: Integer
    lead: Integer
    detail: Number


class PlanWithChart(Request, frozen=True, tag="plan with chart"):
    pass


class MoveEdge(_Word, frozen=True, tag="edge"):
    edge: Integer
    time: Number


class MoveWord(_Word, frozen=True, tag="move word"):
    by: Number


class MoveLine(_Word, frozen=True, tag="move line"):
    by: Number


class Approve(_Word, frozen=True, tag="approve"):
    pass


class UnpinWord(_Word, frozen=True, tag="unpin word"):
    pass


class SetSound(_Sound, frozen=True, tag="sound"):
    ipa: str


class InsertSound(_Sound, frozen=True, tag="insert sound"):
    ipa: str


class DeleteSound(_Sound, frozen=True, tag="delete sound"):
    pass


class SplitWord(_Sound, frozen=True, tag="split word"):
    first: str
    second: str


class MergeWords(_Word, frozen=True, tag="join words"):
    pass


class InsertWord(_Word, frozen=True, tag="insert word"):
    text: str
    start: Number
    end: Number


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
        Pin: actions.pin_drawing,
        Unpin: actions.unpin,
        Settings: actions.change_settings,
        PlanWithChart: actions.plan_with_chart,
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
        WriteLine: by_hand.write_line,
        DeleteWord: correcting.delete_word,
        PlaceLost: correcting.place_lost,
        DropLost: correcting.drop_lost,
    }
)
