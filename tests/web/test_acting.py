"""Acting: what is asked of lanes, phrases, poses and proposals, and that none takes another's work."""

import io
import json
import zipfile

import numpy as np
import opentimelineio as otio
import pytest
from django.db import OperationalError
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec import structs

from tests.web.test_faces import square
from tests.web.test_handover import makes
from tinfork.core.acting.temper import ACCENTS
from tinfork.core.mouths.parts import DIALS
from tinfork.core.mouths.picture import open_picture
from tinfork.web.acting.gesturing import propose
from tinfork.web.acting.models import Acting, SavedPose, acting_of, kept_lane
from tinfork.web.acting.staging import Stage
from tinfork.web.acting.tasks import ask_to_propose, propose_scene
from tinfork.web.faces.actions import add_part, bring_layers, change_layer, change_part, remove_part
from tinfork.web.faces.models import FacePart, face_of
from tinfork.web.handover.models import Handover, compare_versions
from tinfork.web.handover.roles import role_of, staves_of
from tinfork.web.jobs.models import Job
from tinfork.web.productions.actions import create_character, create_scene
from tinfork.web.sound.arranging import add_track as track
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import mouths_of
from tinfork.web.staves.placing import Placed

LINE = 1


@pytest.fixture
def acting(ferry):
    """Marit's acting, asked as a page does."""
    return Asked(ferry, acting_of(ferry.scene, ferry.stave.character))


class Asked:
    def __init__(self, ferry, row):
        self.ferry, self.pk = ferry, row.pk
        self.client = ferry.client(ferry.owner)

    @property
    def row(self):
        return Acting.objects.select_related("scene__production", "character").get(pk=self.pk)

    def ask(self, verb, client=None, **what):
        what = {"version": self.row.version} | what
        body = json.dumps({"verb": verb, **what})
        return (client or self.client).post(f"/acting/{self.pk}/edit", body, content_type="application/json")

    def do(self, verb, **what):
        """Do something that is done; what comes back."""
        answer = self.ask(verb, **what)
        assert answer.status_code == 200, answer.content
        return answer.json()

    def refused(self, verb, **what):
        """The sentence with which something is refused; nothing is changed by it."""
        before = (self.row.version, self.bodies)
        answer = self.ask(verb, **what)
        assert answer.status_code == 422, answer.content
        assert (self.row.version, self.bodies) == before
        return answer.json()["problem"]

    @property
    def bodies(self):
        rows = self.row.lanes.values_list("part", "body", "gestures")
        return {part: {"body": body, "gestures": gestures} for part, body, gestures in rows if body or gestures}

    def placed(self, part):
        row = self.row
        return Stage(row).place(row.lane(part))

    def curve(self, part, dial):
        placed = self.placed(part)
        return placed.curve(dial, range(placed.frames))

    def drawings(self, part):
        placed = self.placed(part)
        return [one or "" for one in placed.drawings(range(placed.frames))]


def test_a_key_is_set_moved_eased_and_deleted_and_each_is_one_step_of_undo(acting):
    acting.do("key", part="head", dial="turn", frame=10, value=0)
    acting.do("key", part="head", dial="turn", frame=20, value=8)
    assert acting.curve("head", "turn")[15] == 4.0
    acting.do("move keys", part="head", dial="turn", frames=[20], by=10, up=-2)
    acting.do("ease", part="head", dial="turn", frames=[10], ease="hold")
    assert acting.curve("head", "turn")[[29, 30]].tolist() == [0.0, 6.0]
    acting.do("drop keys", part="head", first=5, end=15)
    assert acting.curve("head", "turn")[0] == 6.0
    for _ in range(5):
        acting.do("undo")
    assert acting.bodies == {}
    acting.do("redo")
    assert acting.curve("head", "turn")[10] == 0.0
    assert "no key" in acting.refused("move keys", part="head", dial="turn", frames=[99], by=1)


def test_an_answer_brings_only_what_was_changed(acting):
    acting.do("propose")
    for frame in range(0, 60, 2):
        acting.do("key", part="head", dial="x", frame=frame, value=frame / 10)
    answer = acting.ask("key", part="head", dial="x", frame=30, value=7)
    said = answer.json()["document"]
    assert said["lanes"] == {"head": {"keys": {"x": {"30": [7, 0]}}}}
    assert len(answer.content) < 1_000
    moved = acting.do("move keys", part="head", dial="x", frames=[30], by=1)["document"]["lanes"]
    assert moved == {"head": {"keys": {"x": {"30": None, "31": [7, 0]}}}}
    assert acting.do("undo")["document"]["lanes"]["head"]["keys"]["x"]["30"] == [7, 0]


