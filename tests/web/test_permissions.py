import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.test import Client
from django.urls import get_resolver

from tests.web.test_charts import drawn
from tinfork.web.acting.models import SavedPose, acting_of
from tinfork.web.charts.actions import add_pictures, bring_in, create_chart
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.faces.actions import add_part, bring_layers
from tinfork.web.faces.models import FaceLayer
from tinfork.web.handover.models import Handover, Preset
from tinfork.web.jobs.models import Job
from tinfork.web.lexicon.actions import save_entry
from tinfork.web.prompter.pairing import offer
from tinfork.web.rushes.actions import show_for_review
from tinfork.web.sound.models import SoundFile
from tinfork.web.tracks.takes import keep_take

OPEN = {"sign-in", "sign-out", "enter-demo", "first-person", "phone", "phone-sees", "phone-presses", "join"}
OPEN |= {"health", "may-send", "watch", "watch-seen", "watch-review", "watch-note"}
OPEN |= {"watch-film", "watch-listen", "watch-peaks"}
OWN = {
    "guide",
    "guide-page",
    "keep-keys",
    "keep-stays",
    "keep-theme",
    "find",
    "me",
    "notices",
    "notices-see",
    "stream",
    "shelf",
    "bring-in",
    "library",
    "chart-styles",
    "stock-sound",
    "stock-track",
}


