"""Productions, scenes and characters are renamed, moved, deleted and brought back."""

import threading

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection

from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.script.actions import add_text, script_of


@pytest.fixture
def page(ferry):
    """Post a change of a thing on the production page, or on the shelf."""

    def post(thing, do, person=None, shelf=False, **asked):
        address = "/" if shelf else f"/productions/{ferry.scene.production_id}/"
        return ferry.client(person or ferry.owner).post(address, {"thing": thing, "do": do, **asked})

    return post


def names(things):
    return list(things.values_list("name", flat=True))


def test_a_scene_is_renamed_moved_deleted_and_brought_back(ferry, page):
    production, first = ferry.scene.production, ferry.scene
    second = create_scene(ferry.owner, production, "Goat", "24", "1")
    assert page(f"scene {first.pk}", "rename", name="  Fog   again ").status_code == 302
    assert names(production.scenes) == ["Fog again", "Goat"]
    page(f"scene {second.pk}", "up")
    assert names(production.scenes) == ["Goat", "Fog again"]
    page(f"scene {second.pk}", "down")
    page(f"scene {second.pk}", "down")
    assert names(production.scenes) == ["Fog again", "Goat"]

    gone = page(f"scene {first.pk}", "remove")
    client = ferry.client(ferry.owner)
    assert "is deleted" in client.get(gone.headers["Location"]).content.decode()
    assert names(production.scenes) == ["Goat"]
    assert client.get(f"/scenes/{first.pk}/script/").status_code == 404
    assert "Fog again" not in client.get(f"/productions/{production.pk}/").content.decode()
    assert page(f"scene {first.pk}", "bring-back").status_code == 302
    assert client.get(f"/scenes/{first.pk}/reading/").status_code == 200
    assert names(production.scenes) == ["Fog again", "Goat"]


def test_a_name_that_was_deleted_is_free_and_its_owner_comes_back_under_another(ferry, page):
    production, first = ferry.scene.production, ferry.scene
    page(f"scene {first.pk}", "remove")
    create_scene(ferry.owner, production, first.name, "24", "1")
    refused = page(f"scene {first.pk}", "bring-back")
    assert refused.status_code == 422
    assert "again; rename" in refused.content.decode()
    assert page(f"scene {first.pk}", "rename", name="Older").status_code == 302
    assert page(f"scene {first.pk}", "bring-back").status_code == 302
    assert sorted(names(production.scenes)) == sorted(["Older", first.name])


def test_a_character_is_deleted_when_nobody_needs_them(ferry, page):
    production = ferry.scene.production
    brede = create_character(ferry.owner, production, "Brede")
    add_text(ferry.owner, script_of(ferry.scene), None, "Brede: What goat?")
    refused = page(f"character {brede.pk}", "remove")
    assert refused.status_code == 422
    assert f"Brede speaks in “{ferry.scene.name}”" in refused.content.decode()
    pock = create_character(ferry.owner, production, "Pock")
    assert page(f"character {pock.pk}", "remove").status_code == 302
    assert "Pock" not in names(production.characters)
    assert page(f"character {pock.pk}", "bring-back").status_code == 302
    assert "Pock" in names(production.characters)
    marit = ferry.stave.character
    assert page(f"character {marit.pk}", "remove").status_code == 422
    assert page(f"character {marit.pk}", "rename", name="Brede").status_code == 422
    assert page(f"character {marit.pk}", "rename", name="Captain").status_code == 302
    assert "Captain" in ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/reading/").content.decode()


def test_a_production_is_its_owners_to_rename_and_delete(ferry, page):
    production = ferry.scene.production
    assert page(f"production {production.pk}", "remove", person=ferry.viewer, shelf=True).status_code == 404
    assert page(f"production {production.pk}", "remove", shelf=True).status_code == 302
    client = ferry.client(ferry.owner)
    for address in (f"/productions/{production.pk}/", f"/scenes/{ferry.scene.pk}/", f"/staves/{ferry.stave.pk}/"):
        assert client.get(address).status_code == 404
    assert production.name not in client.get("/").content.decode()
    assert page(f"production {production.pk}", "bring-back", shelf=True).status_code == 302
    assert client.get(f"/scenes/{ferry.scene.pk}/").status_code == 200


@pytest.mark.parametrize("thing", ["scene 999999", "goat 1", "scene", "scene ²", ""])
def test_what_is_not_there_is_a_sentence(page, thing):
    refused = page(thing, "remove")
    assert refused.status_code == 422
    assert "This is gone" in refused.content.decode()


def test_nobody_changes_what_is_not_theirs(ferry, page):
    other = create_production(ferry.stranger, "Another ferry")
    scene = create_scene(ferry.stranger, other, "Rain", "24", "1")
    assert page(f"scene {scene.pk}", "remove").status_code == 422
    assert page(f"scene {scene.pk}", "remove", shelf=True).status_code == 404
    assert page(f"scene {ferry.scene.pk}", "rename", person=ferry.viewer, name="Mine").status_code == 404
    assert names(other.scenes) == ["Rain"]


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("doing", ["create", "rename", "start"])
def test_of_two_at_once_one_has_the_name_and_the_other_hears_so(ferry, spoken, doing):
    production = ferry.scene.production
    scenes = [create_scene(ferry.owner, production, name, "24", "1") for name in ("Rain", "Wind")]
    both = threading.Barrier(2, timeout=20)
    answers = []

    def ask(number):
        client = ferry.client(ferry.owner)
        address = f"/productions/{production.pk}/"
        both.wait()
        if doing == "create":
            answer = client.post(address, {"make": "scene", "name": "Goat", "rate": "24", "start_frame": "1"})
        elif doing == "rename":
            answer = client.post(address, {"thing": f"scene {scenes[number].pk}", "do": "rename", "name": "Goat"})
        else:
            file = SimpleUploadedFile("Goat.wav", spoken[0])
            answer = client.post(f"{address}start", {"sound": file, "who": "Brede"})
        answers.append(answer.status_code)
        connection.close()

    threads = [threading.Thread(target=ask, args=(number,)) for number in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert sorted(answers) == ([200, 200] if doing == "start" else [302, 422])
    goats = sorted(name for name in names(production.scenes) if name.startswith("Goat"))
    assert goats == (["Goat", "Goat 2"] if doing == "start" else ["Goat"])
