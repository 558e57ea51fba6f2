"""Edits as requests: each verb is a model of what it takes, checked before anything is done.

Numbers no scene can have, names that are not the verb's, texts that cannot be kept: all of it ends here, in a sentence.
"""

from collections.abc import Callable, Mapping
from typing import Annotated, Any, ClassVar, Union

import msgspec
from django.http import HttpRequest, JsonResponse, QueryDict
from django.http.request import RawPostDataException
from msgspec import Meta, Struct, structs

from tinfork.core.errors import TinForkError
from tinfork.web.cleaning import MOST, clean
from tinfork.web.files.store import DiskFullError

from . import actions
from .models import Document

Integer = Annotated[int, Meta(ge=-MOST, le=MOST)]
Number = Annotated[float, Meta(ge=-MOST, le=MOST)]
MANY = Meta(max_length=2_000)
"""No list that is asked for is longer."""

Integers = Annotated[list[Integer], MANY]
Span = tuple[Number, Number]

_NOT_UNDERSTOOD = "This could not be understood; reload the page and do it again."


class Request(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="verb"):
    """One edit on one version of a document. Its tag is the verb, its other fields what the action is given. merges:
    whether it names what it changes by frames or words, so that it means the same after others changed others."""

    merges: ClassVar[bool] = False
    version: Integer

    def values(self) -> dict[str, Any]:
        """Return what the action is given, by name."""
        return {name: clean(value) if isinstance(value, str) else value for name, value in structs.asdict(self).items()}


class Undo(Request, frozen=True, tag="undo"):
    """Take back the last step of the scene."""


class Redo(Request, frozen=True, tag="redo"):
    """Do again what was undone last."""


class Verbs:
    """What can be done to a kind of document: for each request the action it asks for; and undo and redo."""

    def __init__(self, verbs: Mapping[type[Request], Callable[..., Any]]) -> None:
        self._actions: dict[type[Request], Callable[..., Any]] = {Undo: actions.undo, Redo: actions.redo, **verbs}
        self._kind: Any = Union[tuple(self._actions)]  # noqa: UP007

    @property
    def requests(self) -> tuple[type[Request], ...]:
        """The models of what can be asked."""
        return tuple(self._actions)

    def of_json(self, request: HttpRequest) -> Request:
        """Return the edit a request brings as JSON. TinForkError when it is none."""
        asked: Request = parsed(request, self._kind)
        return asked

    def of_form(self, form: QueryDict) -> Request:
        """Return the edit a form asks for; what is left empty was not given. TinForkError when it is none."""
        given = {name: value for name, value in form.items() if value != "" and name != "csrfmiddlewaretoken"}
        try:
            asked: Request = msgspec.convert(given, self._kind, strict=False)
        except msgspec.ValidationError:
            raise TinForkError(_NOT_UNDERSTOOD) from None
        return asked

    def perform(self, person: Any, document: Document, asked: Request) -> dict[str, Any]:
        """Do an edit; what it has to say beside the document it changed. TinForkError when it cannot be done."""
        with actions.merging(asked.merges):
            try:
                said = self._actions[type(asked)](person, document, **asked.values())
            except TinForkError as refused:
                raise actions.stale_instead(document, asked.version, refused) from None
        if isinstance(said, Document) and said.remarks:
            return {"notes": list(said.remarks)}
        return said if isinstance(said, dict) else {}


def parsed(request: HttpRequest, kind: Any) -> Any:
    """Return the JSON a request brings, as a value of a kind. TinForkError when it is none."""
    try:
        return msgspec.json.decode(request.body, type=kind)
    except (msgspec.MsgspecError, RawPostDataException, RecursionError, UnicodeError):
        raise TinForkError(_NOT_UNDERSTOOD) from None


def answer_of(do: Callable[[], dict[str, Any]]) -> JsonResponse:
    """Do something and say what came of it; 422 with a sentence when it cannot be done."""
    try:
        return JsonResponse(do())
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)


def answer(do: Callable[[], Any], document: Callable[[], dict[str, Any]]) -> JsonResponse:
    """Do an edit and answer with the document as it is then.

    422 when it cannot be done, 409 when the version is stale, 507 when the disk is full; each with a sentence and the
    document as it is.
    """
    try:
        extra = do()
    except DiskFullError as refused:
        return JsonResponse({"problem": str(refused), "document": document()}, status=507)
    except actions.Stale as refused:
        return JsonResponse({"problem": str(refused), "document": document()}, status=409)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused), "document": document()}, status=422)
    return JsonResponse({"document": document(), **(extra if isinstance(extra, dict) else {})})
