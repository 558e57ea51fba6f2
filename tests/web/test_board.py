"""The board: shots in states that follow from the work, set many at once and taken back, as a table in and out."""

import csv
import io
import json
from datetime import date, timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.web.remembered import once
from tests.web.test_scale import queries
from tinfork.web.board import facts
from tinfork.web.board.states import State, is_late, progress, state_of
from tinfork.web.jobs.models import Job
from tinfork.web.productions.actions import create_production, create_scene
from tinfork.web.productions.models import Scene
from tinfork.web.rushes.reviewing import Review
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.shots import changing
from tinfork.web.shots.models import BoardStep, BoardView, Shot
from tinfork.web.sound.arranging import arrangement_of, place_sound


@pytest.fixture
def sheet(ferry):
    """Bring a table in."""

    def bring(text, person=None, **how):
        address = f"/productions/{ferry.scene.production_id}/board/table.csv"
        return ferry.client(person or ferry.owner).post(address, {"table": text, **how})

    return bring


@pytest.fixture
def more(ferry):
    """Scenes beside the one there is."""
    return [create_scene(ferry.owner, ferry.scene.production, f"Pier {number}", "24", "1") for number in range(3)]


def rows(ferry, person=None, query=""):
    page = ferry.client(person or ferry.owner).get(f"/productions/{ferry.scene.production_id}/{query}").content.decode()
    return json.loads(page.split('id="board-document" type="application/json">')[1].split("</script>")[0])["rows"]


def state(ferry, scene=None):
    (own,) = [row for row in rows(ferry) if row["id"] == (scene or ferry.scene).pk]
    return own["state"]


THERE = facts.Facts(frames=48, sound=True, words=True, read=True)


@pytest.mark.parametrize(
    ("found", "wrong", "review", "expected"),
    [
        (facts.Facts(), None, None, "no sound"),
        (facts.Facts(words=True), None, None, "no sound"),
        (facts.Facts(sound=True), None, None, "no words"),
        (facts.Facts(sound=True, words=True), None, None, "to read"),
        (facts.Facts(sound=True, words=True, read=True, unread=1), 0, None, "to read"),
        (THERE, None, None, "being looked at"),
        (THERE, 1, None, "open checks"),
        (THERE, 0, None, "read"),
        (THERE, 1, Review(""), "in review"),
        (THERE, 0, Review("", changed=True), "in review"),
        (THERE, 0, Review("changes"), "wants changes"),
        (THERE, 0, Review("approved"), "approved"),
        (THERE, 0, Review("approved", handed_over=True), "handed over"),
        (THERE, 0, Review("approved", changed=True, handed_over=True), "changed since approved"),
    ],
)
def test_a_state_follows_from_what_there_is(found, wrong, review, expected):
    assert state_of(found, wrong, review) == expected


def test_late_is_what_should_be_finished_before_today_and_is_not():
    today = date(2026, 12, 1)
    assert is_late(State.READ, today - timedelta(days=1), today)
    assert not is_late(State.READ, today, today)
    assert not is_late(State.READ, None, today)
    assert not any(is_late(state, date(2026, 1, 1), today) for state in (State.APPROVED, State.HANDED_OVER))


def test_progress_counts_states_in_their_order():
    shots = [
        (State.APPROVED, False, 2.0),
        (State.TO_READ, True, 3.0),
        (State.HANDED_OVER, False, 1.0),
        (State.TO_READ, False, 1.0),
    ]
    found = progress("The pier", shots)
    assert found.counts == ((State.TO_READ, 2), (State.APPROVED, 1), (State.HANDED_OVER, 1))
    assert (found.shots, found.finished, found.late, found.seconds) == (4, 2, 1, 7.0)