@pytest.mark.parametrize(
    "what",
    [
        {"part": "tail", "dial": "x", "frame": 3, "value": 1},
        {"part": "head", "dial": "wobble", "frame": 3, "value": 1},
        {"part": "head", "dial": "bend", "frame": 3, "value": 9},
        {"part": "head", "dial": "x", "frame": 100_000, "value": 1},
        {"part": "head", "dial": "x", "frame": -1, "value": 1},
        {"part": "head", "dial": "x", "frame": 3, "value": 1, "ease": "bouncy"},
        {"part": "head", "dial": "x", "frame": 3},
        {"part": "head", "dial": "x", "frame": 3, "value": 1, "more": 1},
        {"part": "head", "dial": "x", "frame": 3, "value": float("nan")},
    ],
)
def test_what_cannot_be_set_is_refused_with_a_sentence(acting, what):
    assert acting.refused("key", **what).endswith((".", "them."))


def test_a_stale_version_overwrites_nothing(acting):
    acting.do("key", part="head", dial="x", frame=3, value=1)
    answer = acting.ask("key", part="head", dial="x", frame=3, value=9, version=0)
    assert answer.status_code == 409
    assert "set head x" in answer.json()["problem"]
    assert acting.curve("head", "x")[3] == 1.0


def test_nobody_else_changes_it(acting):
    for person, status in ((acting.ferry.viewer, 404), (acting.ferry.stranger, 404)):
        client = acting.ferry.client(person)
        assert acting.ask("key", client, part="head", dial="x", frame=3, value=1).status_code == status
    assert acting.bodies == {}


def test_drawings_are_shown_and_have_the_verbs_of_mouths(acting):
    acting.do("show", part="lids", frame=10, frames=6, drawing="shut")
    acting.do("split", part="lids", frame=13)
    acting.do("swap", part="lids", at=[13], drawing="half")
    assert acting.drawings("lids")[9:17] == ["", "shut", "shut", "shut", "half", "half", "half", ""]
    acting.do("slide", part="lids", at=[13], by=4)
    assert acting.drawings("lids")[16:21] == ["shut", "half", "half", "half", ""]
    acting.do("remove", part="lids", at=[18])
    assert "half" not in acting.drawings("lids")[10:30]
    acting.do("free", part="lids", at=[11])
    assert "shut" not in acting.drawings("lids")[10:12]
    assert "no drawing" in acting.refused("show", part="lids", frame=3, frames=2, drawing="wink")
    assert "it has none" in acting.refused("show", part="head", frame=3, frames=2, drawing="wink")


def test_a_phrase_is_proposed_accepted_thrown_away_and_nothing_accepted_is_replaced(acting):
    answer = acting.do("propose", lines=[LINE])
    assert answer["proposed"] >= 3
    assert answer["phrases"] == 1
    (nod, *_) = nods_of(acting)
    acting.do("gestures", part="head", ids=[nod.gesture.id], by=3, amount=2)
    seen = acting.curve("head", "y")
    acting.do("accept", line=LINE, parts=["left brow"])
    acting.do("throw away", line=LINE)

    def accepted():
        lanes = acting.row.all_lanes().items()
        return {part: [one for one in lane.gestures if one.accepted] for part, lane in lanes if lane.gestures}

    kept = accepted()
    assert all(one.accepted for lane in acting.row.all_lanes().values() for one in lane.gestures)
    assert kept.keys() >= {"head", "left brow"}
    acting.do("propose")
    assert {part: own for part, own in accepted().items() if own} == kept
    assert abs(seen).max() > 0
    acting.do("accept", line=LINE)
    before = accepted()
    assert "Nothing is proposed" in acting.refused("accept", line=LINE)
    acting.do("wish", seed=9)
    acting.do("propose")
    assert accepted() == before


def nods_of(acting):
    """Nods in the phrase, asked for until there are any."""
    for _ in range(20):
        found = [g for g in acting.placed("head").gestures if g.gesture.kind == "nod"]
        if found:
            return found
        acting.do("propose", lines=[LINE], another=True)
    raise AssertionError("twenty proposals without a nod")


