"""A revised script laid over the one there is: shown before it is taken, taken in one step, hand-work kept."""

import pytest

from tests.speech import LINE
from tinfork.web.edits.models import Edit
from tinfork.web.script.actions import add_text, script_of, write

OTHER = "The gull ate the ticket."


@pytest.fixture
def revise(ferry):
    """Ask for a revision as the page does."""
    add_text(ferry.owner, script_of(ferry.scene), None, f"Marit: {OTHER}")

    def ask(text, person=None, **how):
        address = f"/scenes/{ferry.scene.pk}/script/revise/"
        return ferry.client(person or ferry.owner).post(address, {"text": text, **how})

    return ask


def texts(ferry):
    return [line.text for line in script_of(ferry.scene).value.lines]


def test_what_it_changes_is_shown_and_nothing_is_changed_by_that(ferry, revise):
    before = script_of(ferry.scene)
    page = revise(f"Marit: {LINE}\nMarit: The gull ate both tickets.\nA new line <b>here</b>").content.decode()
    assert "<del>the ticket.</del> <ins>both tickets.</ins>" in page
    assert "A new line &lt;b&gt;here&lt;/b&gt;" in page
    assert [page.count(f'class="revised-{kind}"') for kind in ("same", "changed", "new")] == [1, 1, 1]
    after = script_of(ferry.scene)
    assert (after.version, after.body) == (before.version, before.body)


def test_lines_that_are_found_again_keep_what_was_read_and_pinned_and_one_step_takes_it_back(ferry, revise):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    before, kept = ferry.reading, texts(ferry)
    document = script_of(ferry.scene)
    answer = revise(f"A goat, first.\n{LINE}", take="1", version=document.version)
    assert answer.headers["Location"] == f"/scenes/{ferry.scene.pk}/script/"
    now = script_of(ferry.scene).value.lines
    assert [line.text for line in now] == ["A goat, first.", LINE]
    assert now[1].id == 1
    assert now[1].character == ferry.stave.character_id
    assert ferry.reading == before
    assert [pin.drawing for pin in ferry.fresh.pin_values] == ["purse"]
    assert Edit.objects.filter(scene=ferry.scene).last().verb == "revised script"
    ferry.script(ferry.owner, "undo")
    assert texts(ferry) == kept


def test_what_somebody_changed_meanwhile_is_not_overwritten(ferry, revise):
    document = script_of(ferry.scene)
    version = document.version
    write(ferry.owner, document, version, 1, "Fog.")
    answer = revise("A goat.", take="1", version=version)
    assert answer.status_code == 422
    page = answer.content.decode()
    assert "changed meanwhile" in page
    assert "revised-gone" in page, "what it would change now is shown"
    assert texts(ferry)[0] == "Fog."


@pytest.mark.parametrize(("text", "why"), [("", "no line in this"), (" ", "no line in this"), ("x" * 3000, "Split it")])
def test_a_revision_that_cannot_be_taken_says_why_and_keeps_what_was_typed(ferry, revise, text, why):
    before = texts(ferry)
    for how in ({}, {"take": "1", "version": script_of(ferry.scene).version}):
        answer = revise(text, **how)
        assert answer.status_code == 422
        page = answer.content.decode()
        assert why in page
        assert text in page
    assert texts(ferry) == before


def test_who_only_watches_revises_nothing(ferry, revise):
    assert revise("A goat.", person=ferry.viewer).status_code == 404
    assert revise("A goat.", person=ferry.stranger).status_code == 404
