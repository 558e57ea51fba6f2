"""The log at the camera: kept once however often it is sent, by whoever may, in the order it came about."""

import json
from uuid import uuid4

import pytest

from tinfork.web.productions.actions import create_scene


def say(ferry, person, *said):
    rows = [{"key": str(key), "frame": frame, "when": when, "again": again} for key, frame, when, again in said]
    return post(ferry, person, json.dumps({"said": rows}))


def post(ferry, person, body):
    return ferry.client(person).post(f"/scenes/{ferry.scene.pk}/prompter/log", body, content_type="application/json")


def at(second):
    return f"2026-11-26T10:00:{second:02d}Z"


def test_each_thing_is_kept_once_and_the_last_said_of_a_frame_holds(ferry, editor):
    one, two, three = uuid4(), uuid4(), uuid4()
    say(ferry, ferry.owner, (one, 3, at(1), False), (two, 4, at(2), False))
    answer = say(ferry, editor, (three, 3, at(5), True), (two, 4, at(2), False)).json()
    assert answer["frames"] == {"3": True, "4": False}
    assert [(row["frame"], row["again"], row["who"]) for row in answer["last"]] == [
        (3, True, "editor"),
        (4, False, "owner"),
        (3, False, "owner"),
    ]
    late = say(ferry, ferry.owner, (uuid4(), 3, at(3), False)).json()
    assert late["frames"]["3"] is True, "what was said before, and comes later, is older"
    page = ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/prompter/").content.decode()
    assert "again" in page
    assert ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/prompter/log").json() == late


WHOLE = {"key": str(uuid4()), "frame": 1, "when": at(1)}


@pytest.mark.parametrize(
    "said", [3, [WHOLE | {"key": "x"}], [WHOLE | {"frame": -1}], [WHOLE | {"when": "soon"}], [WHOLE | {"colour": 1}]]
)
def test_what_cannot_be_said_is_refused_with_a_sentence(ferry, said):
    answer = post(ferry, ferry.owner, json.dumps({"said": said}))
    assert answer.status_code == 422
    assert "could not be understood" in answer.json()["problem"]
    assert not ferry.scene.exposed.exists()


def test_a_viewer_reads_and_does_not_say_and_an_empty_scene_says_what_comes_first(ferry):
    assert say(ferry, ferry.viewer, (uuid4(), 3, at(1), False)).status_code == 404
    scene = create_scene(ferry.owner, ferry.scene.production, "Empty", "24", "1")
    page = ferry.client(ferry.viewer).get(f"/scenes/{scene.pk}/prompter/").content.decode()
    assert "No mouths yet" in page


def test_a_page_is_told_only_what_it_does_not_know(ferry, django_assert_max_num_queries):
    first = say(ferry, ferry.owner, *((uuid4(), frame, at(1), False) for frame in range(500))).json()
    assert len(first["frames"]) == 500
    body = {"said": [WHOLE | {"key": str(uuid4()), "frame": 7, "when": at(9), "again": True}], "since": first["upTo"]}
    client, address = ferry.client(ferry.owner), f"/scenes/{ferry.scene.pk}/prompter/log"
    with django_assert_max_num_queries(19):
        more = client.post(address, json.dumps(body), content_type="application/json").json()
    assert more["frames"] == {"7": True}
    assert [row["frame"] for row in more["last"]] == [7]
    assert more["upTo"] > first["upTo"]