def test_another_is_proposed_for_a_phrase_and_the_one_before_comes_back(acting):
    def kinds():
        return [one.kind for one in acting.row.lane("head").gestures if one.line == LINE]

    acting.do("propose")
    first, others = kinds(), [one for one in acting.row.lane("head").gestures if one.line != LINE]
    seen = {tuple(first)}
    for _ in range(8):
        acting.do("propose", lines=[LINE], another=True)
        seen.add(tuple(kinds()))
    assert len(seen) > 2
    assert [one for one in acting.row.lane("head").gestures if one.line != LINE] == others
    assert acting.row.notes[LINE].again == 8
    last = kinds()
    acting.do("propose", lines=[LINE])
    assert kinds() == last
    for _ in range(8):
        acting.do("undo")
    assert kinds() == first
    assert acting.row.notes.get(LINE) is None


def test_another_and_a_note_on_the_same_version_both_stay(acting):
    """Two tabs: each knows the version before the other's edit."""
    acting.do("propose")
    version = acting.row.version
    note = acting.ask("phrase", line=LINE, note="afraid", version=version)
    another = acting.ask("propose", lines=[LINE], another=True, version=version)
    told = [(one.status_code, one.json().get("problem", "")) for one in (note, another)]
    own = acting.row.notes[LINE]
    assert own.note == "afraid", told
    assert own.again == (another.status_code == 200), told


def test_a_temper_counts_for_what_is_proposed_next_and_is_kept_with_the_character(acting):
    def sizes():
        lanes = acting.row.all_lanes().values()
        return [
            max(abs(v) for _, v in points)
            for lane in lanes
            for one in lane.gestures
            if one.kind == "brows"
            for points in one.dials.values()
        ]

    acting.do("propose")
    even = sizes()
    acting.do("wish", temper="grand")
    assert sizes() == even
    acting.do("propose")
    assert max(sizes()) > 1.2 * max(even)
    character = acting.row.character
    assert character.temper == "grand"
    scene = create_scene(acting.ferry.owner, acting.row.scene.production, "11 · Elsewhere", "24", "1")
    assert acting_of(scene, character).temper == "grand"
    assert "even, calm, lively, nervous, grand" in acting.refused("wish", temper="sulky")
    acting.do("undo")
    acting.do("undo")
    assert acting.row.temper == "even"


def test_what_is_kept_and_thrown_away_is_learned_of_the_character_and_forgotten(acting):
    acting.do("propose")
    head = acting.row.lane("head").gestures
    own = [one.kind for one in head if one.line == LINE and one.kind in ACCENTS]
    assert own
    acting.do("throw away", line=LINE)
    assert acting.row.character.learned == {kind: [0, own.count(kind)] for kind in own}
    assert acting.do("forget")["document"]["learned"] == {}
    assert acting.row.character.learned == {}
    acting.do("propose")
    acting.do("accept", line=LINE)
    assert acting.row.character.learned == {kind: [own.count(kind), 0] for kind in own}
    assert acting.row.wish.liked[own[0]] > 1
    first = next(one for one in acting.row.lane("head").gestures if one.line == LINE and one.kind in ACCENTS)
    acting.do("gestures", part="head", ids=[first.id], amount=0.6)
    acting.do("gestures", part="head", ids=[first.id], amount=-1.0)
    assert acting.row.character.learned[first.kind][1] == 0
    acting.do("gestures", part="head", ids=[first.id], amount=0.4)
    acting.do("drop gestures", part="head", ids=[first.id])
    assert acting.row.character.learned[first.kind][1] == 2
    brow = next(one for one in acting.row.lane("left brow").gestures if one.line == LINE)
    acting.do("drop gestures", part="left brow", ids=[brow.id])
    assert sum(dropped for _, dropped in acting.row.character.learned.values()) == 2
    stranger = acting.ferry.client(acting.ferry.stranger)
    assert acting.ask("forget", client=stranger).status_code == 404
    assert acting.row.character.learned


def test_others_are_proposed_for_another_seed_and_the_same_for_the_same(acting):
    def lanes():
        return {
            part: [structs.replace(one, id=0) for one in lane.gestures] for part, lane in acting.row.all_lanes().items()
        }

    acting.do("propose")
    first = lanes()
    acting.do("wish", seed=5)
    acting.do("propose")
    assert lanes() != first
    acting.do("wish", seed=1)
    acting.do("propose")
    assert lanes() == first


