"""One search over all that a person may see."""

import pytest
from django.utils import timezone

from tests.web.test_scale import queries
from tinfork.web.finding.searching import find, words_in
from tinfork.web.productions.actions import create_scene
from tinfork.web.rushes import actions as rushes
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.shots.changing import set_field


@pytest.fixture
def there(ferry):
    production = ferry.scene.production
    other = create_scene(ferry.owner, production, "The goat's ticket", "24", "1")
    set_field(ferry.owner, production, [other.pk], "number", "0420")
    add_text(ferry.owner, script_of(other), None, "Marit: A lantern bill, overdue\nPock: Ærlig talt, nei")
    rushes.write(ferry.viewer, other, rushes.Note(text="The lantern blinks late", frame=7))
    ferry.viewer.first_name, ferry.viewer.last_name = "Hilde", "Strand Berg"
    ferry.viewer.save()
    return other


def found(person, text):
    return {kind: [one.text for one in things] for kind, things in find(person, text)}


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("ferry", {"Productions": ["The Salt Ferry"]}),
        ("TICK", {"Shots": ["0420 · The goat's ticket"]}),
        ("042", {"Shots": ["0420 · The goat's ticket"]}),
        ("goat 0420", {"Shots": ["0420 · The goat's ticket"]}),
        ("lant", {"Lines": ["A lantern bill, overdue"], "Notes": ["The lantern blinks late"]}),
        ("over lant", {"Lines": ["A lantern bill, overdue"]}),
        ("ærl", {"Lines": ["Pock: Ærlig talt, nei"]}),
        ("blinks", {"Notes": ["The lantern blinks late"]}),
        ("hil ber", {"People": ["Hilde Strand Berg"]}),
        ("bill nei", {}),
        ("", {}),
        ("!!! ' & | :* \\", {}),
        ("antern", {}),
    ],
)
def test_words_that_begin_so_are_found(ferry, there, text, expected):
    assert found(ferry.owner, text) == expected


def test_nobody_finds_what_is_not_theirs_to_see(ferry, there):
    for text in ("ferry", "tick", "lantern", "hil", "marit"):
        assert found(ferry.stranger, text) == {}, text
    assert found(ferry.viewer, "lantern")


def test_what_is_deleted_is_not_found(ferry, there):
    there.removed = timezone.now()
    there.save()
    assert found(ferry.owner, "lantern") == {}
    assert found(ferry.owner, "tick") == {}


def test_each_thing_is_found_where_it_is(ferry, there):
    (line,) = script_of(there).value.lines[:1]
    addresses = [one.address for _, things in find(ferry.owner, "lantern") for one in things]
    assert addresses == [f"/scenes/{there.pk}/script/#line-{line.id}", f"/scenes/{there.pk}/rushes/?frame=7"]
    page = ferry.client(ferry.owner).get("/find/", {"q": "lantern"}).content.decode()
    assert all(address in page for address in addresses)
    assert "viewer, frame 8" in page or "Hilde Strand Berg, frame 8" in page


def test_what_was_written_is_text_in_what_is_found(ferry):
    rushes.write(ferry.viewer, ferry.scene, rushes.Note(text="skiff <script>boot()</script>"))
    page = ferry.client(ferry.owner).get("/find/", {"q": "skiff"}).content.decode()
    assert "&lt;script&gt;boot()" in page


def test_what_is_typed_is_bounded():
    assert words_in("a " * 1000) == ["a"] * 8
    assert words_in("x" * 10_000) == ["x" * 200]


def test_a_search_costs_as_many_questions_whatever_there_is(ferry, there):
    before = queries(lambda: find(ferry.owner, "lantern"))
    for number in range(20):
        scene = create_scene(ferry.owner, ferry.scene.production, f"Lantern {number}", "24", "1")
        add_text(ferry.owner, script_of(scene), None, "A lantern again")
        rushes.write(ferry.owner, scene, rushes.Note(text="Lantern"))
    assert queries(lambda: find(ferry.owner, "lantern")) == before
    assert [len(things) for _, things in find(ferry.owner, "lantern")] == [12, 12, 12]
