"""Bundles: everything of a production out in one file, and in elsewhere with nothing lost."""

import hashlib
import json
import shutil
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import get_args

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.drawings import flat_png
from tests.web.remembered import once
from tinfork.core.acting.temper import ACCENTS, TEMPERS
from tinfork.core.errors import BundleError, TinForkError
from tinfork.core.formats.bundle import open_bundle
from tinfork.core.mouths.draw import Style
from tinfork.core.mouths.shapes import SHAPES
from tinfork.web.acting.gesturing import accept, propose
from tinfork.web.acting.keying import set_key
from tinfork.web.acting.models import Acting, acting_of
from tinfork.web.acting.phrasing import set_phrase, set_wish
from tinfork.web.acting.posing import keep_pose
from tinfork.web.acting.showing import show
from tinfork.web.board.rows import rows as shots_on_board
from tinfork.web.bundles import incoming, outgoing
from tinfork.web.bundles.document import Kind, Temper
from tinfork.web.bundles.numbers import renumbered, renumbered_changes
from tinfork.web.bundles.tasks import bring_in_bundle, make_bundle
from tinfork.web.charts.actions import add_pictures, create_chart, draw, wear
from tinfork.web.charts.actions import bring_in as bring_drawings
from tinfork.web.edits.history import steps
from tinfork.web.faces.actions import add_part, add_view, bring_layers, change_layer, change_part, place_mouth
from tinfork.web.faces.actions import add_pictures as let_move
from tinfork.web.files.store import DiskFullError
from tinfork.web.handover.actions import keep_backdrop
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.running import Cancelled
from tinfork.web.productions.actions import create_character, create_production, create_scene, free_name, remove
from tinfork.web.productions.models import Production
from tinfork.web.rushes import actions as rushes
from tinfork.web.rushes.reviewing import review_document, watched
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.shots.changing import set_field
from tinfork.web.sound.actions import bring_in as bring_sound_in
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves.models import Stave
from tinfork.web.staves.seeing import track_of


def out(tmp_path, production, scenes=None, name="bundle.zip"):
    """A production as a bundle."""
    path = tmp_path / name
    outgoing.write(path, production, scenes)
    return path


def back(person, path):
    """What is in a bundle, as a production of somebody's."""
    with open_bundle(path) as bundle:
        return incoming.bring_in(person, bundle)


def document(path):
    """What a bundle says."""
    with zipfile.ZipFile(path) as packed:
        return json.loads(packed.read("bundle.json"))["production"]


def alike(one, other):
    """Whether two bundles hold the same, byte for byte, but for who works on it."""
    said = []
    for path in (one, other):
        with zipfile.ZipFile(path) as packed:
            files = {info.filename: info.CRC for info in packed.infolist() if info.filename != "bundle.json"}
        said.append((document(path) | {"people": []}, files))
    return said[0] == said[1]


def otherwise(path, change=None, files=None, version=3):
    """The bundle with its document or its files changed."""
    with zipfile.ZipFile(path) as packed:
        content = {name: packed.read(name) for name in packed.namelist()}
    whole = json.loads(content.pop("bundle.json")) | {"bundle": version}
    if change:
        change(whole["production"])
    changed = path.with_name("changed.zip")
    with zipfile.ZipFile(changed, "w") as packed:
        packed.writestr("bundle.json", json.dumps(whole))
        for name, data in (content | (files or {})).items():
            if data is not None:
                packed.writestr(name, data)
    return changed


def drawing(name, place="open"):
    return SimpleUploadedFile(name, flat_png(place))