def test_the_amount_of_a_phrase_and_of_the_scene_scales_gestures_and_no_keys(acting):
    acting.do("propose")
    acting.do("key", part="head", dial="y", frame=0, value=1)
    one = acting.curve("head", "y") - 1
    answer = acting.do("phrase", line=LINE, amount=2.0)
    assert answer["document"]["phrases"][str(LINE)]["amount"] == 2.0
    assert not answer["document"]["lanes"]
    assert acting.curve("head", "y") == pytest.approx(1 + 2 * one)
    acting.do("wish", amount=0.5)
    assert acting.curve("head", "y") == pytest.approx(1 + one)
    assert "0 to 3" in acting.refused("phrase", line=LINE, amount=40)
    assert "not said" in acting.refused("phrase", line=77, amount=1)


def test_what_is_seen_in_a_locked_phrase_stays(acting):
    acting.do("propose")
    acting.do("key", part="head", dial="y", frame=12, value=3)
    acting.do("phrase", line=LINE, note="afraid of the fog", moments=[12, 20])
    acting.do("phrase", line=LINE, locked=True)
    row = acting.row
    span = Stage(row).line(LINE)
    middle = (span.frame + span.end) // 2
    seen = acting.curve("head", "y"), acting.drawings("lids")
    assert "locked" in acting.refused("key", part="head", dial="y", frame=middle, value=5)
    assert "locked" in acting.refused("show", part="lids", frame=middle, frames=2, drawing="shut")
    assert "locked" in acting.refused("wish", amount=2)
    assert "locked" in acting.refused("phrase", line=LINE, note="brave")
    assert "locked" in acting.refused("lane", part="head", lead=6)
    assert "unlock" in acting.refused("propose")
    # Before it and after it, and where it changes nothing, work goes on.
    acting.do("accept", line=LINE)
    assert (acting.curve("head", "y") == seen[0]).all()
    assert acting.drawings("lids") == seen[1]
    acting.do("phrase", line=LINE, locked=False)
    acting.do("key", part="head", dial="y", frame=middle, value=5)
    assert all(kept_lane(acting.row.lane(part)) == kept for part, kept in acting.bodies.items())
    assert acting.row.notes[LINE].note == "afraid of the fog"
    assert len(acting.row.notes[LINE].moments) == 2


def test_a_look_turns_the_eyes_and_the_head_after_them(acting):
    acting.do("look", frame=10, frames=24, x=-1, y=0, head=True)
    eyes, head = acting.curve("eyes", "x"), acting.curve("head", "facing")
    assert eyes.min() == pytest.approx(-6)
    assert head.min() == pytest.approx(-32)
    assert int(np.argmax(head < -0.01)) - int(np.argmax(eyes < -0.01)) >= 2
    assert "two frames" in acting.refused("look", frame=10, frames=1, x=1, y=0)


def test_a_lead_is_changed_without_doing_it_again(acting):
    acting.do("key", part="left brow", dial="y", frame=10, value=0)
    acting.do("key", part="left brow", dial="y", frame=14, value=-8)
    before = acting.curve("left brow", "y")
    acting.do("lane", part="left brow", lead=2)
    assert acting.curve("left brow", "y")[:-2] == pytest.approx(before[2:])
    assert "48" in acting.refused("lane", part="left brow", lead=900)
    acting.do("lane", part="head", alone=True)
    assert acting.row.lane("head").alone


def test_a_pass_becomes_few_keys_with_its_error_told_and_takes_only_its_frames(acting):
    acting.do("key", part="head", dial="turn", frame=0, value=4)
    samples = [(10 + n / 2.5, float(10 * np.sin(n / 12))) for n in range(100)]
    said = acting.do("record", part="head", dial="turn", first=12, end=48, samples=samples, late=2, allowed=0.4)["pass"]
    assert said["frames"] == 36
    assert said["keys"] < 18
    assert said["error"] <= 0.4
    hand = np.interp(np.arange(16, 44), [at - 2 for at, _ in samples], [value for _, value in samples])
    assert acting.curve("head", "turn")[16:44] == pytest.approx(hand, abs=1.1)
    assert acting.curve("head", "turn")[0] == 4.0
    assert "Nothing was recorded" in acting.refused("record", part="head", dial="turn", first=0, end=20, samples=[])
    assert "no frame" in acting.refused("record", part="head", dial="turn", first=9000, end=9010, samples=samples)
    assert "frames long" in acting.refused("record", part="head", dial="turn", first=0, end=10**8, samples=samples)
    shown = acting.do("record switch", part="lids", first=10, end=30, shown=[(12, "shut"), (16.4, "")], late=0)["pass"]
    assert shown["keys"] == 2
    assert acting.drawings("lids")[11:18] == ["", "shut", "shut", "shut", "shut", "", ""]


