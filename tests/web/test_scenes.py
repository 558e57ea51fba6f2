import pytest

from tinfork.core.errors import TinForkError
from tinfork.web.productions import actions
from tinfork.web.productions.models import Production, Scene


@pytest.mark.parametrize(
    ("rate", "kept"), [("24", "24"), ("23.98", "23.976"), (" 29.97 fps", "29.97"), ("25/2", "25/2"), ("12", "12")]
)
def test_a_scene_keeps_its_exact_rate(ferry, rate, kept):
    production = ferry.stave.scene.production
    form = {"make": "scene", "name": "Night", "rate": rate, "start_frame": "1001"}
    answer = ferry.client(ferry.owner).post(production.get_absolute_url(), form)
    scene = Scene.objects.get(name="Night")
    assert answer.headers["Location"] == f"/scenes/{scene.pk}/"
    assert (scene.rate, scene.start_frame) == (kept, 1001)


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"rate": "soon"}, "not a frame rate"),
        ({"rate": "0"}, "between 1 and 120"),
        ({"start_frame": "-3"}, "whole number"),
        ({"start_frame": "9" * 30}, "whole number"),
        ({"name": " "}, "a name"),
        ({"name": "n" * 200}, "up to 120"),
        ({"name": "Fog"}, "already"),
    ],
)
def test_a_scene_that_cannot_be_is_a_sentence_and_what_was_typed_stays(ferry, wrong, said):
    form = {"make": "scene", "name": "Night", "rate": "25", "start_frame": "7"} | wrong
    answer = ferry.client(ferry.owner).post(ferry.stave.scene.production.get_absolute_url(), form)
    page = answer.content.decode()
    assert answer.status_code == 422
    assert said in page
    assert f'value="{form["rate"]}"' in page
    assert Scene.objects.count() == 1


def test_names_are_shown_as_text_not_as_markup(ferry):
    client = ferry.client(ferry.owner)
    page = client.post("/", {"name": "<script>alert(1)</script>"}, follow=True).content.decode()
    assert "<script>alert" not in page
    assert "&lt;script&gt;" in page
    assert Production.objects.filter(people=ferry.owner).count() == 2


def test_two_of_a_name_are_refused(ferry):
    with pytest.raises(TinForkError, match="has a Marit already"):
        actions.create_character(ferry.owner, ferry.stave.scene.production, " Marit ")


def test_an_empty_shelf_says_what_to_do(db, client, django_user_model):
    client.force_login(django_user_model.objects.create_user("new"))
    assert "Your shelf is empty" in client.get("/").content.decode()