@pytest.fixture
def rich(ferry):
    """The production with something of everything."""
    owner, production = ferry.owner, ferry.scene.production
    own = create_chart(owner, production, "Drawn")
    with once("tinfork.web.charts.actions.open_picture", "tinfork.web.charts.actions.as_brought"):
        draw(owner, own, Style(), "neutral")
    library = create_chart(owner, None, "Drawn")
    bring_drawings(owner, library, [drawing("ah.png"), drawing("mm.png", "press")])
    add_pictures(owner, library.drawings.get(name="ah"), [drawing("after.png", "press")])
    gone = create_chart(owner, production, "Gone")
    brede = create_character(owner, production, "Brede")
    wear(owner, brede, library)
    wear(owner, ferry.stave.character, own)
    bring_layers(owner, brede, [drawing("hat.png")])
    let_move(owner, brede.face.layers.get(name="hat"), [drawing("brim.png", "press")])
    gone.removed = timezone.now()
    gone.save()
    production.lexicon.create(word="ferry", language="en", ipa="fɛɹi", person=owner)
    production.presets.create(name="films", wish={"kinds": ["mp4"]}, person=owner)
    ferry.stave.character.sound_rules.create(ipa="m", drawing="press", place=list(SHAPES["press"].place))
    ferry.stave.character.name_matches.create(name="MBP", drawing="press")
    hat = add_part(owner, brede, "hat")
    change_layer(owner, brede.face.layers.get(), {"part": "hat", "switched": "yes"})
    change_part(owner, hat, {"role": "head", "rest": "hat", "x": "3"})
    change_layer(owner, brede.face.layers.get(), {"depth": "0.5"})
    add_view(owner, brede, "side left")
    place_mouth(owner, brede, {"x": "-20", "view": "side left"})
    acting = acting_of(ferry.scene, ferry.stave.character)
    acting = set_key(owner, acting, 0, "head", "turn", 5, 12.0, None)
    acting = show(owner, acting, acting.version, "lids", 8, 3, "shut")
    propose(owner, acting, acting.version, [], [])
    acting.refresh_from_db()
    acting = set_phrase(owner, acting, acting.version, 1, "afraid", 1.2, None, [6])
    acting = set_wish(owner, acting, acting.version, None, None, None, None, "grand")
    acting = accept(owner, acting, acting.version, 1, ["head"])
    keep_pose(owner, acting, "Turned", 5, [])
    as_shot(ferry)
    ferry.edit(owner, "pin", frame=3, frames=2, drawing="purse")
    ferry.edit(owner, "plan with chart")
    ferry.edit(owner, "mood", frame=2, frames=9, mood="neutral", chart=library.pk)
    ferry.edit(owner, "settings", hold=3, lead=1, detail=0.7)
    ferry.edit(owner, "undo")
    ferry.client(owner).post(
        f"/staves/{ferry.stave.pk}/takes", json.dumps({"name": "one"}), content_type="application/json"
    )
    ferry.scene.exposed.create(key="00000000-0000-4000-8000-000000000001", frame=4, person=owner, when=timezone.now())
    keep_backdrop(owner, ferry.scene, drawing("pier.png"))
    ferry.scene.takes.create(character=brede, sound=production.sounds.get(), person=owner)
    judged(ferry)
    return ferry


def as_shot(ferry):
    """Let the scene be a shot of the film that was shown for the first time."""
    production = ferry.scene.production
    for name, value in (("sequence", "The pier"), ("number", "0010"), ("due", "2027-01-02")):
        set_field(ferry.owner, production, [ferry.scene.pk], name, value)
    rushes.show_for_review(ferry.owner, ferry.scene)
    rushes.judge(ferry.viewer, ferry.scene, 1, "changes")


def judged(ferry):
    """Show it once more, with a note that was answered and done, and approve it."""
    rushes.show_for_review(ferry.owner, ferry.scene)
    said = rushes.Note(text="Jaw", frame=3, place=(0.5, 0.5), line=[(0, 0), (1, 1)], version=2)
    note = rushes.write(ferry.viewer, ferry.scene, said)
    rushes.write(ferry.owner, ferry.scene, rushes.Note(text="Done", on=note.pk))
    rushes.set_done(ferry.owner, ferry.scene, note.pk, True)
    rushes.judge(ferry.viewer, ferry.scene, 2, "approved")


