"""Rushes: versions shown and judged, notes on frames, and what a board says of it."""

import json
import threading

import msgspec
import pytest
from django.db import connection

from tests.web.test_board import rows, state
from tests.web.test_charts import drawn
from tests.web.test_scale import queries
from tinfork.core.errors import HandoverError
from tinfork.core.plain import plain
from tinfork.web.charts.actions import bring_in, create_chart, wear
from tinfork.web.edits.models import Edit
from tinfork.web.handover import actions as actions_of_handover
from tinfork.web.handover import keeping
from tinfork.web.handover.models import Handover, Version
from tinfork.web.handover.rendering import make_handover
from tinfork.web.handover.roles import role_of
from tinfork.web.handover.wishes import Wish
from tinfork.web.jobs.models import Job
from tinfork.web.productions.actions import create_scene
from tinfork.web.rushes import actions
from tinfork.web.rushes.models import Comment, Verdict
from tinfork.web.staves.planning import planned


@pytest.fixture
def rushes(ferry):
    """Ask for something of the scene's rushes."""

    def ask(what, person=None, **asked):
        address = f"/scenes/{ferry.scene.pk}/rushes/{what}"
        return ferry.client(person or ferry.owner).post(address, json.dumps(asked), content_type="application/json")

    return ask


def changes(ferry, drawing="purse", frame=10):
    assert ferry.edit(ferry.owner, "pin", frame=frame, frames=3, drawing=drawing).status_code == 200


def test_a_shot_is_shown_noted_on_mended_approved_and_changed_since(ferry, rushes):
    assert rushes("show").json()["versions"][0]["number"] == 1
    assert state(ferry) == "in review"
    noted = rushes("note", ferry.viewer, text="Opens too early", frame=12, end=14, place=[0.25, 0.5]).json()["notes"]
    assert [(n["who"], n["frame"], n["end"], n["place"], n["own"]) for n in noted] == [
        ("viewer", 12, 14, [0.25, 0.5], True)
    ]
    assert rushes("judge", ferry.viewer, version=1, kind="changes").status_code == 200
    assert state(ferry) == "wants changes"
    changes(ferry)
    assert state(ferry) == "wants changes"
    assert rushes("done", note=noted[0]["id"], done=True).json()["notes"][0]["done"]
    assert rushes("show").json()["versions"][0]["number"] == 2
    assert state(ferry) == "in review"
    said = rushes("judge", ferry.viewer, version=2, kind="approved").json()["versions"]
    assert [[one["kind"] for one in version["said"]] for version in said] == [["approved"], ["changes"]]
    assert said[0]["said"][0]["who"] == "viewer"
    assert state(ferry) == "approved"
    changes(ferry, "open")
    assert state(ferry) == "changed since approved"
    ferry.edit(ferry.owner, "undo")
    assert Verdict.objects.count() == 2, "what was said is no step of undo"
    assert not Edit.objects.filter(verb__contains="review").exists()


def test_a_version_keeps_exactly_what_was_seen_whatever_changes_since(ferry, rushes):
    before = plain(role_of(planned(ferry.fresh)))
    rushes("show")
    version = Version.objects.get()
    changes(ferry)
    chart = create_chart(ferry.owner, ferry.scene.production, "Ours")
    bring_in(ferry.owner, chart, [drawn("open"), drawn("rest")])
    wear(ferry.owner, ferry.stave.character, chart)
    kept = keeping.kept_in(Version.objects.get().kept)
    assert plain(kept.roles[0]) == before
    assert kept.characters == [ferry.stave.character_id]
    shown = ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/rushes/versions/1").json()
    (role,) = shown["roles"]
    assert [(e["frame"], e["drawing"]) for e in role["exposures"]] == [
        (e["frame"], e["drawing"]) for e in before["exposures"]
    ]
    assert {one["name"] for one in role["chart"]["drawings"]} == set(before["drawn"])
    assert version.number == shown["number"] == 1


def test_what_changed_since_a_version_is_told_by_whom_and_frames(ferry, rushes):
    rushes("show")
    address = f"/scenes/{ferry.scene.pk}/rushes/versions/1"
    assert ferry.client(ferry.owner).get(address).json()["changes"] == []
    changes(ferry, "purse", 10)
    told = ferry.client(ferry.owner).get(address).json()["changes"]
    assert all(one["who"] == "Marit" and one["was"] != one["now"] for one in told)
    assert {frame for one in told for frame in range(one["frame"], one["end"])} >= {10, 11, 12}
    assert {one["now"] for one in told if one["frame"] <= 11 < one["end"]} == {"purse"}