@pytest.fixture
def addresses(ferry):
    """Every address that belongs to a production, with how it is asked."""
    scene, stave = ferry.stave.scene, ferry.stave
    job = Job.objects.create(scene=scene, person=ferry.owner, kind="pictures", subject=stave.pk)
    wished = Handover.objects.create(
        job=Job.objects.create(scene=scene, person=ferry.owner, kind="handover", subject=scene.pk), wish={}
    )
    default_storage.save("handover/x.csv", ContentFile(b"x"))
    handed = wished.files.create(name="x.csv", file="handover/x.csv", size=1, sha256="0" * 64)
    preset = Preset.objects.create(production=scene.production, name="Camera", wish={})
    sound = SoundFile.objects.get()
    differs = scene.differences.create(
        kind="left out", line=1, first=0, last=1, written="My", start=0.1, end=0.2, source_id=1
    )
    entry = save_entry(ferry.owner, scene.production, "skerrick", "en", "skɛɹɪk")
    chart = create_chart(ferry.owner, scene.production, "Ours")
    bring_in(ferry.owner, chart, [drawn("open")])
    drawing = chart.drawings.get()
    add_pictures(ferry.owner, drawing, [drawn("press")])
    ChartDrawing.objects.update(vector="<svg/>")
    character = scene.production.characters.first()
    bring_layers(ferry.owner, character, [drawn("open")])
    layer = FaceLayer.objects.get(face__character=character)
    part = add_part(ferry.owner, character, "hat")
    acting = acting_of(scene, stave.character)
    pose = SavedPose.objects.create(production=scene.production, name="Listening", parts={})
    take = keep_take(ferry.owner, stave, "First")
    pairing = offer(ferry.owner, scene)
    show_for_review(ferry.owner, scene)
    at, word = f"/scenes/{scene.pk}/", f"/productions/{scene.production_id}/lexicon"
    return {
        "production": ("get", f"/productions/{scene.production_id}/"),
        "scene": ("get", at),
        "scene-versions": ("get", at + "versions"),
        "scene-history": ("get", at + "history"),
        "scene-back": ("post", at + "history/back"),
        "stave-checks": ("get", f"/staves/{stave.pk}/checks"),
        "stave-curves": ("get", f"/staves/{stave.pk}/curves?end=50"),
        "stave-habits": ("get", f"/staves/{stave.pk}/habits"),
        "stave-dial": ("get", f"/staves/{stave.pk}/dial?end=200"),
        "stave-takes": ("get", f"/staves/{stave.pk}/takes"),
        "stave-anew": ("get", f"/staves/{stave.pk}/anew"),
        "take": ("get", f"/takes/{take.pk}/"),
        "take-delete": ("post", f"/takes/{take.pk}/delete"),
        "cast": ("get", f"/productions/{scene.production_id}/cast-and-charts/"),
        "add-to-cast": ("post", f"/productions/{scene.production_id}/cast"),
        "board-set": ("post", f"/productions/{scene.production_id}/board/set"),
        "board-undo": ("post", f"/productions/{scene.production_id}/board/undo"),
        "board-read": ("post", f"/productions/{scene.production_id}/board/read"),
        "board-now": ("get", f"/productions/{scene.production_id}/board/now"),
        "board-look": ("get", f"/productions/{scene.production_id}/board/look"),
        "board-parts": ("get", f"/productions/{scene.production_id}/board/parts?scene={scene.pk}"),
        "board-copy": ("post", f"/productions/{scene.production_id}/board/copy"),
        "recut": ("get", f"/productions/{scene.production_id}/recut"),
        "board-join": ("post", f"/productions/{scene.production_id}/board/join"),
        "changes": ("get", at + "changes"),
        "changes-clock": ("post", at + "changes/clock"),
        "changes-sound": ("post", at + "changes/sound"),
        "changes-compared": ("get", at + "changes/sound/1"),
        "wait": ("post", at + "wait"),
        "recast": ("post", at + "recast"),
        "elsewhere": ("post", at + "elsewhere"),
        "board-cut": ("post", f"/productions/{scene.production_id}/board/cut"),
        "board-mouths": ("post", f"/productions/{scene.production_id}/board/mouths"),
        "board-sequence": ("post", f"/productions/{scene.production_id}/board/sequence"),
        "board-reel": ("post", f"/productions/{scene.production_id}/board/reel"),
        "board-report": ("get", f"/productions/{scene.production_id}/board/report.pdf"),
        "board-views": ("post", f"/productions/{scene.production_id}/board/views"),
        "board-table": ("get", f"/productions/{scene.production_id}/board/table.csv"),
        "board-sounds": ("post", f"/productions/{scene.production_id}/board/sounds"),
        "people": ("get", f"/productions/{scene.production_id}/people/"),
        "start": ("post", f"/productions/{scene.production_id}/start"),
        "next-step": ("get", at + "next"),
        "sound": ("get", at + "sound/"),
        "sound-edit": ("post", at + "sound/edit"),
        "sound-bring": ("post", at + "sound/bring"),
        "sound-scratch": ("post", at + "sound/scratch"),
        "sound-take": ("post", at + "sound/take"),
        "sound-voices": ("post", at + "sound/voices"),
        "sound-original": ("get", f"/sounds/{sound.pk}/original"),
        "sound-reel": ("get", f"/sounds/{sound.pk}/reel.webm"),
        "sound-listen": ("get", f"/sounds/{sound.pk}/mix/listen.flac"),
        "sound-peaks": ("get", f"/sounds/{sound.pk}/mix/peaks"),
        "script": ("get", at + "script/"),
        "script-lines": ("get", at + "script/lines"),
        "script-edit": ("post", at + "script/edit"),
        "script-import": ("post", at + "script/import"),
        "script-revise": ("get", at + "script/revise/"),
        "otherwise": ("get", at + "script/otherwise/"),
        "otherwise-settle": ("post", f"{at}script/otherwise/{differs.pk}"),
        "otherwise-written": ("get", f"{at}script/otherwise/{differs.pk}/written.wav"),
        "script-read": ("post", at + "script/read"),
        "script-export": ("get", at + "script/export.srt"),
        "chart": ("get", f"/charts/{chart.pk}/"),
        "drawing-vector": ("get", f"/drawings/{drawing.pk}/drawing.svg"),
        "drawing-form": ("get", f"/drawings/{drawing.pk}/form"),
        "drawing-small": ("get", f"/drawings/{drawing.pk}/small/x.png"),
        "face": ("get", f"/characters/{character.pk}/face/"),
        "face-bring": ("post", f"/characters/{character.pk}/face/bring"),
        "face-look": ("post", f"/characters/{character.pk}/face/look"),
        "drawing-further": ("get", f"/drawings/{drawing.pk}/further/1/x.png"),
        "face-views": ("post", f"/characters/{character.pk}/face/views"),
        "face-mouth": ("post", f"/characters/{character.pk}/face/mouth"),
        "part-new": ("post", f"/characters/{character.pk}/face/parts"),
        "part-change": ("post", f"/parts/{part.pk}/change"),
        "acting-view": ("get", at + "acting/"),
        "acting-lanes": ("get", at + "acting/lanes"),
        "acting-propose": ("post", at + "acting/propose"),
        "acting": ("get", f"/acting/{acting.pk}/"),
        "acting-melody": ("get", f"/acting/{acting.pk}/melody"),
        "acting-edit": ("post", f"/acting/{acting.pk}/edit"),
        "acting-poses": ("get", f"/acting/{acting.pk}/poses"),
        "pose-delete": ("post", f"/poses/{pose.pk}/delete"),
        "layer-change": ("post", f"/layers/{layer.pk}/change"),
        "layer-picture": ("get", f"/layers/{layer.pk}/picture/x.png"),
        "speak": ("get", f"/characters/{character.pk}/speak"),
        "phrases": ("get", f"/productions/{scene.production_id}/phrases"),
        "line-sound": ("get", f"/staves/{stave.pk}/lines/{stave.lines.first().number}.flac"),
        "chart-bring": ("post", f"/charts/{chart.pk}/bring"),
        "chart-change": ("post", f"/charts/{chart.pk}/change"),
        "drawing-change": ("post", f"/drawings/{drawing.pk}/change"),
        "drawing-picture": ("get", f"/drawings/{drawing.pk}/picture/a.png"),
        "lexicon": ("get", word + "/"),
        "lexicon-save": ("post", word + "/save"),
        "lexicon-delete": ("post", word + f"/{entry.pk}/delete"),
        "lexicon-import": ("post", word + "/import"),
        "lexicon-export": ("get", word + ".csv"),
        "lexicon-try": ("get", word + "/try?ipa=f%C9%92%C9%A1"),
        "lexicon-say": ("get", word + "/say.wav?ipa=f%C9%92%C9%A1"),
        "desk": ("get", at + "reading/"),
        "desk-read": ("post", at + "reading/read"),
        "stave-out": ("get", f"/staves/{stave.pk}/reading.json"),
        "stave-timing": ("post", f"/staves/{stave.pk}/timing"),
        "stave-bring": ("post", f"/staves/{stave.pk}/bring"),
        "stave": ("get", f"/staves/{stave.pk}/"),
        "stave-why": ("get", f"/staves/{stave.pk}/why/10"),
        "jumps": ("get", at + "jumps"),
        "stave-edit": ("post", f"/staves/{stave.pk}/edit"),
        "handover": ("get", at + "hand-over/"),
        "handover-made": ("get", at + "hand-over/made"),
        "handover-files": ("post", at + "hand-over/files"),
        "handover-make": ("post", at + "hand-over/make"),
        "backdrop": ("post", at + "hand-over/picture"),
        "backdrop-picture": ("get", at + "hand-over/0123.png"),
        "bundle-make": ("post", at + "bundle"),
        "handover-file": ("get", f"/hand-over/files/{handed.pk}"),
        "prompter": ("get", at + "prompter/"),
        "prompter-log": ("get", at + "prompter/log"),
        "camera-take": ("post", at + "prompter/take"),
        "camera-taken": ("get", at + "prompter/taken"),
        "camera-picture": ("get", at + "prompter/frames/3.jpg"),
        "pairing-offer": ("post", at + "prompter/phone"),
        "pairing": ("post", at + f"prompter/phones/{pairing.pk}"),
        "screening": ("get", f"/productions/{scene.production_id}/screening/"),
        "rushes-seen": ("get", at + "rushes/seen"),
        "rushes": ("get", at + "rushes/"),
        "rushes-review": ("get", at + "rushes/review"),
        "rushes-show": ("post", at + "rushes/show"),
        "rushes-judge": ("post", at + "rushes/judge"),
        "rushes-note": ("post", at + "rushes/note"),
        "rushes-done": ("post", at + "rushes/done"),
        "rushes-take-away": ("post", at + "rushes/take-away"),
        "rushes-version": ("get", at + "rushes/versions/1"),
        "sheet": ("get", at + "sheet/"),
        "sheet-notes": ("get", at + "sheet/notes"),
        "sheet-note": ("post", at + "sheet/note"),
        "sheet-export": ("get", at + "sheet/sheet.csv"),
        "presets": ("post", f"/productions/{scene.production_id}/presets"),
        "preset-delete": ("post", f"/presets/{preset.pk}/delete"),
        "job": ("get", f"/jobs/{job.pk}/"),
        "job-result": ("get", f"/jobs/{job.pk}/result"),
        "job-cancel": ("post", f"/jobs/{job.pk}/cancel"),
    }