def test_what_was_taken_out_and_brought_in_is_the_same(rich, tmp_path):
    first = out(tmp_path, rich.scene.production)
    said = document(first)
    assert [chart["name"] for chart in said["charts"]] == ["Drawn", "Gone", "Drawn 2"]
    assert [one["chart"] for one in said["characters"]] == [1, 3]
    assert said["scenes"][0]["staves"][0]["takes"] and said["scenes"][0]["shots"] and said["characters"][1]["face"]
    assert said["scenes"][0]["backdrop"].startswith("pictures/")
    assert {"head", "lids"} <= said["scenes"][0]["actings"][0]["lanes"].keys()
    assert said["poses"][0]["parts"]["head"]["dials"] == {"turn": 12.0}
    assert (said["characters"][1]["face"]["parts"][0]["rest"], said["characters"][1]["face"]["layers"][0]["part"]) == (
        "hat",
        "hat",
    )
    (drawn,) = [one for one in said["charts"][2]["drawings"] if one["also"]]
    assert (drawn["name"], drawn["each"], drawn["once"]) == ("ah", 2, False)
    face = said["characters"][1]["face"]
    assert (face["layers"][0]["depth"], face["layers"][0]["view"]) == (0.5, "front")
    assert face["views"]["side left"]["x"] == -20
    made = back(rich.stranger, first)
    second = out(tmp_path, made, name="again.zip")
    assert alike(second, first)
    assert said["people"] == [{"name": "owner", "role": "owner"}, {"name": "viewer", "role": "reviewer"}]
    there = Stave.objects.get(scene__production=made)
    assert "Drawn · ah" in {exposure.drawing for exposure in rich.track}
    assert track_of(there) == tuple(
        replace(exposure, drawing=exposure.drawing.replace("Drawn · ", "Drawn 2 · ")) for exposure in rich.track
    )
    assert (there.pins, there.moods[0]["chart"]) == (rich.fresh.pins, made.charts.get(name="Drawn 2").pk)
    acted = Acting.objects.get(scene__production=made)
    theirs = acting_of(rich.scene, rich.stave.character)
    assert acted.all_lanes() == theirs.all_lanes()
    assert acted.temper == acted.character.temper == "grand"
    assert acted.character.learned == Acting.objects.get(pk=theirs.pk).character.learned != {}
    assert made.scenes.get().start_frame == 1001
    assert [(one["verb"], one["who"], one["undone"]) for one in steps(made.scenes.get())] == [
        (one["verb"], "owner", one["undone"]) for one in steps(rich.scene)
    ]
    assert not made.people.exclude(pk=rich.stranger.pk).exists()


def test_reviews_come_along_and_stand_as_they_did(rich, tmp_path):
    made = back(rich.stranger, out(tmp_path, rich.scene.production))
    scene = made.scenes.get()
    shot = scene.shot
    assert (shot.number, str(shot.sequence), str(shot.due), shot.who) == ("0010", "The pier", "2027-01-02", None)
    there, own = (review_document(person, one) for person, one in ((rich.stranger, scene), (rich.owner, rich.scene)))
    assert there["versions"] == own["versions"]
    assert there["changed"] is own["changed"] is False
    assert [one | {"id": 0, "on": 0, "own": 0} for one in there["notes"]] == [
        one | {"id": 0, "on": 0, "own": 0} for one in own["notes"]
    ]
    answer = there["notes"][1]
    assert answer["on"] == there["notes"][0]["id"]
    assert seen(scene.shown_versions.get(number=1)) == seen(rich.scene.shown_versions.get(number=1))
    assert state_of_shot(made) == "approved"
    own_stave = Stave.objects.get(scene=scene)
    pin = {"verb": "pin", "version": own_stave.version, "frame": 40, "frames": 2, "drawing": "open"}
    client = rich.client(rich.stranger)
    answer = client.post(f"/staves/{own_stave.pk}/edit", json.dumps(pin), content_type="application/json")
    assert answer.status_code == 200
    assert state_of_shot(made) == "changed since approved"
    page = client.get(f"/productions/{made.pk}/people/").content.decode()
    assert "owner (owner), viewer (reviewer)" in page


