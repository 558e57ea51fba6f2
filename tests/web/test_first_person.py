from urllib.parse import parse_qs, urlsplit

import pytest
from django.contrib.auth.models import User
from django.core.management import call_command

from tinfork.web.accounts.demo import make_demo_person

FORM = {"username": "marit", "password1": "goat season ticket", "password2": "goat season ticket"}

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def _data(settings, tmp_path):
    settings.DATA = tmp_path
    settings.TINFORK_DEMO = False


def printed(capsys):
    """The address that script/start prints."""
    call_command("first_person", "http://127.0.0.1:8040/")
    return capsys.readouterr().out.strip()


def test_a_fresh_installation_greets_and_makes_the_first_person_once(client, capsys):
    assert client.get("/", follow=True).redirect_chain[-1][0] == "/welcome/"
    address = printed(capsys)
    assert address.startswith("http://127.0.0.1:8040/welcome/?code=")
    code = parse_qs(urlsplit(address).query)["code"][0]
    assert code in client.get(f"/welcome/?code={code}").content.decode()
    assert client.post("/welcome/", FORM | {"code": code}).headers["Location"] == "/"
    assert client.get("/").context["user"].username == "marit"

    client.logout()
    assert client.get("/welcome/").headers["Location"] == "/sign-in/"
    again = client.post("/welcome/", FORM | {"username": "brede", "code": code})
    assert again.headers["Location"] == "/sign-in/"
    assert list(User.objects.values_list("username", flat=True)) == ["marit"]
    signed_in = client.post("/sign-in/", {"username": "marit", "password": "goat season ticket"})
    assert signed_in.headers["Location"] == "/"
    assert printed(capsys) == ""


@pytest.mark.parametrize(
    "changed, sentence",
    [
        ({"code": "guessed"}, "not the code"),
        ({"code": ""}, "not the code"),
        ({"password2": "another goat"}, "match"),
        ({"password1": "goat", "password2": "goat"}, "too short"),
        ({"username": "a goat with a ticket?"}, "valid username"),
    ],
)
def test_without_the_code_or_a_good_password_nobody_gets_in(client, capsys, changed, sentence):
    code = parse_qs(urlsplit(printed(capsys)).query)["code"][0]
    answer = client.post("/welcome/", FORM | {"code": code} | changed)
    assert answer.status_code == 422
    assert sentence in answer.content.decode()
    assert not User.objects.exists()


def test_the_demo_has_its_own_entry_and_the_first_person_can_still_be_made(client, settings):
    settings.TINFORK_DEMO = True
    make_demo_person()
    assert client.get("/sign-in/").status_code == 200
    assert client.get("/welcome/").status_code == 200


def test_the_code_is_for_the_owner_of_the_data_folder_alone(settings, capsys):
    printed(capsys)
    assert (settings.DATA / "first-person-code").stat().st_mode & 0o777 == 0o600
