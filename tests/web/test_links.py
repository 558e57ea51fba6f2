"""Watching by a link, without an account: what it is to, and nothing else."""

import json
import re
from datetime import timedelta

import pytest
from django.test import Client
from django.utils import timezone

from tinfork.web.people import links
from tinfork.web.people.actions import remove_person
from tinfork.web.people.models import WatchLink
from tinfork.web.productions.actions import create_scene
from tinfork.web.productions.models import Membership
from tinfork.web.rushes import actions
from tinfork.web.shots.changing import set_field
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of


@pytest.fixture
def guest(db):
    return Client()


@pytest.fixture
def link(ferry):
    """A link to the scene, by which notes may be written."""
    return links.make_link(ferry.owner, ferry.scene.production, "Hilde", f"shot {ferry.scene.pk}", "7", True)


def shots_of(guest, link):
    page = guest.get(f"/watch/{link.token}/")
    assert page.status_code == 200, page.content
    found = re.search(r'id="screening-document" type="application/json">(.*?)</script>', page.content.decode(), re.S)
    return json.loads(found[1])["shots"]


def note(guest, link, scene, **asked):
    address = f"/watch/{link.token}/shots/{scene.pk}/note"
    return guest.post(address, json.dumps({"text": "Lower the jaw", "name": "Hilde"} | asked), "application/json")


def test_a_guest_sees_hears_and_notes_what_the_link_is_to(ferry, guest, link):
    (shot,) = shots_of(guest, link)
    assert shot["name"] == "Fog"
    assert shot["version"] == 0
    assert guest.get(shot["seenUrl"]).json()["roles"][0]["name"] == "Marit"
    (clip,) = shot["clips"]
    assert guest.get(clip["listen"]).headers["Content-Type"] == "audio/flac"
    assert guest.get(clip["peaks"]).status_code == 200
    (said,) = note(guest, link, ferry.scene, frame=3).json()["notes"]
    assert said["who"] == "Hilde (guest)"
    link.refresh_from_db()
    assert link.opened == 1


def test_what_was_shown_is_watched_and_not_what_came_after(ferry, guest, link):
    actions.show_for_review(ferry.owner, ferry.scene)
    before = guest.get(shots_of(guest, link)[0]["seenUrl"]).json()["roles"][0]["exposures"]
    ferry.edit(ferry.owner, "pin", frame=0, frames=20, drawing="open")
    (shot,) = shots_of(guest, link)
    assert shot["version"] == 1
    assert guest.get(shot["seenUrl"]).json()["roles"][0]["exposures"] == before
    own = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/rushes/seen").json()
    assert own["roles"][0]["exposures"] != before


def test_nothing_else_is_reached_from_a_link(ferry, guest, link, tone):
    other = create_scene(ferry.owner, ferry.scene.production, "Boot", "24", "1")
    unheard = bring_in(ferry.owner, ferry.scene.production, tone)
    at = f"/watch/{link.token}/shots"
    for address in (
        f"{at}/{other.pk}/seen",
        f"{at}/{other.pk}/review",
        f"{at}/{ferry.scene.pk}/sounds/{unheard.pk}/mix/listen.flac",
        f"{at}/{ferry.scene.pk}/sounds/{unheard.pk}/mix/peaks",
        f"{at}/{ferry.scene.pk}/sounds/{unheard.pk}/reel.webm",
    ):
        assert guest.get(address).status_code == 404, address
    assert note(guest, link, other).status_code == 404
    assert guest.get(f"/scenes/{ferry.scene.pk}/rushes/").status_code == 302
    page = guest.get(f"/watch/{link.token}/").content.decode()
    assert "The Salt Ferry" not in page


def test_a_muted_sound_is_not_heard_by_a_link(ferry, guest, link):
    (clip,) = shots_of(guest, link)[0]["clips"]
    track = arrangement_of(ferry.scene).value.tracks[0].id
    ferry.sound(ferry.owner, "track", track=track, muted=True)
    assert guest.get(clip["listen"]).status_code == 404


def test_a_guest_reads_what_was_written_by_the_link_alone(ferry, guest, link):
    actions.write(ferry.owner, ferry.scene, actions.Note(text="Among us"))
    inner = ferry.scene.comments.get()
    assert note(guest, link, ferry.scene, on=inner.pk).status_code == 422
    note(guest, link, ferry.scene)
    own = ferry.scene.comments.get(guest=True)
    actions.write(ferry.owner, ferry.scene, actions.Note(text="Done so", on=own.pk))
    told = guest.get(f"/watch/{link.token}/shots/{ferry.scene.pk}/review").json()
    assert [one["text"] for one in told["notes"]] == ["Lower the jaw", "Done so"]
    assert not told["mayFinish"]


@pytest.mark.parametrize(
    ("asked", "why"),
    [
        ({"name": " "}, "Write your name first"),
        ({"name": "x" * 500}, "A name has up to"),
        ({"text": " "}, "Write something first"),
        ({"text": "x" * 5000}, "up to 4,000 characters"),
        ({"place": [2, 0]}, "could not be understood"),
        ({"frame": -1}, "could not be understood"),
    ],
)
def test_a_guests_note_that_cannot_be_kept_says_why(ferry, guest, link, asked, why):
    answer = note(guest, link, ferry.scene, **asked)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert not ferry.scene.comments.exists()