def seen(version):
    """What a page shows of a version; the drawings in any order."""
    roles = json.loads(json.dumps(watched(version)["roles"]))
    for role in roles:
        role["chart"]["drawings"].sort(key=lambda one: one["name"])
    return roles


def state_of_shot(production):
    (row,) = shots_on_board(production)
    return row.state


def test_what_was_another_since_it_was_shown_is_so_elsewhere(rich, tmp_path):
    rich.edit(rich.owner, "pin", frame=40, frames=2, drawing="purse")
    made = back(rich.stranger, out(tmp_path, rich.scene.production))
    assert state_of_shot(made) == "changed since approved"


KEPT = {
    "script": lambda role: role["drawn"].update({next(iter(role["drawn"])): "<script>boot()</script>"}),
    "handler": lambda role: role["drawn"].update({next(iter(role["drawn"])): '<path onload="boot()"/>'}),
    "elsewhere": lambda role: role["drawn"].update({next(iter(role["drawn"])): '<image href="https://a.example/x"/>'}),
    "not closed": lambda role: role["drawn"].update({next(iter(role["drawn"])): "</svg><script/><svg>"}),
    "in a part": lambda role: role["face"]["pieces"][0].update({"markup": "<foreignObject/>"}),
    "endless": lambda role: role["exposures"][0].update({"frames": 999_999_999}),
    "gap": lambda role: role["exposures"][1].update({"frame": 77}),
    "unknown drawing": lambda role: role["exposures"][0].update({"drawing": "boot"}),
    "no role": lambda role: role.clear(),
}


def test_a_version_that_does_more_than_a_drawing_is_refused(ferry, tmp_path):
    as_shot(ferry)
    path = out(tmp_path, ferry.scene.production)
    name = document(path)["scenes"][0]["versions"][0]["kept"]
    count = Production.objects.count()

    def brought(hurt):
        with zipfile.ZipFile(path) as packed:
            kept = json.loads(packed.read(name))
        hurt(kept["roles"][0])
        data = json.dumps(kept).encode()
        other = f"versions/{hashlib.sha256(data).hexdigest()}"
        hurt_bundle = otherwise(path, lambda own: own["scenes"][0]["versions"][0].update(kept=other), {other: data})
        return back(ferry.stranger, hurt_bundle)

    for what, hurt in KEPT.items():
        with pytest.raises(TinForkError):
            brought(hurt)
        assert Production.objects.count() == count, what
    assert brought(lambda role: None).scenes.get().shown_versions.count() == 1


def test_the_same_brought_in_twice_is_told_apart_on_the_shelf(ferry):
    names = [create_production(ferry.owner, free_name(ferry.owner, "Skerry")).name for _ in range(3)]
    assert names == ["Skerry", "Skerry (2)", "Skerry (3)"]
    assert free_name(ferry.stranger, "Skerry") == "Skerry"
    long = "S" * 120
    create_production(ferry.owner, long)
    assert free_name(ferry.owner, long) == f"{'S' * 114} (2)"


def test_what_was_brought_in_is_edited_undone_and_done_again(rich, tmp_path):
    made = back(rich.stranger, out(tmp_path, rich.scene.production))
    there, client = Stave.objects.get(scene__production=made), rich.client(rich.stranger)

    def edit(verb, **what):
        version = Stave.objects.get(pk=there.pk).version
        asked = json.dumps({"verb": verb, "version": version, **what})
        answer = client.post(f"/staves/{there.pk}/edit", asked, content_type="application/json")
        assert answer.status_code == 200, answer.content

    edit("redo")
    assert Stave.objects.get(pk=there.pk).hold == 3
    edit("pin", frame=8, frames=2, drawing="open")
    for _ in range(5):
        edit("undo")
    assert Stave.objects.get(pk=there.pk).pins == []
    assert rich.fresh.pins


