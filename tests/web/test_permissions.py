import pytest
from django.test import Client
from django.urls import get_resolver

from tinfork.web.jobs.models import Job

OPEN = {"sign-in", "sign-out", "enter-demo"}
OWN = {"shelf"}


@pytest.fixture
def addresses(ferry):
    """Every address that belongs to a production, with how it is asked."""
    scene, stave = ferry.stave.scene, ferry.stave
    job = Job.objects.create(scene=scene, person=ferry.owner, kind="pictures", subject=stave.pk)
    voice = f"/scenes/{scene.pk}/voices/{stave.character_id}/"
    return {
        "production": ("get", f"/productions/{scene.production_id}/"),
        "scene": ("get", f"/scenes/{scene.pk}/"),
        "desk": ("get", f"/scenes/{scene.pk}/reading/"),
        "voice": ("get", voice),
        "drop-sound": ("post", voice + "sound"),
        "read": ("post", voice + "read"),
        "stave": ("get", f"/staves/{stave.pk}/"),
        "stave-edit": ("post", f"/staves/{stave.pk}/edit"),
        "handover": ("get", f"/scenes/{scene.pk}/hand-over/"),
        "make": ("post", f"/staves/{stave.pk}/hand-over/pictures"),
        "job": ("get", f"/jobs/{job.pk}/"),
        "job-result": ("get", f"/jobs/{job.pk}/result"),
        "sound-listen": ("get", f"/sounds/{stave.sound_id}/listen.flac"),
        "sound-peaks": ("get", f"/sounds/{stave.sound_id}/peaks"),
    }


def all_names(resolver=None):
    for pattern in (resolver or get_resolver()).url_patterns:
        if hasattr(pattern, "url_patterns"):
            yield from all_names(pattern)
        else:
            yield pattern.name


def test_no_address_is_forgotten_here(addresses):
    assert set(all_names()) == set(addresses) | OPEN | OWN


def test_a_stranger_finds_nothing(ferry, addresses):
    client = ferry.client(ferry.stranger)
    for name, (method, address) in addresses.items():
        assert getattr(client, method)(address).status_code == 404, name
    assert "Salt Ferry" not in client.get("/").content.decode()


def test_nobody_signed_in_is_sent_to_the_door(ferry, addresses):
    for name, (method, address) in (addresses | {"shelf": ("get", "/")}).items():
        answer = getattr(Client(), method)(address)
        assert answer.status_code == 302, name
        assert answer.headers["Location"].startswith("/sign-in/")


def test_a_viewer_sees_but_does_not_change(ferry, addresses):
    client = ferry.client(ferry.viewer)
    changes = {"drop-sound", "read", "stave-edit"}
    for name, (method, address) in addresses.items():
        status = getattr(client, method)(address).status_code
        assert status == (404 if name in {*changes, "job-result"} else 200), name
    assert "Create scene" not in client.get(addresses["production"][1]).content.decode()
    for make in ("scene", "character"):
        answer = client.post(addresses["production"][1], {"make": make, "name": "X", "rate": "24", "start_frame": "1"})
        assert answer.status_code == 404
    assert ferry.fresh.version == ferry.stave.version


def test_the_demo_opens_only_where_it_is_loaded(db, settings):
    settings.TINFORK_DEMO = False
    assert Client().post("/demo/").status_code == 404
    assert "Enter as" not in Client().get("/sign-in/").content.decode()


def test_the_form_lets_in_who_belongs(ferry):
    ferry.owner.set_password("salt and fog 7")
    ferry.owner.save()
    client = Client()
    refused = client.post("/sign-in/", {"username": "owner", "password": "wrong"})
    assert "do not belong together" in refused.content.decode()
    assert client.post("/sign-in/", {"username": "owner", "password": "salt and fog 7"}).status_code == 302
    assert "The Salt Ferry" in client.get("/").content.decode()


def test_no_script_but_our_own_may_run(ferry):
    policy = ferry.client(ferry.owner).get("/").headers["Content-Security-Policy"]
    directives = dict(part.strip().split(" ", 1) for part in policy.split(";") if part.strip())
    assert directives["script-src"] == "'self'"
    assert directives["default-src"] == "'self'"
    assert "unsafe" not in policy
