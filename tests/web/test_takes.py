"""Takes, checks and the dial, as the desk asks for them."""

import json

from tests.web.test_correcting import reads
from tests.web.test_exposing import done, rows, shown
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.models import TrackTake
from tinfork.web.tracks.takes import keep_take


def keep(ferry, name, person=None):
    client = ferry.client(person or ferry.owner)
    return client.post(f"/staves/{ferry.stave.pk}/takes", json.dumps({"name": name}), content_type="application/json")


def checks(ferry, **where):
    return ferry.client(ferry.viewer).get(f"/staves/{ferry.stave.pk}/checks", where).json()["checks"]


def test_a_take_is_kept_compared_and_brought_back_whole_or_in_part(ferry):
    done(ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse"))
    first = shown(ferry.fresh)
    done(keep(ferry, "Calm"))
    done(ferry.edit(ferry.owner, "unpin", frame=10))
    done(ferry.edit(ferry.owner, "settings", hold=1, lead=2, detail=1.0))
    second = shown(ferry.fresh)
    (take,) = ferry.client(ferry.viewer).get(f"/staves/{ferry.stave.pk}/takes").json()["takes"]
    kept = ferry.client(ferry.viewer).get(f"/takes/{take['id']}/").json()
    assert [drawing for _, frames, drawing in kept["exposures"] for _ in range(frames)] == first
    done(ferry.edit(ferry.owner, "restore take", take=take["id"]))
    assert shown(ferry.fresh) == first
    done(ferry.edit(ferry.owner, "undo"))
    assert shown(ferry.fresh) == second
    done(ferry.edit(ferry.owner, "restore range", take=take["id"], frame=8, frames=10))
    part = shown(ferry.fresh)
    assert part[8:18] == first[8:18]
    done(ferry.edit(ferry.owner, "settings", hold=4, lead=0, detail=0.0))
    reads(ferry)
    assert shown(ferry.fresh)[8:18] == first[8:18]


def test_a_take_brings_back_the_rules_it_was_kept_with(ferry):
    done(keep(ferry, "Before"))
    done(ferry.edit(ferry.owner, "rule", ipa="t", drawing="push"))
    done(ferry.edit(ferry.owner, "restore take", take=TrackTake.objects.get().pk))
    assert ferry.fresh.rules == []


def test_a_take_is_of_one_moment_though_somebody_edits_meanwhile(ferry):
    late = ferry.fresh
    done(ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse"))
    late.unplanned = [[0, 40]]  # so that planning finds that the stave is another now
    take = keep_take(ferry.owner, late, "Meanwhile")
    assert [pin["frame"] for pin in take.decisions["pins"]] == [
        pin["frame"] for pin in ferry.fresh.pins if any(e.pinned for e in take.track.exposures())
    ]
    assert any(e.pinned for e in take.track.exposures()) == bool(take.decisions["pins"])


def test_takes_have_names_of_their_own_and_are_their_staves(ferry):
    done(keep(ferry, "Calm"))
    assert "already" in keep(ferry, "Calm").json()["problem"]
    assert "name of 1 to" in keep(ferry, " ").json()["problem"]
    assert keep(ferry, "Other", ferry.viewer).status_code == 404
    take = TrackTake.objects.get()
    assert ferry.edit(ferry.owner, "restore take", take=take.pk + 1).status_code == 422
    assert ferry.client(ferry.stranger).get(f"/takes/{take.pk}/").status_code == 404
    assert ferry.client(ferry.viewer).post(f"/takes/{take.pk}/delete").status_code == 404
    assert ferry.client(ferry.owner).post(f"/takes/{take.pk}/delete").status_code == 200
    assert not TrackTake.objects.exists()


def test_the_cure_of_every_check_can_be_asked_for_as_it_comes(ferry):
    clean = checks(ferry)
    done(
        ferry.edit(
            ferry.owner, "lay", frame=2, pieces=[[0, 2, "open"], [8, 1, "purse"], [20, 3, ""], [30, 16, "press"]]
        )
    )
    found = [check for check in checks(ferry) if check not in clean]
    kinds = {check["kind"] for check in found}
    assert kinds >= {"flash", "empty", "shut on a vowel"}
    for kind in sorted(kinds):
        same = [check for check in checks(ferry) if check["kind"] == kind and check.get("fix")]
        before = rows(ferry.fresh)
        for check in same[:1]:
            done(ferry.edit(ferry.owner, check["fix"]["verb"], **check["fix"]["what"]))
            assert rows(ferry.fresh) != before
            assert len([c for c in checks(ferry) if c["kind"] == kind]) < len(
                [c for c in found + clean if c["kind"] == kind]
            )


def test_checks_of_parts_are_those_of_the_whole(ferry):
    done(ferry.edit(ferry.owner, "lay", frame=8, pieces=[[0, 1, "purse"], [20, 3, ""], [40, 1, "open"]]))
    whole = checks(ferry)
    parts = [check for first in range(0, 80, 20) for check in checks(ferry, first=first, end=first + 20)]

    def places(found):
        return sorted((c["kind"], c["frame"], c["text"]) for c in found if c["kind"] != "uncovered shape")

    assert places(parts) == places(whole)


def test_the_dial_says_what_it_does(ferry):
    points = ferry.client(ferry.viewer).get(f"/staves/{ferry.stave.pk}/dial", {"first": 0, "end": 71}).json()["points"]
    assert [point["detail"] for point in points] == [n / 8 for n in range(9)]
    changes = [point["changes"] for point in points]
    assert changes == sorted(changes)
    assert changes[0] < changes[-1]
    now = next(point for point in points if point["detail"] == 0.5)
    assert now["exposures"] == len(ferry.track)
    assert 0 <= points[0]["reached"] <= points[-1]["reached"] <= 1


def test_what_is_meant_so_is_told_apart_until_it_is_to_be_looked_at_again(ferry):
    done(ferry.edit(ferry.owner, "lay", frame=8, pieces=[[0, 1, "purse"]]))
    check = next(c for c in checks(ferry) if c["kind"] == "flash")
    track = ferry.track
    own = {"kind": "flash", "frame": check["frame"], "frames": check["frames"]}

    def meant():
        return ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["meant"]

    done(ferry.edit(ferry.owner, "meant so", **own))
    assert meant() == [[check["frame"], check["frames"], "flash"]]
    assert ferry.track == track
    clip = arrangement_of(ferry.scene).value.clips[0]
    ferry.sound(ferry.owner, "slide", clips=[clip.id], by=5, ripple=False)
    assert meant()[0][0] == check["frame"] + 5
    done(ferry.edit(ferry.owner, "undo"))
    done(ferry.edit(ferry.owner, "meant so", meant=False, **own))
    assert meant() == []
    done(ferry.edit(ferry.owner, "undo"))
    assert len(meant()) == 1
    assert "Nothing is looked for" in ferry.edit(ferry.owner, "meant so", **own | {"kind": "ugly"}).json()["problem"]
