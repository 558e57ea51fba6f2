"""What a format can be asked beside the shot, said once, beside what writes it: from it the page, the command line,
presets and docs/formats.md have their fields."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

import msgspec
from msgspec import inspect

from ..errors import HandoverError


class Options(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Nothing to ask. A format with options has fields of text or whole numbers, each with a default and, as
    msgspec.Meta, its title, what it does in a line (description) and its limits."""

    def check(self) -> None:
        """HandoverError for what cannot be."""


O = TypeVar("O", bound=Options)  # noqa: E741


@dataclass(frozen=True)
class Field:
    """A field that is filled in. kind: "text" or "number"; title: what it is called; about: what it does."""

    name: str
    kind: str
    default: str | int
    title: str
    about: str


def fields_of(options: type[Options]) -> list[Field]:
    """Return the fields of options, in their order."""
    return [_field(one) for one in inspect.type_info(options).fields]  # type: ignore[attr-defined]


def _field(one: inspect.Field) -> Field:
    told, kind = one.type, "text"
    about: dict[str, Any] = {}
    if isinstance(told, inspect.Metadata):
        about, told = told.extra_json_schema or {}, told.type
    if isinstance(told, inspect.IntType):
        kind = "number"
    return Field(one.name, kind, one.default, about.get("title", one.name), about.get("description", ""))


def taken(options: type[O], given: Mapping[str, Any]) -> O:
    """Return options as they were filled in; what is not given is as usual. HandoverError, in a sentence, for what
    cannot be."""
    titles = {one.name: one.title for one in fields_of(options)}
    try:
        found = msgspec.convert(dict(given), options)
    except msgspec.ValidationError as wrong:
        name = next((name for name in titles if f"`$.{name}`" in str(wrong)), "")
        what = f"“{titles[name]}” cannot be that" if name else "There is no such option here"
        raise HandoverError(f"{what}; look at it again, or reload the page.") from None
    found.check()
    return found