def test_a_pose_is_kept_laid_mirrored_on_another_face_and_deleted(acting, ferry):
    acting.do("key", part="left brow", dial="y", frame=10, value=-9)
    acting.do("show", part="lids", frame=10, frames=3, drawing="half")
    address = f"/acting/{acting.pk}/poses"

    def keep(**what):
        return acting.client.post(address, json.dumps(what), content_type="application/json")

    assert keep(name="  ", frame=10).status_code == 422
    (kept,) = keep(name="Wary", frame=10).json()["poses"]
    assert kept["parts"] == ["left brow", "lids"]
    pock = create_character(ferry.owner, ferry.scene.production, "Brede")
    place_sound(ferry.owner, arrangement_of(ferry.scene), ferry.scene.production.sounds.get(), None, pock)
    acting.client.get(f"/scenes/{ferry.scene.pk}/acting/")
    other = Asked(ferry, Acting.objects.get(character=pock))
    other.do("pose", pose=kept["id"], frame=50, mirrored=True, amount=0.5)
    assert other.curve("right brow", "y")[50] == -4.5
    assert other.drawings("lids")[50] == "half"
    assert acting.client.post(f"/poses/{kept['id']}/delete").status_code == 200
    assert "not there" in other.refused("pose", pose=kept["id"], frame=50)
    assert not SavedPose.objects.exists()


def add_track(ferry, name):
    """Somebody in the scene who says nothing in it."""
    silent = create_character(ferry.owner, ferry.scene.production, name)
    document = arrangement_of(ferry.scene)
    track(ferry.owner, document, document.version, "dialogue", name, silent.pk)
    return silent


def test_somebody_who_says_nothing_in_a_scene_listens_all_through_it(acting, ferry):
    silent = add_track(ferry, "Brede")
    page = acting.client.get(f"/scenes/{ferry.scene.pk}/acting/").content.decode()
    assert "Brede" in page
    brede = Asked(ferry, Acting.objects.get(character=silent))
    assert brede.client.get(f"/acting/{brede.pk}/").json()["lines"] == [[0, 0, Stage(acting.row).where.frames]]
    brede.do("propose", lines=[0])
    (said,) = Stage(acting.row).lines
    looks = [one for one in brede.row.lane("eyes").gestures if one.kind == "look"]
    assert [said.frame <= one.frame < said.end for one in looks] == [True]
    assert brede.row.lane("lids").gestures
    stave = Stave.objects.select_related("character", "scene").get(character=silent)
    assert [one.drawing for one in role_of(Placed(stave)).exposures] == ["rest"]
    assert [one.character for one in staves_of(ferry.scene)] == [ferry.stave.character, silent]
    brede.do("phrase", line=0, locked=True)
    assert "locked" in brede.refused("key", part="head", dial="x", frame=60, value=9)
    brede.do("phrase", line=0, locked=False)
    brede.do("accept", line=0)
    assert all(one.accepted for one in brede.row.lane("lids").gestures)


def test_everybody_in_a_scene_is_proposed_for_in_one_go(acting, ferry):
    silent = add_track(ferry, "Brede")
    acting.do("phrase", line=LINE, locked=True)
    acting.client.post(f"/scenes/{ferry.scene.pk}/acting/propose")
    job = Job.objects.get(kind="propose")
    propose_scene(job.pk)
    job.refresh_from_db()
    assert job.state == "done"
    assert "Marit: There is no phrase to propose for" in job.message
    assert "Brede: " in job.message
    assert "gestures proposed" in job.message
    assert Acting.objects.get(character=silent).lane("lids").gestures
    assert not acting.row.lane("lids").gestures
    acting.do("phrase", line=LINE, locked=False)
    propose_scene(ask_to_propose(ferry.owner, ferry.scene).pk)
    assert acting.row.lane("lids").gestures