def test_a_scene_alone_takes_only_its_sounds_along(rich, tone, tmp_path):
    owner, production = rich.owner, rich.scene.production
    other = create_scene(owner, production, "Rope", "23.976", "1")
    place_sound(owner, arrangement_of(other), bring_sound_in(owner, production, tone), 0, rich.stave.character)
    add_text(owner, script_of(other), None, "Marit: Rope.")
    said = document(out(tmp_path, production, [other]))
    assert [scene["name"] for scene in said["scenes"]] == ["Rope"]
    assert [sound["name"] for sound in said["sounds"]] == ["tone.wav"]
    made = back(rich.viewer, out(tmp_path, production, [other]))
    assert [str(scene.fps) for scene in made.scenes.all()] == ["24000/1001"]


def test_a_deleted_scene_comes_along_deleted(ferry, tmp_path):
    remove(ferry.owner, create_scene(ferry.owner, ferry.scene.production, "Rope", "25", "1"))
    made = back(ferry.stranger, out(tmp_path, ferry.scene.production))
    assert [scene.name for scene in made.scenes.all()] == ["Fog"]
    assert alike(out(tmp_path, made), out(tmp_path, ferry.scene.production))


words = st.sampled_from(["fog", "Marit", "rope", "café", "a/b", "🐐", "x" * 60])
doings = st.one_of(
    st.tuples(st.just("pin"), st.integers(0, 30), st.integers(1, 4), st.sampled_from(["open", "purse", "press", ""])),
    st.tuples(st.just("settings"), st.integers(1, 4), st.integers(0, 3), st.integers(0, 1)),
    st.tuples(st.sampled_from(["undo", "redo"])),
    st.tuples(st.just("scene"), words, st.sampled_from(["12", "23.976", "24", "25", "29.97"]), st.integers(1, 5000)),
    st.tuples(st.just("character"), words),
    st.tuples(st.just("chart"), words, st.sampled_from(["mouth", "head"])),
    st.tuples(st.just("line"), words),
    st.tuples(st.just("note"), st.integers(0, 30), words),
    st.tuples(st.just("slide"), st.integers(-5, 9)),
    st.tuples(st.just("split"), st.integers(1, 30)),
    st.tuples(
        st.just("remove"),
    ),
)


def do(ferry, what, *how):
    """Something that people do; what cannot be is left."""
    owner, production = ferry.owner, ferry.scene.production
    clips = [clip.id for clip in arrangement_of(ferry.scene).value.clips]
    if what == "pin":
        ferry.edit(owner, "pin", frame=how[0], frames=how[1], drawing=how[2])
    elif what == "settings":
        ferry.edit(owner, "settings", hold=how[0], lead=how[1], detail=how[2])
    elif what in ("undo", "redo"):
        ferry.edit(owner, what)
    elif what == "scene":
        create_scene(owner, production, how[0], how[1], str(how[2]))
    elif what == "character":
        create_character(owner, production, how[0])
    elif what == "chart":
        bring_drawings(owner, create_chart(owner, production, *how), [drawing("ah.png")])
    elif what == "line":
        add_text(owner, script_of(ferry.scene), None, f"Marit: {how[0]}")
    elif what == "note":
        ferry.client(owner).post(
            f"/scenes/{ferry.scene.pk}/sheet/note",
            json.dumps({"frame": how[0], "text": how[1]}),
            content_type="application/json",
        )
    elif what == "slide":
        ferry.sound(owner, "slide", clips=clips[-1:], by=how[0], ripple=False)
    elif what == "split":
        ferry.sound(owner, "split", clips=clips, frame=how[0])
    elif what == "remove":
        remove(owner, production.scenes.exclude(pk=ferry.scene.pk).first() or ferry.stave.character)


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(doings, min_size=1, max_size=9))
def test_whatever_was_done_comes_back_the_same(ferry, tmp_path, done):
    with transaction.atomic():
        for what in done:
            try:
                do(ferry, *what)
            except TinForkError:
                continue
        first = out(tmp_path, ferry.scene.production)
        made = back(ferry.stranger, first)
        assert alike(out(tmp_path, made, name="again.zip"), first)
        assert [track_of(stave) for stave in Stave.objects.filter(scene__production=made)] == [ferry.track]
        transaction.set_rollback(True)


