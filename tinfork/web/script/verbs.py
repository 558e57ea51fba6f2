"""What can be asked of a script, each with what it takes; what a form leaves empty has its standard value."""

from tinfork.web.edits.requests import Integer, Request, Verbs

from . import actions


class _Line(Request, frozen=True, kw_only=True):
    line: Integer = 0


class Write(_Line, frozen=True, tag="write"):
    text: str = ""


class Assign(_Line, frozen=True, tag="assign"):
    character: Integer | None = None


class SetLanguage(_Line, frozen=True, tag="language"):
    language: str = ""


class Say(_Line, frozen=True, tag="say"):
    word: Integer
    ipa: str = ""


class Split(_Line, frozen=True, tag="split"):
    word: Integer


class Join(_Line, frozen=True, tag="join"):
    pass


class Move(_Line, frozen=True, tag="move"):
    by: Integer


class Remove(_Line, frozen=True, tag="remove"):
    pass


VERBS = Verbs(
    {
        Write: actions.write,
        Assign: actions.assign,
        SetLanguage: actions.set_language,
        Say: actions.say,
        Split: actions.split,
        Join: actions.join,
        Move: actions.move,
        Remove: actions.remove,
    }
)