def test_a_worker_lost_half_way_leaves_whole_proposals_and_the_next_makes_the_same(acting, ferry, monkeypatch):
    silent = add_track(ferry, "Brede")
    propose_scene(ask_to_propose(ferry.owner, ferry.scene).pk)

    def every():
        return {a.character_id: {p: a.lane(p).gestures for p in ("head", "eyes", "lids")} for a in Acting.objects.all()}

    wanted = every()
    Acting.objects.all().delete()
    job = ask_to_propose(ferry.owner, ferry.scene)

    def lost(person, row, *more):
        if row.character_id == silent.pk:
            raise OperationalError("the database is gone")
        return propose(person, row, *more)

    monkeypatch.setattr("tinfork.web.acting.tasks.propose", lost)
    with pytest.raises(OperationalError):
        propose_scene(job.pk)
    first = every()
    assert first[ferry.stave.character_id] == wanted[ferry.stave.character_id]
    assert not any(first[silent.pk].values())
    monkeypatch.undo()
    propose_scene(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempts) == ("done", 2)
    assert every() == wanted


def test_who_asks_for_too_much_at_once_is_told_and_nothing_is_proposed(acting, ferry):
    for subject in range(12):
        Job.objects.create(person=ferry.owner, kind="read", subject=subject, queue=Job.Queue.WAITED_FOR)
    answer = acting.client.post(f"/scenes/{ferry.scene.pk}/acting/propose")
    assert "12 pieces of your work are waiting already" in answer.content.decode()
    assert not Job.objects.filter(kind="propose").exists()


def test_how_large_somebody_is_seen_counts_for_what_is_proposed_next(acting):
    def far(framing):
        acting.do("wish", framing=framing)
        acting.do("propose", parts=["head"])
        points = [p for one in acting.row.lane("head").gestures for own in one.dials.values() for p in own]
        return max(abs(value) for _, value in points)

    close, medium, wide = map(far, ("close", "medium", "wide"))
    assert close < 0.7 * medium
    assert wide > 1.2 * medium
    assert "close, medium, wide" in acting.refused("wish", framing="from the moon")


def test_acting_is_copied_to_another_character(acting, ferry):
    pock = create_character(ferry.owner, ferry.scene.production, "Brede")
    place_sound(ferry.owner, arrangement_of(ferry.scene), ferry.scene.production.sounds.get(), None, pock)
    acting.client.get(f"/scenes/{ferry.scene.pk}/acting/")
    other = Asked(ferry, Acting.objects.get(character=pock))
    acting.do("key", part="head", dial="turn", frame=10, value=0)
    acting.do("key", part="head", dial="turn", frame=20, value=8)
    acting.do("show", part="lids", frame=12, frames=3, drawing="shut")
    other.do("paste", source=acting.pk, first=10, end=22, frame=40)
    assert other.curve("head", "turn")[40:52] == pytest.approx(acting.curve("head", "turn")[10:22], abs=0.06)
    assert other.drawings("lids")[42:45] == ["shut"] * 3
    assert "nothing to copy" in other.refused("paste", source=acting.pk, first=90, end=80, frame=0)


FRAME, IDS = st.integers(0, 60), st.lists(st.integers(1, 5), min_size=1)
A_DIAL, VALUE = st.sampled_from(list(DIALS)), st.floats(-0.5, 0.9)


def asked(verb, **what):
    return st.fixed_dictionaries({"verb": st.just(verb), **what})


VERBS = st.one_of(
    asked("key", dial=A_DIAL, frame=FRAME, value=VALUE),
    asked("drop keys", first=st.integers(0, 30), end=st.integers(20, 60)),
    asked("show", frame=FRAME, frames=st.integers(1, 9), drawing=st.sampled_from(["half", "shut"])),
    asked("slide", at=st.lists(FRAME, max_size=3), by=st.integers(-9, 9)),
    asked("gestures", ids=IDS, by=st.integers(-9, 9)),
    asked("drop gestures", ids=IDS),
    asked("as keys", ids=IDS),
    asked("lane", lead=st.integers(-9, 9)),
    asked(
        "record",
        dial=A_DIAL,
        first=st.integers(0, 20),
        end=st.integers(21, 60),
        samples=st.lists(st.tuples(st.floats(0, 60), VALUE), min_size=2, max_size=20),
    ),
    asked("propose"),
)


