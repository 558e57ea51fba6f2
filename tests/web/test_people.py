"""Who is in a production: invited by a link, changed by its owner, gone at once when taken out; a person's own page."""

import re
import threading
from datetime import timedelta

import pytest
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core import mail
from django.db import connection
from django.test import Client
from django.utils import timezone

from tinfork.web.accounts.models import Preferences, Visit
from tinfork.web.edits.models import Edit
from tinfork.web.people import inviting
from tinfork.web.people.models import Invitation
from tinfork.web.productions.models import Membership, Production
from tinfork.web.shots.models import Shot

PASSWORD = "fog over the pier 9"


@pytest.fixture
def page(ferry):
    """Ask for something on a production's People page."""

    def post(do, person=None, **asked):
        client = ferry.client(person or ferry.owner)
        return client.post(f"/productions/{ferry.scene.production_id}/people/", {"do": do, **asked})

    return post


@pytest.fixture
def link(ferry):
    """The link of a new invitation."""

    def made(role="animator"):
        return inviting.invite(ferry.owner, ferry.scene.production, "Hilde", role).get_absolute_url()

    return made


def role_of(ferry, name):
    found = Membership.objects.filter(production=ferry.scene.production, person__username=name)
    return found.values_list("role", flat=True).first()


def member(ferry, name="viewer"):
    return Membership.objects.get(production=ferry.scene.production, person__username=name).pk


def test_a_link_lets_one_person_in_who_has_an_account(ferry, page, link):
    assert page("invite", name="Hilde", role="reviewer").status_code == 302
    shown = ferry.client(ferry.owner).get(f"/productions/{ferry.scene.production_id}/people/").content.decode()
    invitation = Invitation.objects.get()
    assert round((invitation.until - invitation.made).total_seconds() / 86_400, 3) == 14
    address = invitation.get_absolute_url()
    assert f"http://testserver{address}" in shown
    assert (
        address
        not in ferry.client(ferry.viewer).get(f"/productions/{ferry.scene.production_id}/people/").content.decode()
    )
    stranger = ferry.client(ferry.stranger)
    assert "as reviewer" in stranger.get(address).content.decode()
    assert role_of(ferry, "stranger") is None, "looking is not joining"
    assert stranger.post(address).headers["Location"] == f"/productions/{ferry.scene.production_id}/"
    assert role_of(ferry, "stranger") == "reviewer"
    second = ferry.client(User.objects.create_user("second")).post(address)
    assert second.status_code == 410
    assert "lets one person in" in second.content.decode()


def test_a_link_lets_somebody_new_in(ferry, link):
    address, client = link(), Client()
    asked = {"username": "hilde", "password1": PASSWORD, "password2": PASSWORD}
    refused = client.post(address, asked | {"password2": "other"})
    assert refused.status_code == 422
    assert not User.objects.filter(username="hilde").exists()
    assert client.post(address, asked).status_code == 302
    assert role_of(ferry, "hilde") == "animator"
    assert "Fog" in client.get(f"/productions/{ferry.scene.production_id}/").content.decode()


def test_who_is_in_already_stays_what_they_are_and_leaves_the_link_to_another(ferry, link):
    address = link("reviewer")
    ferry.client(ferry.owner).post(address)
    assert role_of(ferry, "owner") == "owner"
    ferry.client(ferry.stranger).post(address)
    assert role_of(ferry, "stranger") == "reviewer"


def test_links_that_let_nobody_in_say_why(ferry, page, link):
    client, address = ferry.client(ferry.stranger), link()
    number, _, secret = address.removeprefix("/join/").strip("/").partition(":")
    other = Invitation.objects.get(pk=int(link().removeprefix("/join/").partition(":")[0]))
    forged = f"/join/{other.pk}:{secret}/"
    for broken in (forged, address[:-3] + "/", "/join/x/", f"/join/{number}:/", f"/join/{number}/"):
        answer = client.get(broken)
        assert (answer.status_code, "not whole" in answer.content.decode()) == (410, True), broken
    page("withdraw", who=number)
    assert "withdrawn" in client.post(address).content.decode()
    Invitation.objects.filter(pk=other.pk).update(until=timezone.now())
    assert "is over" in client.post(other.get_absolute_url()).content.decode()
    Invitation.objects.filter(pk=other.pk).update(until=timezone.now() + timedelta(minutes=1))
    assert client.get(other.get_absolute_url()).status_code == 200
    assert role_of(ferry, "stranger") is None


