"""What a format can be asked is said once, and everything else follows from that."""

from pathlib import Path
from typing import Annotated

import pytest
from msgspec import Meta

from tinfork.core.errors import HandoverError
from tinfork.core.formats.options import Field, Options, fields_of, taken
from tinfork.core.formats.registry import FORMATS

DOCS = (Path(__file__).parents[2] / "docs" / "formats.md").read_text(encoding="utf-8")


class Some(Options, frozen=True):
    """Two options."""

    ink: Annotated[str, Meta(title="Ink", description="of the lines", max_length=5)] = "tin"
    often: Annotated[int, Meta(title="How often", ge=0, le=3)] = 1


def test_fields_say_what_they_are():
    assert fields_of(Some) == [
        Field("ink", "text", "tin", "Ink", "of the lines"),
        Field("often", "number", 1, "How often", ""),
    ]
    assert fields_of(Options) == []


def test_what_is_filled_in_is_taken_and_the_rest_is_as_usual():
    assert taken(Some, {}) == Some()
    assert taken(Some, {"often": 3}) == Some("tin", 3)


@pytest.mark.parametrize(
    ("given", "why"),
    [
        ({"often": 4}, "“How often” cannot be that"),
        ({"often": "x"}, "“How often” cannot be that"),
        ({"ink": "copper"}, "“Ink” cannot be that"),
        ({"colour": "tin"}, "no such option"),
    ],
)
def test_what_cannot_be_has_a_sentence(given, why):
    with pytest.raises(HandoverError, match=why):
        taken(Some, given)


def test_no_two_formats_end_alike():
    assert len({own.suffix for own in FORMATS.values()}) == len(FORMATS)


def test_every_option_is_documented():
    for kind, own in FORMATS.items():
        for field in fields_of(own.options):
            assert f"| `{kind}` | `{field.name}` | {field.title}: {field.about} | `{field.default}` |" in DOCS
