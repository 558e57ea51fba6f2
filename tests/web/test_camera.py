"""A camera that takes frames when told, and telephones that step a prompter."""

import io
import json
import threading
from datetime import timedelta

import pytest
from django.test import Client
from django.utils import timezone
from PIL import Image

from tinfork.standins.camera import camera
from tinfork.web.prompter.models import Pairing
from tinfork.web.prompter.pairing import PairingError, pair


@pytest.fixture
def at_work(tmp_path, settings):
    """A simulated camera that answers."""
    server = camera(0, tmp_path / "camera")
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.CAMERA = f"http://127.0.0.1:{server.server_port}"
    yield server
    server.shutdown()
    server.server_close()


def ask(client, address, what=None):
    return client.post(address, json.dumps(what or {}), content_type="application/json")


def at(ferry, what):
    return f"/scenes/{ferry.scene.pk}/prompter/{what}"


def test_frames_are_taken_counted_from_the_start_frame_and_looked_at(ferry, at_work, tmp_path):
    client = ferry.client(ferry.owner)
    assert client.get(at(ferry, "taken")).json() == {"taken": {}}
    assert ask(client, at(ferry, "take"), {"frame": 4}).json() == {"taken": {"4": 1}}
    first = client.get(at(ferry, "frames/4.jpg"))
    assert ask(client, at(ferry, "take"), {"frame": 4}).json() == {"taken": {"4": 2}}
    again = client.get(at(ferry, "frames/4.jpg"))
    assert Image.open(io.BytesIO(first.content)).size == (640, 360)
    assert again.content != first.content, "the last picture of a frame is shown"
    assert {path.name for path in (tmp_path / "camera").rglob("*.jpg")} == {"1005-1.jpg", "1005-2.jpg"}
    assert client.get(at(ferry, "frames/5.jpg")).status_code == 404
    assert ask(ferry.client(ferry.viewer), at(ferry, "take"), {"frame": 9}).status_code == 404
    assert ferry.client(ferry.viewer).get(at(ferry, "taken")).json() == {"taken": {"4": 2}}


@pytest.mark.parametrize("what", [{}, {"frame": -1}, {"frame": "x"}, {"frame": 10**30}])
def test_no_frame_is_no_frame(ferry, at_work, what):
    answer = ask(ferry.client(ferry.owner), at(ferry, "take"), what)
    assert (answer.status_code, "could not be understood" in answer.json()["problem"]) == (422, True)


def test_a_camera_that_is_not_there_or_says_nonsense_is_told_of(ferry, at_work, settings, tmp_path):
    client = ferry.client(ferry.owner)
    ask(client, at(ferry, "take"), {"frame": 0})
    (tmp_path / "camera" / str(ferry.scene.pk) / "1001-1.jpg").write_bytes(b"no picture")
    assert "no picture" in client.get(at(ferry, "frames/0.jpg")).content.decode()
    settings.CAMERA = "http://127.0.0.1:1"
    assert "does not answer" in ask(client, at(ferry, "take"), {"frame": 0}).json()["problem"]
    settings.CAMERA = ""
    assert "No camera" in ask(client, at(ferry, "take"), {"frame": 0}).json()["problem"]
    assert '"camera": false' in client.get(at(ferry, "")).content.decode()


def test_a_telephone_is_paired_once_sees_and_presses(ferry):
    client, telephone = ferry.client(ferry.owner), Client()
    offered = ask(client, at(ferry, "phone")).json()
    assert offered["address"].endswith("/phone/")
    refused = telephone.post("/phone/", {"code": "aaaa-aaaa"})
    assert (refused.status_code, "No prompter waits" in refused.content.decode()) == (422, True)
    assert "problem" in telephone.get("/phone/sees").json()
    assert "problem" in ask(telephone, "/phone/presses", {"press": "on"}).json()

    typed = offered["code"].upper().replace("-", " ")
    assert telephone.post("/phone/", {"code": typed}).status_code == 302
    assert "data-press" in telephone.get("/phone/").content.decode()
    assert Client().post("/phone/", {"code": typed}).status_code == 422, "a code is used once"
    shown = {"frame": "1004", "word": "boot", "state": "", "mouths": [{"who": "Marit", "now": "open", "to_go": 2}]}
    assert ask(client, offered["url"], {"since": 0, "shown": shown}).json() == {"presses": [], "paired": True}
    seen = telephone.get("/phone/sees").json()["shown"]
    assert (seen["frame"], seen["mouths"][0]["now"]) == ("1004", "open")
    for press in ("on", "shot"):
        assert ask(telephone, "/phone/presses", {"press": press}).status_code == 200
    assert ask(telephone, "/phone/presses", {"press": "delete"}).status_code == 422
    assert ask(client, offered["url"], {"since": 0}).json()["presses"] == [[1, "on"], [2, "shot"]]
    assert ask(client, offered["url"], {"since": 2}).json()["presses"] == []
    assert telephone.get(at(ferry, "")).status_code == 302, "a telephone sees nothing but what is shown to it"

    ask(client, at(ferry, "phone"))
    assert "not paired any more" in telephone.get("/phone/sees").json()["problem"]
    assert ask(client, offered["url"]).status_code == 404


def test_a_code_and_a_pairing_grow_old(ferry):
    offered = ask(ferry.client(ferry.owner), at(ferry, "phone")).json()
    Pairing.objects.update(made=timezone.now() - timedelta(minutes=11))
    with pytest.raises(PairingError):
        pair(offered["code"])
    Pairing.objects.update(made=timezone.now())
    telephone = Client()
    telephone.post("/phone/", {"code": offered["code"]})
    Pairing.objects.update(used=timezone.now() - timedelta(hours=13))
    assert "problem" in telephone.get("/phone/sees").json()


@pytest.mark.parametrize("cookie", ["", ":", "x:y", "1:", "99999999999999999999:x", "²:x"])
def test_what_is_no_telephone_sees_nothing(ferry, cookie):
    ask(ferry.client(ferry.owner), at(ferry, "phone"))
    telephone = Client()
    telephone.cookies["tinfork_phone"] = cookie
    assert "problem" in telephone.get("/phone/sees").json()