def test_numbers_are_changed_where_they_stand_and_nowhere_else():
    def later(kind, number):
        return number + {"characters": 100, "sounds": 200, "charts": 300, "drawings": 400}[kind]

    body = {"tracks": [{"id": 1, "character": 5, "clips": [{"sound": 7, "start": 7}]}, {"character": None}]}
    after = {"tracks": [{"id": 1, "character": 105, "clips": [{"sound": 207, "start": 7}]}, {"character": None}]}
    assert renumbered("sound", {"body": body}, later) == {"body": after}
    assert renumbered("stave", {"basis": [["ah", [0], 3]], "hold": 3}, later) == {
        "basis": [["ah", [0], 403]],
        "hold": 3,
    }
    changes = {
        "body": [
            [["tracks", 0, "character"], 5, None],
            [["tracks"], [], body["tracks"], 0],
            [["tracks", 0, "clips", 0, "start"], 7, 8],
        ]
    }
    assert renumbered_changes("sound", changes, later) == {
        "body": [
            [["tracks", 0, "character"], 105, None],
            [["tracks"], [], after["tracks"], 0],
            [["tracks", 0, "clips", 0, "start"], 7, 8],
        ]
    }
    basis = {"basis": [[[0], [3], [4], 2], [[], [], [["ah", [0], 3]], 1]]}
    assert renumbered_changes("stave", basis, later) == {
        "basis": [[[0], [403], [404], 2], [[], [], [["ah", [0], 403]], 1]]
    }


def _step(production, **changes):
    """Change the first step of the first scene's history."""
    production["scenes"][0]["history"][0] |= changes


def _lane(production, of="body"):
    return production["scenes"][0]["actings"][0]["lanes"]["head"][of]


def _clip(production, **changes):
    """Change the first clip of the first scene."""
    production["scenes"][0]["sound"]["parts"]["body"]["tracks"][0]["clips"][0] |= changes


AMISS = {
    "a character that is not there": lambda p: p["scenes"][0]["staves"][0].update(character=9),
    "a sound that is not there": lambda p: p["scenes"][0]["sound"]["parts"]["body"]["tracks"][0]["clips"][0].update(
        sound=9
    ),
    "a clip without end": lambda p: p["scenes"][0]["sound"]["parts"]["body"]["tracks"][0]["clips"][0].update(
        frames=10**8
    ),
    "a number without end": lambda p: p["scenes"][0]["staves"][0]["parts"]["pins"].append(
        {"frame": 10**30, "frames": 1, "drawing": "open"}
    ),
    "a pin of no frame": lambda p: p["scenes"][0]["staves"][0]["parts"]["pins"].append(
        {"frame": 1, "frames": 0, "drawing": "open"}
    ),
    "a track with gaps": lambda p: p["scenes"][0]["staves"][0]["exposures"].pop(0),
    "a track that is too long": lambda p: p["scenes"][0]["staves"][0]["exposures"][-1].__setitem__(1, 100_000),
    "an edit of what nobody edits": lambda p: _step(p, changes={"scene_id": [[[], 1, 2]]}),
    "an edit of nothing": lambda p: _step(p, area="stave 7"),
    "an edit that says nothing": lambda p: _step(p, changes={"pins": [["x"]]}),
    "a line outside of any sound": lambda p: next(iter(p["scenes"][0]["staves"][0]["lines"].values())).update(end=1e8),
    "a line that is missing": lambda p: p["scenes"][0]["staves"][0]["lines"].clear(),
    "a path out of it": lambda p: p["sounds"][0].update(file="sounds/../../../etc/passwd"),
    "two of one name": lambda p: p["characters"].append(p["characters"][0]),
    "no rate": lambda p: p["scenes"][0].update(rate="0"),
    "another hold": lambda p: p["scenes"][0]["staves"][0]["parts"].update(hold="many"),
    "a part that is not one": lambda p: p["scenes"][0]["staves"][0]["parts"].update(pk=1),
    "a nameless scene": lambda p: p["scenes"][0].update(name=""),
    "words that are none": lambda p: p["characters"][0].update(name="Ma\0rit"),
    "something else": lambda p: p.update(more=1),
    "no scenes": lambda p: p.update(scenes=None),
    "acting of nobody": lambda p: p["scenes"][0]["actings"][0].update(character=0),
    "a key beyond its dial": lambda p: _lane(p)["keys"]["turn"][0].__setitem__(1, 900.0),
    "a key of no dial": lambda p: _lane(p)["keys"].update(wobble=_lane(p)["keys"]["turn"]),
    "a way of going on that is none": lambda p: _lane(p)["keys"]["turn"][0].__setitem__(2, "bouncy"),
    "a gesture that goes back in time": lambda p: _lane(p, "gestures")[0][5].update(y=[[5, 1.0], [2, 0.0]]),
    "a gesture before itself": lambda p: _lane(p, "gestures")[0][5].update(y=[[-50, 1.0], [2, 0.0]]),
    "a lead of an hour": lambda p: _lane(p).update(lead=90_000),
    "a rate nobody blinks at": lambda p: p["scenes"][0]["actings"][0]["parts"].update(rate=0.0),
    "a temper nobody has": lambda p: p["scenes"][0]["actings"][0]["parts"].update(temper="sulky"),
    "a kind nobody knows": lambda p: p["characters"][0].update(learned={"bow": [1, 0]}),
    "notes on no phrase": lambda p: p["scenes"][0]["actings"][0]["parts"].update(phrases={"x": {}}),
}