@settings(max_examples=12, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.sampled_from(["lids", "head"]), st.lists(VERBS, min_size=1, max_size=10))
def test_no_verbs_on_one_lane_change_another(acting, part, verbs):
    acting.ask("propose")
    acting.ask("key", part="eyes", dial="x", frame=9, value=0.4)
    before = {name: body for name, body in acting.bodies.items() if name != part}
    for one in verbs:
        what = dict(one)
        verb = what.pop("verb")
        answer = acting.ask(verb, **(what | ({"parts": [part]} if verb == "propose" else {"part": part})))
        assert answer.status_code in (200, 422), answer.content
    after = {name: body for name, body in acting.bodies.items() if name != part}
    assert after == before


def test_what_was_set_moves_with_its_sound(acting, ferry):
    acting.do("key", part="head", dial="turn", frame=10, value=3)
    acting.do("key", part="head", dial="turn", frame=14, value=-3)
    before = acting.curve("head", "turn")
    clip = arrangement_of(ferry.scene).value.clips[0].id
    assert ferry.sound(ferry.owner, "slide", clips=[clip], by=7, ripple=False).status_code == 200
    assert acting.curve("head", "turn")[17:40] == pytest.approx(before[10:33])


def test_parts_of_a_face_are_made_hung_and_refused_in_a_loop(ferry, editor):
    marit = ferry.stave.character
    bring_layers(editor, marit, [square("face", "#ffffff"), square("shut", "#0000ff"), square("half", "#00ff00")])
    lids, hat = add_part(editor, marit, "lids"), add_part(editor, marit, "hat")
    assert (lids.role, hat.role, hat.on) == ("lids", "", "head")
    for name in ("shut", "half"):
        change_layer(editor, marit.face.layers.get(name=name), {"part": "lids", "switched": "yes"})
    change_part(editor, hat, {"on": "lids", "x": "12", "y": "-80"})
    face = face_of(marit)
    assert face.part("lids").drawings == ("shut", "half")
    assert (face.part("hat").on, face.part("hat").x) == ("lids", 12.0)
    assert "#" not in face.behind or "shut" not in face.behind
    client = ferry.client(editor)
    looped = client.post(f"/parts/{lids.pk}/change", {"on": "hat"})
    assert looped.status_code == 422
    assert "would hang on itself" in looped.content.decode()
    assert FacePart.objects.get(pk=lids.pk).on == "head"
    assert "already" in client.post(f"/characters/{marit.pk}/face/parts", {"name": "hat"}).content.decode()
    assert "no role" in client.post(f"/parts/{hat.pk}/change", {"role": "captain"}).content.decode()
    acting = Asked(ferry, acting_of(ferry.scene, marit))
    acting.do("propose", parts=["lids"])
    assert {one.kind for one in acting.row.lane("lids").gestures} == {"blink"}
    remove_part(editor, lids)
    assert face_of(marit).part("hat").on == "head"
    assert "no part" in acting.refused("key", part="lids", dial="x", frame=3, value=1)
    assert acting.row.lane("lids").gestures


def test_a_part_without_drawings_has_nothing_to_show(ferry, editor):
    marit = ferry.stave.character
    bring_layers(editor, marit, [square("face", "#ffffff")])
    add_part(editor, marit, "lids")
    acting = Asked(ferry, acting_of(ferry.scene, marit))
    assert acting.do("propose", parts=["lids"])["proposed"] == 0
    assert "it has none" in acting.refused("show", part="lids", frame=3, frames=2, drawing="shut")