CHANGES = {
    "backdrop",
    "handover-make",
    "bundle-make",
    "drawing-form",
    "scene-back",
    "sheet-note",
    "presets",
    "preset-delete",
    "take-delete",
    "face-bring",
    "face-look",
    "face-mouth",
    "face-views",
    "part-new",
    "part-change",
    "acting-edit",
    "acting-propose",
    "pose-delete",
    "layer-change",
    "add-to-cast",
    "board-set",
    "board-undo",
    "board-read",
    "board-sounds",
    "board-parts",
    "board-copy",
    "board-cut",
    "board-join",
    "recut",
    "changes-clock",
    "changes-sound",
    "wait",
    "recast",
    "elsewhere",
    "board-mouths",
    "board-sequence",
    "board-reel",
    "rushes-show",
    "start",
    "stave-bring",
    "stave-timing",
    "desk-read",
    "sound-edit",
    "sound-bring",
    "sound-scratch",
    "sound-take",
    "sound-voices",
    "script-edit",
    "script-import",
    "otherwise-settle",
    "script-read",
    "script-revise",
    "chart-bring",
    "chart-change",
    "drawing-change",
    "lexicon-save",
    "lexicon-delete",
    "lexicon-import",
    "stave-edit",
    "job-cancel",
    "camera-take",
}
UNSAID = {
    "rushes-judge",
    "rushes-note",
    "rushes-done",
    "rushes-take-away",
    "board-views",
    "handover-files",
    "handover-make",
    "camera-taken",
    "changes-compared",
}
"""What a viewer may ask, and here asks for nothing."""