def test_what_does_not_hold_together_is_refused_whole(ferry, tmp_path):
    ferry.edit(ferry.owner, "pin", frame=3, frames=2, drawing="purse")
    acting = set_key(ferry.owner, acting_of(ferry.scene, ferry.stave.character), 0, "head", "turn", 5, 12.0, None)
    propose(ferry.owner, acting, acting.version, [], [])
    whole, before = out(tmp_path, ferry.scene.production), Production.everything.count()
    for what, change in AMISS.items():
        with pytest.raises(TinForkError) as refused:
            pytest.fail(f"{what} was let in: {back(ferry.stranger, otherwise(whole, change))}")
        assert str(refused.value).endswith("."), what
        assert Production.everything.count() == before


def test_a_drawing_that_does_something_is_refused(rich, tmp_path):
    vector = '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'
    whole = out(tmp_path, rich.scene.production)
    with pytest.raises(TinForkError):
        back(rich.stranger, otherwise(whole, lambda p: p["charts"][0]["drawings"][0].update(vector=vector)))


def test_what_is_no_bundle_or_was_hurt_on_its_way_is_refused(ferry, tmp_path):
    whole = out(tmp_path, ferry.scene.production)
    sound = document(whole)["sounds"][0]["file"]
    half = tmp_path / "half.zip"
    half.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    hurt = bytearray(whole.read_bytes())
    hurt[hurt.index(b"fmt ") + 200] ^= 255
    bent = tmp_path / "bent.zip"
    bent.write_bytes(hurt)
    empty = tmp_path / "empty.zip"
    with zipfile.ZipFile(empty, "w") as packed:
        packed.writestr("letter.txt", "Dear Brede")
    for path, told in (
        (half, "cut off or damaged"),
        (bent, "cut off or damaged"),
        (empty, "no bundle"),
        (otherwise(whole, files={sound: b"RIFF something else"}), "is not what it was"),
    ):
        with pytest.raises(BundleError, match=told):
            back(ferry.stranger, path)
    with pytest.raises(BundleError, match="is missing"):
        back(ferry.stranger, otherwise(whole, files={sound: None}))
    with pytest.raises(BundleError, match="A newer Tin Fork"):
        back(ferry.stranger, otherwise(whole, version=6))


def test_the_tempers_a_bundle_knows_are_those_there_are():
    assert get_args(Temper) == tuple(TEMPERS)
    assert get_args(Kind) == ACCENTS