def test_two_versions_are_compared_whatever_came_after(ferry, rushes):
    rushes("show")
    changes(ferry, "purse", 10)
    rushes("show")
    client, at = ferry.client(ferry.owner), f"/scenes/{ferry.scene.pk}/rushes/versions"
    between = client.get(f"{at}/1").json()["changes"]
    changes(ferry, "open", 30)
    assert client.get(f"{at}/1?than=2").json()["changes"] == between
    back = client.get(f"{at}/2?than=1").json()["changes"]
    assert [(one["frame"], one["was"], one["now"]) for one in back] == [
        (one["frame"], one["now"], one["was"]) for one in between
    ]
    assert client.get(f"{at}/1?than=9").status_code == 404


@pytest.mark.parametrize("what", ["edit", "look", "sound"])
def test_whatever_is_seen_or_heard_makes_it_another_version(ferry, rushes, what):
    rushes("show")
    refused = rushes("show")
    assert (refused.status_code, "Nothing has changed since version 1" in refused.json()["problem"]) == (422, True)
    if what == "edit":
        changes(ferry)
    elif what == "look":
        ferry.stave.character.skin = "#123456"
        ferry.stave.character.save()
    else:
        ferry.sound(ferry.owner, "length", frames=90)
    assert rushes("show").json()["versions"][0]["number"] == 2


def test_words_alone_change_nothing_that_is_seen(ferry, rushes):
    rushes("show")
    line = ferry.stave.lines.first().line
    assert ferry.script(ferry.owner, "write", line=line, text="Other words").status_code == 200
    assert rushes("show").status_code == 422


def test_a_version_that_was_handed_over_says_so_and_another_does_not(ferry, rushes):
    rushes("show")
    rushes("judge", version=1, kind="approved")
    own = {area: n for area, n in Version.objects.get().of.items() if not area.startswith("look ")}

    def made(state, of):
        job = Job.objects.create(scene=ferry.scene, person=ferry.owner, kind="handover", subject=1, state=state)
        return Handover.objects.create(job=job, wish={}, of={str(ferry.scene.pk): of})

    made("failed", own)
    made("done", own | {ferry.stave.area: 99})
    made("done", {})
    assert state(ferry) == "approved"
    made("done", own)
    assert state(ferry) == "handed over"