def test_the_owner_changes_who_does_what_and_hands_over(ferry, page, editor):
    page("role", who=member(ferry), role="animator")
    assert role_of(ferry, "viewer") == "animator"
    assert page("role", who=member(ferry), role="owner").status_code == 422
    assert page("role", who=member(ferry, "owner"), role="reviewer").status_code == 422
    assert page("remove", who=member(ferry, "owner")).status_code == 422
    assert page("leave").status_code == 422
    assert page("hand-over", who=member(ferry, "editor")).status_code == 302
    assert (role_of(ferry, "owner"), role_of(ferry, "editor")) == ("animator", "owner")
    assert page("hand-over", who=member(ferry, "viewer")).status_code == 404
    assert page("leave").status_code == 302
    assert role_of(ferry, "owner") is None


def test_nobody_of_another_production_is_changed(ferry, page):
    elsewhere = Membership.objects.get(person=ferry.stranger)
    for do in ("role", "hand-over", "remove"):
        assert page(do, who=elsewhere.pk, role="animator").status_code == 422, do
    elsewhere.refresh_from_db()
    assert elsewhere.role == "owner"


def test_who_is_taken_out_is_out_at_once_and_so_are_their_invitations(ferry, page, editor):
    page("hand-over", who=member(ferry, "editor"))
    asked = ferry.client(editor).post(
        f"/productions/{ferry.scene.production_id}/people/", {"do": "invite", "name": "X", "role": "animator"}
    )
    assert asked.status_code == 302
    address = Invitation.objects.get().get_absolute_url()
    tab = ferry.client(editor)
    page("hand-over", editor, who=member(ferry, "owner"))
    assert page("remove", who=member(ferry, "editor")).status_code == 302
    for path in (
        f"/scenes/{ferry.scene.pk}/reading/",
        f"/staves/{ferry.stave.pk}/",
        f"/scenes/{ferry.scene.pk}/versions",
    ):
        assert tab.get(path).status_code == 404, path
    assert ferry.edit(editor, "pin", frame=5).status_code == 404
    assert ferry.client(ferry.stranger).get(address).status_code == 410


@pytest.mark.parametrize(
    ("role", "name", "why"), [("owner", "X", "animator or as a reviewer"), ("animator", " ", "a name")]
)
def test_an_invitation_that_cannot_be_made_says_why(page, role, name, why):
    refused = page("invite", name=name, role=role)
    assert refused.status_code == 422
    assert why in refused.content.decode()
    assert not Invitation.objects.exists()


def test_so_many_invitations_wait(ferry, page, monkeypatch):
    monkeypatch.setattr(inviting, "MOST_OPEN", 2)
    assert [page("invite", name="X", role="animator").status_code for _ in range(3)] == [302, 302, 422]
    page("withdraw", who=Invitation.objects.first().pk)
    assert page("invite", name="X", role="animator").status_code == 302


def test_a_link_is_mailed_where_mail_is_set(ferry, page, settings, monkeypatch):
    page("invite", name="Hilde", role="animator", mail="hilde@pier.example")
    assert not mail.outbox, "no mail is set"
    settings.EMAIL_HOST = "localhost"
    assert page("invite", name="Hilde", role="animator", mail="hilde at pier").status_code == 422
    assert page("invite", name="Hilde", role="animator", mail="hilde@pier.example").status_code == 302
    (sent,) = mail.outbox
    assert sent.to == ["hilde@pier.example"]
    assert f"http://testserver{Invitation.objects.first().get_absolute_url()}" in sent.body

    def down(*_, **__):
        raise ConnectionRefusedError

    monkeypatch.setattr(inviting, "send_mail", down)
    answer = page("invite", name="Pock", role="animator", mail="pock@pier.example")
    assert "could not be sent" in answer.content.decode()
    assert Invitation.objects.first().get_absolute_url() in answer.content.decode()


@pytest.mark.django_db(transaction=True)
def test_two_who_follow_one_link_at_once_do_not_both_come_in(ferry, link):
    address = link()
    people = [User.objects.create_user(f"person {number}") for number in range(4)]
    statuses = []

    def follow(person):
        statuses.append(ferry.client(person).post(address).status_code)
        connection.close()

    threads = [threading.Thread(target=follow, args=[person]) for person in people]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(statuses) in ([302, 410, 410, 410], [302, 410, 410, 422], [302, 410, 422, 422], [302, 422, 422, 422])
    assert Membership.objects.filter(production=ferry.scene.production, person__in=people).count() == 1


@pytest.fixture
def signed_in(ferry):
    """A browser in which the owner signed in with a password."""
    ferry.owner.set_password(PASSWORD)
    ferry.owner.save()

    def browser(agent):
        client = Client(headers={"User-Agent": agent})
        client.post("/sign-in/", {"username": "owner", "password": PASSWORD})
        return client

    return browser