def test_a_shot_goes_through_its_states_as_it_is_worked_on(ferry, board):
    scene = create_scene(ferry.owner, ferry.scene.production, "Goat", "24", "1")
    assert state(ferry, scene) == "no sound"
    sound = ferry.scene.production.sounds.get()
    place_sound(ferry.owner, arrangement_of(scene), sound, 0, ferry.stave.character)
    assert state(ferry, scene) == "no words"
    add_text(ferry.owner, script_of(scene), None, "Marit: A goat with a season ticket")
    assert state(ferry, scene) == "to read"
    assert state(ferry) == "being looked at"
    looked = ferry.client(ferry.viewer).get(f"/productions/{ferry.scene.production_id}/board/look")
    (own,) = [row for row in looked.json()["rows"] if row["id"] == ferry.scene.pk]
    assert own["state"] in ("read", "open checks") and own["state"] == state(ferry)
    assert ferry.client(ferry.owner).get(f"/productions/{ferry.scene.production_id}/board/look").status_code == 204
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    assert state(ferry) == "being looked at", "what is changed is looked at again"
    ferry.edit(ferry.owner, "pin", frame=20, frames=3, drawing="purse")
    again = ferry.client(ferry.owner).get(f"/productions/{ferry.scene.production_id}/board/look")
    assert again.status_code == 200, "what was changed since the board was drawn, too"
    add_text(ferry.owner, script_of(ferry.scene), None, "Marit: And one line more")
    assert state(ferry) == "to read"


def test_open_checks_are_told_by_what_the_desk_shows(ferry, board, monkeypatch):
    address = f"/productions/{ferry.scene.production_id}/board/look"
    for wrong, expected in ((True, "open checks"), (False, "read")):
        monkeypatch.setattr(facts, "looks_wrong", lambda stave, look, wrong=wrong: wrong)
        rows(ferry)
        ferry.client(ferry.owner).get(address)
        assert state(ferry) == expected
        ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse" if wrong else "open")


def test_many_are_set_at_once_and_taken_back_as_one(ferry, board, more, editor):
    every = [ferry.scene.pk, *(one.pk for one in more)]
    answer = board("set", name="who", value=str(editor.pk), scenes=every)
    assert {row["who"] for row in answer.json()["rows"]} == {"editor"}
    assert answer.json()["undo"] == "set whose it is of 4 shots"
    board("set", name="due", value="2020-01-02", scenes=every[:2])
    board("set", name="priority", value="high", scenes=every[:1])
    board("set", name="sequence", value="  The pier ", scenes=every[1:])
    board("set", name="number", value="0010", scenes=every[:1])
    found = {row["id"]: row for row in rows(ferry)}
    first, second = found[every[0]], found[every[1]]
    assert (first["due"], first["late"], first["priority"], first["sequence"], first["number"]) == (
        "2020-01-02",
        True,
        1,
        "",
        "0010",
    )
    assert (second["sequence"], second["late"], second["number"]) == ("The pier", True, "")
    for _ in range(5):
        assert board("undo").status_code == 200
    again = rows(ferry)
    assert {(r["who"], r["due"], r["priority"], r["sequence"], r["number"]) for r in again} == {("", "", 0, "", "")}
    refused = board("undo")
    assert (refused.status_code, "nothing to take back" in refused.json()["problem"]) == (422, True)


def test_what_others_set_since_stays_when_one_takes_theirs_back(ferry, board, more, editor):
    board("set", name="due", value="2026-12-24", scenes=[one.pk for one in more])
    board("set", editor, name="due", value="2027-01-05", scenes=[more[0].pk])
    assert "1 that changed since stay" in board("undo").json()["said"]
    assert [row["due"] for row in rows(ferry)[1:]] == ["2027-01-05", "", ""]
    assert "nothing to take back" in board("undo").json()["problem"], "nobody takes back what another did"
    assert BoardStep.objects.filter(undone=False).get().person == editor


def test_what_is_put_away_is_out_of_sight_until_it_is_wanted(ferry, board, more):
    assert board("set", name="archived", value="1", scenes=[more[0].pk]).status_code == 200
    assert more[0].pk not in [row["id"] for row in rows(ferry)]
    assert [row["id"] for row in rows(ferry, query="?archived=1")] == [more[0].pk]
    board("set", name="archived", value="", scenes=[more[0].pk])
    assert len(rows(ferry)) == 4