@pytest.mark.parametrize("name", ["first", "second"])
def test_a_bundle_of_an_older_version_opens(ferry, name):
    made = back(ferry.stranger, Path(__file__).with_name(f"{name}_bundle.zip"))
    assert track_of(Stave.objects.get(scene__production=made))
    acted = Acting.objects.filter(scene__production=made).first()
    assert (acted is not None and acted.lane("head").keys["turn"][0].value == 12.0) == (name == "second")


def sent(ferry, person, data, name="bundle.zip"):
    return ferry.client(person).post("/bundles/", {"bundle": SimpleUploadedFile(name, data)})


def test_it_goes_out_and_comes_in_by_the_worker(ferry, settings):
    viewer, owner = ferry.client(ferry.viewer), ferry.client(ferry.owner)
    assert owner.post(f"/scenes/{ferry.scene.pk}/bundle", {"whole": "1"})["HX-Trigger"] == "handover-asked"
    job = Job.objects.get(kind="bundle")
    make_bundle(job_id=job.pk)
    assert "The_Salt_Ferry.tinfork.zip" in viewer.get(f"/scenes/{ferry.scene.pk}/hand-over/made").content.decode()
    data = viewer.get(f"/jobs/{job.pk}/result").getvalue()
    assert ferry.client(ferry.stranger).get(f"/jobs/{job.pk}/result").status_code == 404

    assert sent(ferry, ferry.stranger, data).status_code == 302
    job = Job.objects.get(kind="bring-in")
    kept = Path(settings.MEDIA_ROOT) / job.asked["file"]
    assert kept.exists()
    bring_in_bundle(job_id=job.pk)
    assert not kept.exists()
    page = ferry.client(ferry.stranger).get("/bundles/").content.decode()
    assert "“The Salt Ferry” is on your shelf." in page
    assert "The Salt Ferry" in ferry.client(ferry.stranger).get("/").content.decode()
    for other in (ferry.owner, ferry.viewer):
        assert ferry.client(other).get(f"/jobs/{job.pk}/").status_code == 404
        assert ferry.client(other).post(f"/jobs/{job.pk}/cancel").status_code == 404


@pytest.mark.parametrize("state", ["cancelled", "done"])
def test_one_that_was_cancelled_or_done_by_another_meanwhile_is_not_made(ferry, tmp_path, monkeypatch, state):
    sent(ferry, ferry.stranger, out(tmp_path, ferry.scene.production).read_bytes())
    job, bring_in = Job.objects.get(), incoming.bring_in

    def slowly(*what):
        made = bring_in(*what)
        Job.objects.update(state=state)
        return made

    monkeypatch.setattr(incoming, "bring_in", slowly)
    with pytest.raises(Cancelled):
        bring_in_bundle(job_id=job.pk)
    assert not Production.everything.filter(people=ferry.stranger, name="The Salt Ferry").exists()


def test_what_is_refused_when_it_is_sent_says_so(ferry):
    for data in (b"", b"not a ZIP"):
        answer = sent(ferry, ferry.stranger, data)
        assert answer.status_code == 422
        assert 'role="alert"' in answer.content.decode()
    assert ferry.client(ferry.stranger).post("/bundles/").status_code == 422
    assert not Job.objects.exists()


def test_a_full_disk_says_so_and_leaves_nothing(ferry, tmp_path, monkeypatch):
    path = out(tmp_path, ferry.scene.production)
    sent(ferry, ferry.stranger, path.read_bytes())
    job = Job.objects.get()

    def full(*args):
        raise DiskFullError

    monkeypatch.setattr("tinfork.web.sound.actions.store.keep", full)
    bring_in_bundle(job_id=job.pk)
    job.refresh_from_db()
    assert (job.state, "disk is full" in job.message) == ("failed", True)
    assert not Production.everything.filter(people=ferry.stranger, name="The Salt Ferry").exists()


def test_a_file_that_is_gone_is_named(ferry, tmp_path):
    shutil.rmtree(Path(ferry.scene.production.sounds.get().original.path).parent)
    with pytest.raises(BundleError, match="no longer on the disk"):
        out(tmp_path, ferry.scene.production)