@pytest.mark.parametrize(
    ("asked", "why"),
    [
        ({"version": 2, "kind": "approved"}, "newer version"),
        ({"version": 0, "kind": "approved"}, "newer version"),
        ({"version": 1, "kind": "maybe"}, "could not be understood"),
        ({"version": 1}, "could not be understood"),
    ],
)
def test_a_verdict_that_cannot_be_says_why(rushes, asked, why):
    rushes("show")
    answer = rushes("judge", **asked)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert not Verdict.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_of_two_who_approve_at_once_one_is_told_who_did(ferry, rushes):
    rushes("show")
    answers = []

    def approve(person):
        answers.append(rushes("judge", person, version=1, kind="approved"))
        connection.close()

    threads = [threading.Thread(target=approve, args=[person]) for person in (ferry.owner, ferry.viewer)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(answer.status_code for answer in answers) == [200, 422]
    assert Verdict.objects.count() == 1
    assert "has said so already" in next(a for a in answers if a.status_code == 422).json()["problem"]


def test_approving_while_another_edits_approves_what_was_shown(ferry, rushes):
    rushes("show")
    changes(ferry)
    assert rushes("judge", ferry.viewer, version=1, kind="approved").status_code == 200
    assert state(ferry) == "changed since approved"


def test_who_edits_does_not_approve_and_who_approves_does_not_show(ferry, rushes, editor):
    assert rushes("show", editor).status_code == 200
    assert rushes("judge", editor, version=1, kind="approved").status_code == 404
    changes(ferry)
    assert rushes("show", ferry.viewer).status_code == 404
    assert rushes("note", editor, text="x").status_code == 200


def test_notes_are_answered_done_and_taken_away_by_who_wrote_them(ferry, rushes, editor):
    first = rushes("note", ferry.viewer, text="Later", frame=5).json()["notes"][0]["id"]
    answered = rushes("note", editor, text="Two frames", on=first, frame=40).json()["notes"]
    assert [(n["on"], n["frame"]) for n in answered] == [(0, 5), (first, 5)]
    answer = answered[1]["id"]
    assert "is gone" in rushes("note", editor, text="x", on=answer).json()["problem"], "answers have no answers"
    assert rushes("done", editor, note=first, done=True).json()["notes"][0]["done"]
    assert not rushes("done", ferry.viewer, note=first, done=False).json()["notes"][0]["done"]
    assert "Who wrote a note" in rushes("take-away", editor, note=first).json()["problem"]
    assert rushes("take-away", ferry.viewer, note=first).json()["notes"] == []
    assert not Comment.objects.exists(), "its answers go with it"


@pytest.mark.parametrize(
    ("asked", "why"),
    [
        ({"text": "  \0 "}, "Write something"),
        ({"text": "x" * 1_000_000}, "up to 4,000 characters"),
        ({"text": "x", "frame": -1}, "could not be understood"),
        ({"text": "x", "frame": 10**9}, "could not be understood"),
        ({"text": "x", "place": [2, 0]}, "could not be understood"),
        ({"text": "x", "line": [[0, 0]] * 401}, "could not be understood"),
        ({"text": "x", "on": 99}, "is gone"),
        ({"text": "x", "by": "Hilde"}, "could not be understood"),
        ({}, "could not be understood"),
    ],
)
def test_a_note_that_cannot_be_kept_says_why(rushes, asked, why):
    answer = rushes("note", **asked)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert not Comment.objects.exists()


def test_a_note_of_another_scene_is_not_reached_from_here(ferry, rushes):
    other = create_scene(ferry.owner, ferry.scene.production, "Goat", "24", "1")
    note = Comment.objects.create(scene=other, person=ferry.owner, name="owner", text="x")
    for what, asked in (("done", {"done": True}), ("take-away", {})):
        assert "is gone" in rushes(what, note=note.pk, **asked).json()["problem"]
    assert "is gone" in rushes("note", text="x", on=note.pk).json()["problem"]


def test_what_is_written_in_a_note_is_text_on_the_page(ferry, rushes):
    rushes("note", text="</script><script>alert(1)</script>")
    page = ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/rushes/").content.decode()
    assert "<script>alert" not in page
    assert "\\u003Cscript\\u003Ealert(1)" in page


def test_so_many_notes_are_kept(rushes, monkeypatch):
    monkeypatch.setattr(actions, "MOST_COMMENTS", 2)
    assert [rushes("note", text="x").status_code for _ in range(3)] == [200, 200, 422]


def test_nothing_to_look_at_is_not_shown(ferry):
    scene = create_scene(ferry.owner, ferry.scene.production, "Goat", "24", "1")
    client = ferry.client(ferry.owner)
    refused = client.post(f"/scenes/{scene.pk}/rushes/show", "{}", content_type="application/json")
    assert "Nobody has mouths here yet" in refused.json()["problem"]
    assert "Nobody has mouths here yet" in client.get(f"/scenes/{scene.pk}/rushes/").content.decode()
    assert client.get(f"/scenes/{ferry.scene.pk}/rushes/versions/7").status_code == 404


def test_what_somebody_wrote_stays_under_their_name_when_they_leave(ferry, rushes):
    rushes("note", ferry.viewer, text="Later")
    rushes("show")
    rushes("judge", ferry.viewer, version=1, kind="approved")
    ferry.viewer.delete()
    address = f"/scenes/{ferry.scene.pk}/rushes/review"
    told = ferry.client(ferry.owner).get(address).json()
    assert (told["notes"][0]["who"], told["versions"][0]["said"][0]["who"]) == ("viewer", "viewer")


def test_a_board_of_many_reviews_asks_no_more_than_one_of_few(ferry, rushes):
    rushes("show")
    rows(ferry)
    client, address = ferry.client(ferry.owner), f"/productions/{ferry.scene.production_id}/"
    few = queries(lambda: client.get(address))
    for number in range(4):
        scene = create_scene(ferry.owner, ferry.scene.production, f"Pier {number}", "24", "1")
        version = Version.objects.create(
            scene=scene, number=1, of={}, frames=1, rate="24", start_frame=1, who={}, kept=b""
        )
        version.verdicts.create(name="x", kind="approved")
    rows(ferry)
    assert queries(lambda: client.get(address)) == few


def test_a_version_is_handed_over_again_whatever_was_edited_since(ferry, rushes):
    rushes("show")
    rushes("judge", version=1, kind="approved")
    ask = {"kinds": ["csv"], "version": 1}

    def made(wish):
        job = actions_of_handover.ask_for(ferry.owner, ferry.scene, msgspec.convert(wish, Wish))
        make_handover(job, lambda share: None)
        Job.objects.filter(pk=job.pk).update(state="done")
        return Handover.objects.get(job=job)

    before = made({"kinds": ["csv"]})
    changes(ferry)
    ferry.sound(ferry.owner, "length", frames=60)
    again, now = made(ask), made({"kinds": ["csv"]})
    sums = [one.files.get().sha256 for one in (before, again, now)]
    assert sums[0] == sums[1] != sums[2]
    assert state(ferry) == "changed since approved"
    with pytest.raises(HandoverError, match="no such version"):
        made(ask | {"version": 7})
    other = create_scene(ferry.owner, ferry.scene.production, "Goat", "24", "1")
    with pytest.raises(HandoverError, match="no such version"):
        made(ask | {"scenes": [other.pk]})
