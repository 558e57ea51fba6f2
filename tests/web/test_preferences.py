"""What a person keeps for themselves: keys of their own, and whether what they set by hand stays on its frames."""

import json

import pytest

from tinfork.web.accounts.preferences import MOST_KEYS, own_keys, stays


def keep(client, keys, view="desk"):
    return client.post(f"/preferences/keys/{view}/", json.dumps(keys), content_type="application/json")


def test_keys_of_ones_own_are_kept_with_the_person_and_the_view(ferry):
    client = ferry.client(ferry.owner)
    assert keep(client, {"S": "J", "Ctrl+Left": "Shift+F"}).status_code == 200
    assert keep(client, {"S": "+"}, "sound").status_code == 200
    assert own_keys(ferry.owner, "desk") == {"S": "J", "Ctrl+Left": "Shift+F"}
    assert own_keys(ferry.owner, "sound") == {"S": "+"}
    assert own_keys(ferry.viewer, "desk") == {}
    page = client.get(f"/scenes/{ferry.scene.pk}/reading/").content.decode()
    assert "Shift+F" in page
    assert keep(client, {}).status_code == 200
    assert own_keys(ferry.owner, "desk") == {}


@pytest.mark.parametrize(
    "keys",
    [
        {"S": "s"},
        {"S": ""},
        {"S": "Hyper+S"},
        {"S": "Shift+"},
        {"<b>": "S"},
        {"S": "J", "P": "J"},
        {"S": 4},
        [],
        {f"Ctrl+A{number}": f"Alt+A{number}" for number in range(MOST_KEYS + 1)},
    ],
)
def test_what_is_no_key_is_refused_and_what_was_kept_stays(ferry, keys):
    client = ferry.client(ferry.owner)
    keep(client, {"S": "J"})
    refused = keep(client, keys)
    assert refused.status_code == 422
    assert refused.json()["problem"]
    assert own_keys(ferry.owner, "desk") == {"S": "J"}


def test_keys_are_of_views_that_there_are_and_of_nobody_else(ferry, client):
    assert keep(ferry.client(ferry.owner), {"S": "J"}, "shelf").status_code == 422
    assert keep(client, {"S": "J"}).status_code == 302


def test_whether_hand_work_stays_on_its_frames_is_kept(ferry):
    client = ferry.client(ferry.owner)
    for asked in (True, False):
        client.post("/preferences/stays/", json.dumps(asked), content_type="application/json")
        assert stays(ferry.owner) is asked
        assert f'"stays": {json.dumps(asked)}' in client.get(f"/scenes/{ferry.scene.pk}/reading/").content.decode()
    assert not stays(ferry.viewer)