def test_who_may_only_watch_writes_and_reads_nothing(ferry, guest):
    link = links.make_link(ferry.owner, ferry.scene.production, "Hilde", f"shot {ferry.scene.pk}", "7", False)
    assert "ask who sent it" in note(guest, link, ferry.scene).json()["problem"]
    assert "note-form" not in guest.get(f"/watch/{link.token}/").content.decode()


def test_so_many_notes_are_written_by_a_link(ferry, guest, link, monkeypatch):
    monkeypatch.setattr(actions, "MOST_OF_A_LINK", 2)
    answers = [note(guest, link, ferry.scene).status_code for _ in range(3)]
    assert answers == [200, 200, 422]


def ended(ferry, link, how):
    production = ferry.scene.production
    if how == "withdrawn":
        links.withdraw_link(ferry.owner, production, link.pk)
    elif how == "over":
        WatchLink.objects.filter(pk=link.pk).update(until=timezone.now() - timedelta(seconds=1))
    elif how == "scene deleted":
        ferry.scene.removed = timezone.now()
        ferry.scene.save()
    elif how == "production deleted":
        production.removed = timezone.now()
        production.save()


@pytest.mark.parametrize("how", ["withdrawn", "over", "scene deleted", "production deleted"])
def test_a_link_that_has_ended_says_so_and_shows_nothing(ferry, guest, link, how):
    (shot,) = shots_of(guest, link)
    ended(ferry, link, how)
    page = guest.get(f"/watch/{link.token}/")
    assert page.status_code == 410
    assert "Ask who sent it for another" in page.content.decode()
    for address in (shot["seenUrl"], shot["clips"][0]["listen"], f"{shot['notesUrl']}review"):
        assert guest.get(address).status_code == 404, address
    assert note(guest, link, ferry.scene).status_code == 404


def test_a_link_that_was_tampered_with_lets_nobody_in(ferry, guest, link):
    number, _, signed = link.token.partition(":")
    for token in (f"{number}:{signed[:-1]}", f"{int(number) + 1}:{signed}", number, "x", ferry.scene.pk):
        page = guest.get(f"/watch/{token}/")
        assert page.status_code == 410
        assert "not whole" in page.content.decode()


def test_the_links_of_who_is_taken_out_end(ferry, guest, editor):
    link = links.make_link(editor, ferry.scene.production, "Hilde", f"shot {ferry.scene.pk}", "7", True)
    remove_person(ferry.owner, ferry.scene.production, Membership.objects.get(person=editor).pk)
    assert guest.get(f"/watch/{link.token}/").status_code == 410


def test_a_link_to_a_sequence_follows_it(ferry, guest):
    production = ferry.scene.production
    other = create_scene(ferry.owner, production, "Boot", "12", "1")
    set_field(ferry.owner, production, [ferry.scene.pk, other.pk], "sequence", "The pier")
    sequence = production.sequences.get()
    link = links.make_link(ferry.owner, production, "Hilde", f"sequence {sequence.pk}", "7", False)
    assert [shot["name"] for shot in shots_of(guest, link)] == ["Fog", "Boot"]
    set_field(ferry.owner, production, [ferry.scene.pk], "archived", "1")
    assert [shot["name"] for shot in shots_of(guest, link)] == ["Boot"]


@pytest.mark.parametrize(
    ("to", "days", "why"),
    [("shot 0", "7", "Choose what"), ("film 1", "7", "Choose what"), ("", "7", "Choose what"), (None, "8", "good for")],
)
def test_a_link_that_cannot_be_made_says_why(ferry, to, days, why):
    asked = {"do": "link", "name": "Hilde", "to": f"shot {ferry.scene.pk}" if to is None else to, "days": days}
    answer = ferry.client(ferry.owner).post(f"/productions/{ferry.scene.production_id}/people/", asked)
    assert answer.status_code == 422
    assert why in answer.content.decode()
    assert not WatchLink.objects.exists()


def test_a_shot_of_another_production_is_not_let_out(ferry):
    elsewhere = create_scene(ferry.stranger, ferry.stranger.productions.get(), "Theirs", "24", "1")
    with pytest.raises(links.TinForkError, match="Choose what"):
        links.make_link(ferry.owner, ferry.scene.production, "Hilde", f"shot {elsewhere.pk}", "7", False)


def test_more_shots_than_are_watched_in_one_go_are_told_of(ferry, guest, link, monkeypatch):
    production = ferry.scene.production
    for name in ("Boot", "Goat"):
        create_scene(ferry.owner, production, name, "24", "1")
    client, address = ferry.client(ferry.owner), f"/productions/{production.pk}/screening/"
    assert "These are the first" not in client.get(address).content.decode()
    monkeypatch.setattr("tinfork.web.rushes.screening.MOST_SHOTS", 2)
    page = client.get(address).content.decode()
    assert "These are the first 2 shots" in page
    assert "Goat" not in page
    few = ",".join(str(scene.pk) for scene in production.scenes.exclude(name="Fog"))
    page = client.get(f"{address}?shots={few}").content.decode()
    assert "These are the first" not in page
    assert "Goat" in page and "Fog" not in page