def test_what_acts_is_handed_over(acting, ferry):
    acting.do("key", part="head", dial="turn", frame=0, value=0)
    acting.do("key", part="head", dial="turn", frame=10, value=20)
    acting.do("show", part="lids", frame=10, frames=4, drawing="shut")
    acting.do("phrase", line=LINE, note="she saw it", moments=[12])
    kinds = ["drawings", "png", "lottie", "svg", "acting", "otio", "gltf"]
    made = {name.partition("Marit")[2]: data for name, data in makes(ferry, kinds=kinds).items()}
    table = made["_acting.csv"].decode().splitlines()
    assert table[0].startswith("frame,scene_frame,character,part,x,y,turn")
    assert "10,1011,Marit,lids,0,0,0,0,0,0,0,shut" in table
    assert "14,1015,Marit,lids,0,0,0,0,0,0,0," in table
    assert any(row.startswith("10,1011,Marit,head,0,0,20,") for row in table)
    with zipfile.ZipFile(io.BytesIO(made[".zip"])) as packed:
        frames = sorted(name for name in packed.namelist() if name.startswith("frames/"))
        still, turned = (open_picture("x", packed.read(frames[n])).pixels.astype(int) for n in (0, 10))
    assert abs(still - turned).mean() > 3
    with zipfile.ZipFile(io.BytesIO(made["_drawings.zip"])) as packed:
        rig = json.loads(packed.read("Marit/parts.json"))
        assert {part["part"] for part in rig["parts"]} >= {"head", "lids", "mouth"}
        assert all(f"Marit/parts/{piece['file']}" in packed.namelist() for piece in rig["pieces"])
    lottie = json.loads(made["_lottie.json"])
    inds = {layer["ind"] for layer in lottie["layers"]}
    assert all(layer["parent"] in inds for layer in lottie["layers"] if "parent" in layer)
    (head,) = [layer for layer in lottie["layers"] if layer["nm"] == "Marit, head"]
    assert head["ks"]["r"]["k"][-1] == {"t": 10, "s": [20.0], "h": 1}
    assert "animateTransform" in made[".svg"].decode()
    timeline = otio.adapters.read_from_string(made[".otio"].decode(), "otio_json")
    tracks = {track.name: track for track in timeline.tracks}
    assert [clip.name for clip in tracks["Marit, lids"].find_clips()] == ["shut"]
    marks = {mark.name for mark in tracks["Marit, mouth"].markers}
    assert {"she saw it", "key moment"} <= marks
    gltf = json.loads(made[".gltf"])
    names = [node["name"] for node in gltf["nodes"]]
    assert {"Marit, head", "Marit, lids", "Marit, mouth"} <= set(names)
    paths = {(names[c["target"]["node"]], c["target"]["path"]) for c in gltf["animations"][0]["channels"]}
    assert ("Marit, head", "rotation") in paths


def test_what_was_handed_over_is_older_once_it_acts_otherwise(acting, ferry):
    acting.do("key", part="head", dial="turn", frame=10, value=20)
    makes(ferry, kinds=["acting"])
    (made,) = Handover.objects.filter(files__isnull=False)
    compare_versions([made])
    assert not made.is_older
    acting.do("key", part="head", dial="turn", frame=12, value=5)
    compare_versions([made])
    assert made.is_older


def test_a_sheet_says_what_parts_do(acting, ferry):
    acting.do("show", part="lids", frame=10, frames=4, drawing="shut")
    acting.do("phrase", line=LINE, note="she saw it")
    text = ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/sheet/sheet.csv").getvalue().decode()
    rows = {row.split(",")[0]: row for row in text.splitlines()}
    assert "lids: shut" in rows["1011"]
    assert "she saw it" in text


def test_who_only_looks_on_gets_no_acting_made(ferry):
    client = ferry.client(ferry.viewer)
    assert client.get(f"/scenes/{ferry.scene.pk}/acting/").status_code == 200
    assert not Acting.objects.exists()
    assert client.get(f"/scenes/{ferry.scene.pk}/acting/lanes").json() == {"actings": []}


def test_the_melody_of_a_voice_is_told_for_the_frames_that_are_asked_for(acting, ferry):
    said = ferry.client(ferry.viewer).get(f"/acting/{acting.pk}/melody?first=5&end=60").json()
    assert (said["first"], len(said["pitch"]), len(said["loudness"])) == (5, 55, 55)
    assert max(said["loudness"]) > 50
    voiced = [value for value in said["pitch"] if value]
    assert len(voiced) > 20
    assert 20 < np.median(voiced) < 40


def test_whole_heads_act_as_a_whole(ferry):
    face = mouths_of(ferry.stave).face()
    assert face.part("head") and face.part("mouth").on == "head"


def test_lanes_that_would_be_empty_are_not_kept(acting):
    acting.do("key", part="head", dial="x", frame=3, value=1)
    acting.do("drop keys", part="head", first=0, end=10)
    assert acting.bodies == {}
