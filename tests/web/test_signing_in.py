"""Whoever guesses waits; nothing that was seen outlives signing out; what HTTPS needs is one setting."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from django.contrib.auth.hashers import identify_hasher
from django.contrib.auth.models import User
from django.test import Client

from tinfork.web.prompter.pairing import offer
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.reading.tasks import read_scene
from tinfork.web.sound.models import SoundFile

ROOT = Path(__file__).parents[2]
RIGHT = "goat season ticket"


@pytest.fixture
def marit(db):
    return User.objects.create_user("marit", password=RIGHT)


def guess(password, name="marit", address="10.0.0.1"):
    return Client(REMOTE_ADDR=address).post("/sign-in/", {"username": name, "password": password})


def test_eight_wrong_guesses_are_all_there_are(marit):
    said = [guess(f"goat {n}").status_code for n in range(8)]
    assert said == [200] * 7 + [429]
    locked = guess(RIGHT)
    assert locked.status_code == 429
    assert "Wait a quarter of an hour" in locked.content.decode()
    # From elsewhere, and for others, it goes on.
    assert guess(RIGHT, address="10.0.0.2").status_code == 302
    User.objects.create_user("brede", password=RIGHT)
    assert guess(RIGHT, name="brede").status_code == 302


def test_a_right_guess_forgives_the_wrong_ones(marit):
    for _ in range(2):
        assert [guess("goat").status_code for n in range(7)] == [200] * 7
        assert guess(RIGHT).status_code == 302


def test_the_address_is_what_our_own_front_says_and_nobody_else(marit, settings):
    for number in range(9):
        Client(HTTP_X_REAL_IP=f"10.1.0.{number}").post("/sign-in/", {"username": "marit", "password": "x"})
    assert guess(RIGHT, address="127.0.0.1").status_code == 429
    settings.BEHIND_FRONT = True
    client = Client(HTTP_X_REAL_IP="10.1.0.7")
    assert client.post("/sign-in/", {"username": "marit", "password": RIGHT}).status_code == 302


def test_codes_of_telephones_are_not_guessed_either(ferry):
    code = offer(ferry.owner, ferry.scene).code
    said = [Client().post("/phone/", {"code": f"abcd-efg{n}"}).status_code for n in range(8)]
    assert said == [422] * 7 + [429]
    late = Client().post("/phone/", {"code": code})
    assert late.status_code == 422
    assert "quarter of an hour" in late.content.decode()
    assert Client(REMOTE_ADDR="10.0.0.9").post("/phone/", {"code": code}).status_code == 302


def test_nor_is_the_code_of_the_first_person(db):
    form = {"username": "marit", "password1": RIGHT, "password2": RIGHT}
    said = [Client().post("/welcome/", form | {"code": f"guess {n}"}).status_code for n in range(9)]
    assert said == [422] * 7 + [429, 422]
    assert not User.objects.exists()


@pytest.mark.parametrize("password", ["goat", "password123", "8040804080", "maritmarit1"])
def test_a_password_is_no_word_everybody_guesses(db, password):
    form = {"username": "maritmarit", "password1": password, "password2": password, "code": "x"}
    assert b"problem" in Client().post("/welcome/", form).content
    assert not User.objects.exists()


def test_a_password_kept_in_the_old_way_is_kept_anew_when_it_is_used(marit, settings):
    old = "django.contrib.auth.hashers.PBKDF2PasswordHasher"
    usual = settings.PASSWORD_HASHERS
    settings.PASSWORD_HASHERS = [old]
    marit.set_password(RIGHT)
    marit.save()
    settings.PASSWORD_HASHERS = usual
    assert guess(RIGHT).status_code == 302
    marit.refresh_from_db()
    assert identify_hasher(marit.password).algorithm == "scrypt"


def test_nothing_private_is_kept_on_the_way_or_shown_after_signing_out(ferry):
    client, sound = ferry.client(ferry.owner), SoundFile.objects.get()
    for page in ("/", f"/scenes/{ferry.scene.pk}/reading/", f"/staves/{ferry.stave.pk}/"):
        assert client.get(page)["Cache-Control"] == "private, no-store"
    for kept in (f"/sounds/{sound.pk}/mix/listen.flac", f"/sounds/{sound.pk}/original"):
        assert client.get(kept)["Cache-Control"] == "private, no-cache"
    assert client.post("/sign-out/")["Clear-Site-Data"] == '"cache"'


def test_kept_files_are_for_nobody_else_on_the_machine(ferry, settings):
    sound = Path(SoundFile.objects.get().original.path)
    assert sound.stat().st_mode & 0o777 == 0o600
    assert Path(settings.MEDIA_ROOT).stat().st_mode & 0o777 == 0o700


def test_a_file_that_is_gone_is_a_sentence(ferry):
    client, sound = ferry.client(ferry.owner), SoundFile.objects.get()
    Path(sound.original.path).unlink()
    gone = client.get(f"/sounds/{sound.pk}/original")
    assert gone.status_code == 410
    assert "no longer on the disk" in gone.content.decode()


def test_what_needs_a_file_that_is_gone_says_so(ferry):
    for copy in Path(SoundFile.objects.get().original.path).parent.rglob("*"):
        if copy.is_file():
            copy.unlink()
    client = ferry.client(ferry.owner)
    client.raise_request_exception = False
    answer = client.post(
        f"/scenes/{ferry.scene.pk}/sound/voices", {"count": "2"}, headers={"Accept": "application/json"}
    )
    assert answer.status_code == 410
    assert "no longer on the disk" in answer.json()["problem"]
    job = ask_to_read(ferry.owner, ferry.scene, all=True)
    with pytest.raises(FileNotFoundError):
        read_scene(job_id=job.pk)
    job.refresh_from_db()
    assert "no longer on the disk" in job.message


def test_behind_our_front_files_are_handed_out_by_it(ferry, settings):
    settings.BEHIND_FRONT = True
    sound = SoundFile.objects.get()
    answer = ferry.client(ferry.owner).get(f"/sounds/{sound.pk}/original")
    assert answer["X-Accel-Redirect"] == f"/kept/{sound.original.name}"
    assert answer.content == b""
    assert ferry.client(ferry.stranger).get(f"/sounds/{sound.pk}/original").status_code == 404


@pytest.mark.parametrize(
    ("who", "address", "length", "said"),
    [
        ("", "/scenes/1/sound/bring", "2000000", 403),
        ("owner", "/scenes/1/sound/bring", "2000000", 204),
        ("owner", "/scenes/1/sound/bring", "3000000000", 403),
        ("owner", "/bundles/", "3000000000", 204),
        ("owner", "/bundles/", "90000000000", 403),
        ("owner", "/bundles/", "", 403),
        ("owner", "/bundles/", "²", 403),
    ],
)
def test_more_than_a_form_is_taken_from_those_alone_who_may_send_it(ferry, who, address, length, said):
    client = ferry.client(getattr(ferry, who)) if who else Client()
    assert client.get("/may-send", HTTP_X_ADDRESS=address, HTTP_X_LENGTH=length).status_code == said


@pytest.mark.parametrize(("https", "warnings"), [("1", False), ("", True)])
def test_one_setting_makes_it_right_for_https(https, warnings):
    key = "".join(map(chr, range(40, 110)))
    environment = os.environ | {"TINFORK_HTTPS": https, "TINFORK_HOSTS": "ferry.example", "TINFORK_SECRET_KEY": key}
    command = [sys.executable, "manage.py", "check", "--deploy"]
    told = subprocess.run(command, env=environment, cwd=ROOT, capture_output=True, text=True, check=False).stderr
    assert ("security.W" in told) == warnings, told


def test_health_is_told_to_anybody(db):
    assert Client().get("/health/").json() == {"database": True}