@pytest.mark.parametrize(
    ("asked", "why"),
    [
        ({"name": "who", "value": "0"}, "given to its production's owner"),
        ({"name": "who", "value": "²"}, "given to its production's owner"),
        ({"name": "due", "value": "tomorrow"}, "is no day"),
        ({"name": "priority", "value": "now"}, "low, usual or high"),
        ({"name": "number", "value": "0" * 13}, "up to 12 characters"),
        ({"name": "sequence", "value": "x" * 999}, "up to"),
        ({"name": "scene_id", "value": "1"}, "could not be understood"),
        ({"name": "due", "value": "", "scenes": []}, "Choose shots first"),
        ({"name": "due", "value": "", "scenes": [0]}, "is gone"),
    ],
)
def test_what_cannot_be_set_says_why_and_changes_nothing(ferry, board, asked, why):
    answer = board("set", **{"scenes": [ferry.scene.pk]} | asked)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert not Shot.objects.exclude(who=None, due=None, priority=0, number="", sequence=None).exists()


def test_nobody_is_given_a_shot_who_may_not_change_it_and_no_scene_of_others_is_set(ferry, board):
    assert board("set", name="who", value=str(ferry.viewer.pk), scenes=[ferry.scene.pk]).status_code == 422
    other = create_scene(ferry.stranger, create_production(ferry.stranger, "Far"), "Far", "24", "1")
    assert board("set", name="due", value="2026-12-24", scenes=[ferry.scene.pk, other.pk]).status_code == 422
    assert not Shot.objects.filter(due__isnull=False).exists()


def test_many_are_read_and_what_cannot_be_is_said(ferry, board, more):
    every = [ferry.scene.pk, more[0].pk]
    answer = board("read", scenes=every).json()
    assert "1 shot will be read" in answer["said"]
    assert "Pier 0" in answer["said"]
    assert Job.objects.filter(kind="read").count() == 1
    assert "no sound" in board("read", scenes=[more[0].pk]).json()["problem"]


def test_a_board_of_many_asks_no_more_than_one_of_few(ferry):
    client, production = ferry.client(ferry.owner), ferry.scene.production
    address = f"/productions/{production.pk}/"
    client.get(address)
    few = queries(lambda: client.get(address))
    sound = production.sounds.get()
    for number in range(6):
        scene = create_scene(ferry.owner, production, f"Scene {number}", "24", "1")
        place_sound(ferry.owner, arrangement_of(scene), sound, 0, ferry.stave.character)
        Shot.objects.create(
            scene=scene, who=ferry.owner, sequence_id=changing.sequence_named(production, f"Part {number}")
        )
    unknown = queries(lambda: client.get(address))
    assert queries(lambda: client.get(address)) == few
    assert unknown <= few + 4


def test_a_view_is_kept_under_a_name_for_oneself(ferry):
    client, address = ferry.client(ferry.viewer), f"/productions/{ferry.scene.production_id}/"
    assert client.post(f"{address}board/views", {"name": "Mine, late", "query": "state=late&who=x"}).status_code == 302
    page = client.get(address).content.decode()
    assert 'href="?state=late&amp;who=x"' in page
    assert "Mine, late" not in ferry.client(ferry.owner).get(address).content.decode()
    for name, query in ((" ", ""), ("x", "q" * 501)):
        assert client.post(f"{address}board/views", {"name": name, "query": query}).status_code == 422
    own = BoardView.objects.get().pk
    ferry.client(ferry.owner).post(f"{address}board/views", {"do": "forget", "view": own})
    assert BoardView.objects.exists()
    client.post(f"{address}board/views", {"do": "forget", "view": own})
    assert not BoardView.objects.exists()


TABLE = """number;name;sequence;rate;first frame;who;due;priority
0010;Fog;The pier;24;1001;editor;2026-12-24;high
0020;=1+1|Goat;The pier;25;1;;;
;"Bill; overdue";;23.976;86400;owner;;low
-1;'tis;;24;1;;;
"""