def test_a_person_sees_where_they_are_signed_in_and_ends_it(signed_in):
    here = signed_in("Mozilla/5.0 (X11; Linux x86_64) AppleWebKit Chrome/140 Safari/537")
    there = signed_in("Mozilla/5.0 (iPhone; CPU like Mac OS X) Safari/605")
    shown = here.get("/me/").content.decode()
    assert "Chromium on Linux" in shown
    assert "Safari on a telephone" in shown
    other = Visit.objects.first()
    here.post("/me/", {"do": "end", "visit": other.pk})
    assert there.get("/").status_code == 302
    assert here.get("/").status_code == 200
    third = signed_in("x")
    here.post("/me/", {"do": "end-others"})
    assert third.get("/").status_code == 302
    assert here.get("/me/").content.decode().count("Sign out there") == 0


def test_nobody_ends_a_visit_of_another(ferry, signed_in):
    signed_in("x")
    ferry.client(ferry.stranger).post("/me/", {"do": "end", "visit": Visit.objects.get(person=ferry.owner).pk})
    assert Visit.objects.filter(person=ferry.owner).count() == 1


def test_a_new_password_signs_out_everywhere_else(signed_in):
    here, there = signed_in("here"), signed_in("there")
    new = "salt under the keel 4"
    asked = {"do": "password", "old_password": PASSWORD, "new_password1": new, "new_password2": new}
    for wrong, why in (({"old_password": "?"}, "not your password"), ({"new_password2": "?"}, "match")):
        refused = here.post("/me/", asked | wrong)
        assert refused.status_code == 422
        assert why in refused.content.decode()
    assert there.get("/").status_code == 200
    assert here.post("/me/", asked).status_code == 302
    assert here.get("/").status_code == 200
    assert there.get("/").status_code == 302
    assert Visit.objects.count() == 1
    Session.objects.update(expire_date=timezone.now() + timedelta(minutes=1))
    assert "here</span>" in here.get("/me/").content.decode()
    assert Client().post("/sign-in/", {"username": "owner", "password": new}).status_code == 302


def test_who_guesses_at_a_password_on_an_open_page_waits(signed_in, settings):
    here = signed_in("here")
    for _ in range(settings.AXES_FAILURE_LIMIT):
        here.post("/me/", {"do": "close", "password": "guess"})
    assert "too many wrong guesses" in here.post("/me/", {"do": "close", "password": PASSWORD}).content.decode()


def test_name_theme_and_keys_are_kept_with_the_person(ferry, signed_in):
    here = signed_in("here")
    here.post("/me/", {"do": "name", "name": "  Marit of   the ferry "})
    assert "Marit of the ferry" in here.get("/me/").content.decode()
    assert here.post("/me/", {"do": "name", "name": " "}).status_code == 422
    assert here.post("/preferences/theme/", "dark", content_type="text/plain").status_code == 200
    assert here.post("/preferences/theme/", "pink", content_type="text/plain").status_code == 422
    assert 'data-chosen="dark"' in signed_in("another").get("/").content.decode()
    since = [
        re.search('data-since="(.+?)"', client.get("/").content.decode())[1] for client in (here, here, signed_in("x"))
    ]
    assert since[0] == since[1] != since[2], "a browser takes the theme once with each time somebody signs in"
    Preferences.objects.filter(person=ferry.owner).update(keys={"desk": {"S": "Z"}})
    assert "Give all keys back" in here.get("/me/").content.decode()
    here.post("/me/", {"do": "keys"})
    assert Preferences.objects.get(person=ferry.owner).keys == {}


def test_an_account_ends_and_what_was_made_with_it_stays(ferry, signed_in, editor):
    here = signed_in("here")
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    close = {"do": "close", "password": PASSWORD}
    refused = here.post("/me/", close)
    assert "You own “The Salt Ferry”" in refused.content.decode()
    address = inviting.invite(ferry.owner, ferry.scene.production, "Hilde", "animator").get_absolute_url()
    here.post(f"/productions/{ferry.scene.production_id}/people/", {"do": "hand-over", "who": member(ferry, "editor")})
    Shot.objects.create(scene=ferry.scene, who=ferry.owner)
    assert here.post("/me/", close | {"password": "no"}).status_code == 422
    assert here.post("/me/", close).headers["Location"] == "/sign-in/"
    assert here.get("/").status_code == 302
    assert Client().post("/sign-in/", {"username": "owner", "password": PASSWORD}).status_code == 200
    left = User.objects.get(pk=ferry.owner.pk)
    assert (left.get_full_name(), left.is_active, left.productions.count()) == ("Somebody who left", False, 0)
    assert Edit.objects.filter(person=left).exists()
    assert Shot.objects.get().who is None, "nobody waits for what they were to do"
    assert Client().get(address).status_code == 410, "and nobody comes in by their links"
    assert Production.objects.filter(pk=ferry.scene.production_id).exists()