MISSING = {"backdrop-picture", "job-result", "sound-reel", "camera-picture", "pairing"}


def all_names(resolver=None):
    for pattern in (resolver or get_resolver()).url_patterns:
        if hasattr(pattern, "url_patterns"):
            yield from all_names(pattern)
        else:
            yield pattern.name


def test_no_address_is_forgotten_here(addresses):
    assert set(all_names()) == set(addresses) | OPEN | OWN


def test_a_stranger_finds_nothing(ferry, addresses):
    client = ferry.client(ferry.stranger)
    for name, (method, address) in addresses.items():
        assert getattr(client, method)(address).status_code == 404, name
    assert "Salt Ferry" not in client.get("/").content.decode()


def test_nobody_signed_in_is_sent_to_the_door(ferry, addresses):
    for name, (method, address) in (addresses | {"shelf": ("get", "/")}).items():
        answer = getattr(Client(), method)(address)
        assert answer.status_code == 302, name
        assert answer.headers["Location"].startswith("/sign-in/")


def test_a_viewer_sees_but_does_not_change(ferry, addresses):
    client = ferry.client(ferry.viewer)
    for name, (method, address) in addresses.items():
        status = getattr(client, method)(address).status_code
        assert status == (404 if name in CHANGES | MISSING else 422 if name in UNSAID else 200), name
    assert "Create scene" not in client.get(addresses["production"][1]).content.decode()
    for make in ("scene", "character", "language"):
        answer = client.post(addresses["production"][1], {"make": make, "name": "X", "rate": "24", "start_frame": "1"})
        assert answer.status_code == 404
    for doing in ("invite", "withdraw", "role", "hand-over", "remove", "link", "end-link", "anything"):
        asked = {"do": doing, "name": "X", "role": "animator", "who": "1"}
        assert client.post(addresses["people"][1], asked).status_code == 404, doing
    assert ferry.fresh.version == ferry.stave.version


def test_the_demo_opens_only_where_it_is_loaded(db, settings):
    settings.TINFORK_DEMO = False
    assert Client().post("/demo/").status_code == 404
    assert "Enter as" not in Client().get("/sign-in/").content.decode()


def test_the_form_lets_in_who_belongs(ferry):
    ferry.owner.set_password("salt and fog 7")
    ferry.owner.save()
    client = Client()
    refused = client.post("/sign-in/", {"username": "owner", "password": "wrong"})
    assert "do not belong together" in refused.content.decode()
    assert client.post("/sign-in/", {"username": "owner", "password": "salt and fog 7"}).status_code == 302
    assert "The Salt Ferry" in client.get("/").content.decode()


def test_no_script_but_our_own_may_run(ferry):
    policy = ferry.client(ferry.owner).get("/").headers["Content-Security-Policy"]
    directives = dict(part.strip().split(" ", 1) for part in policy.split(";") if part.strip())
    assert directives["script-src"] == "'self'"
    assert directives["default-src"] == "'self'"
    assert "unsafe" not in policy