def test_a_table_comes_in_and_goes_out_again_the_same(ferry, sheet, editor):
    assert sheet(TABLE).json()["said"] == "3 made, 1 found again."
    found = {row["name"]: row for row in rows(ferry)}
    assert (found["Fog"]["who"], found["Fog"]["priority"], found["Fog"]["due"]) == ("editor", 1, "2026-12-24")
    assert Scene.objects.get(name="=1+1|Goat").rate == "25"
    address = f"/productions/{ferry.scene.production_id}/board/table.csv"
    out = ferry.client(ferry.viewer).get(address).content.decode()
    assert {"'=1+1|Goat", "'-1", "''tis"} <= set(out.replace("\r\n", ",").split(",")), "no program works it out"
    assert sheet(out).json()["said"] == "0 made, 4 found again."
    assert ferry.client(ferry.viewer).get(address).content.decode() == out
    table = list(csv.DictReader(io.StringIO(out)))
    assert [row["name"] for row in table] == ["Fog", "'=1+1|Goat", "Bill; overdue", "''tis"]
    assert [row["state"] for row in table][1:] == ["no sound"] * 3


def test_broken_rows_are_told_and_the_good_ones_come_in_or_none_as_asked(ferry, sheet):
    given = ["Good,,,24", ",,,24", "Stranger's,stranger,,24", "Never,,24.12.,24", "Odd,,,fast", "Fog,,,25"]
    text = "\n".join(["name,who,due,rate", *given]).replace(",", "\t")
    refused = sheet(text)
    assert refused.status_code == 422
    told = refused.json()["problem"]
    assert told.startswith("Nothing was brought in. 5 could not be read: row 3")
    for why in (
        "row 4: “stranger” animates nothing here",
        "row 5: “24.12.” is no day",
        "row 6",
        "row 7: “Fog” is there at 24",
    ):
        assert why in told
    assert [row["name"] for row in rows(ferry)] == ["Fog"]
    assert "1 made, 0 found again. 5 could not be read" in sheet(text, good="1").json()["said"]
    assert [row["name"] for row in rows(ferry)] == ["Fog", "Good"]


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "Paste a table first"),
        ("number,who\n1,x\n", "one of them “name”"),
        ("name,colour\nx,red\n", "no column “colour”"),
        ('name,who\n"x', "no table that can be read"),
        ("name\n" + "x\n" * 5_001, "up to 5,000 shots"),
        ("name\n" + "x" * 2_000_001, "up to 2,000,000 characters"),
    ],
)
def test_what_is_no_table_says_so(ferry, sheet, text, why):
    answer = sheet(text)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]


def test_a_table_comes_as_a_file_too_with_a_mark_before_it(ferry, sheet):
    file = SimpleUploadedFile("shots.csv", "\ufeffname\r\nNorth pier\r\n".encode())
    assert sheet("", file=file).json()["said"] == "1 made, 0 found again."


def test_each_recording_becomes_a_shot(ferry, spoken):
    address = f"/productions/{ferry.scene.production_id}/board/sounds"
    client = ferry.client(ferry.owner)
    files = [SimpleUploadedFile(f"0{n} pier.wav", spoken[0]) for n in (1, 2)] + [SimpleUploadedFile("no.wav", b"no")]
    with once("tinfork.web.sound.actions.aside"):
        answer = client.post(address, {"sound": files, "rate": "25", "first": "1"})
    assert answer.json()["said"].startswith("2 made. 1 could not be read: no: ")
    assert [(row["name"], row["fps"], row["state"]) for row in answer.json()["rows"][1:]] == [
        ("01 pier", 25.0, "no words"),
        ("02 pier", 25.0, "no words"),
    ]
    refused = client.post(address, {"rate": "25", "first": "1"})
    assert "Choose recordings first" in refused.json()["problem"]


def test_who_leaves_the_production_has_no_shots_there_any_more(ferry, board, editor):
    board("set", name="who", value=str(editor.pk), scenes=[ferry.scene.pk])
    member = ferry.scene.production.membership_set.get(person=editor).pk
    ferry.client(ferry.owner).post(f"/productions/{ferry.scene.production_id}/people/", {"do": "remove", "who": member})
    assert rows(ferry)[0]["who"] == ""


def test_steps_of_long_ago_are_forgotten(ferry, board, monkeypatch):
    monkeypatch.setattr(changing, "_KEPT_STEPS", 2)
    for day in range(1, 5):
        board("set", name="due", value=f"2026-12-0{day}", scenes=[ferry.scene.pk])
    assert BoardStep.objects.count() == 2
