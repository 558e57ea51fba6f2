"""Every format, made of one shot and read again by a library that is not ours, frame for frame."""

import base64
import csv
import io
import json
import struct
import wave
import zipfile
from dataclasses import replace
from fractions import Fraction

import av
import jsonschema
import numpy as np
import opentimelineio as otio
import pygltflib
import pytest
import soundfile
import webvtt
from defusedxml import ElementTree
from PIL import Image, ImageSequence

from tests.speech import make_film
from tinfork.core.errors import HandoverError, TrackError
from tinfork.core.exposure.track import Exposure
from tinfork.core.formats import joined, reading_json, registry, visemes
from tinfork.core.formats.registry import FORMATS, How
from tinfork.core.mouths.chart import Chart, Drawing, built_in
from tinfork.core.mouths.picture import Picture
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.naming import Pattern, stems
from tinfork.core.shot.behind import Strip
from tinfork.core.shot.shot import Role, Shot, plates
from tinfork.core.shot.stage import Frames, Look, Spot, pictures_kept
from tinfork.core.speech.reading import Line, Reading, Sound, Word
from tinfork.core.timebase import frame_at, frame_time, scene_timecode, timecode

RATES = [Fraction(12), Fraction(24000, 1001), Fraction(24), Fraction(25), Fraction(30000, 1001)]
START = 101
NOISE = (Sound("s", 0.0, 0.01, 1.0), Sound("t", 0.01, 0.02, 1.0))
COLOURS = {"rest": "#d02020", "open": "#20c020", "ah/o?": "#2020e0", "press": "#e0e020"}
SMALL = Look(96, 80, mouth=True)


def drawn(colour):
    """A drawing that fills its canvas with one colour, so that a frame tells which it is."""
    return f'<rect x="-90" y="-60" width="180" height="150" fill="{colour}"/>'


def role(
    rate, name="Marit", rows=(("rest", 5), ("press", 2), ("open", 4), ("", 2), ("ah/o?", 3), ("open", 4), ("rest", 6))
):
    found, frame = [], 0
    for drawing, frames in rows:
        found.append(Exposure(frame, frames, drawing, sounds=(0,) if drawing == "press" else ()))
        frame += frames
    chart = Chart((*(d for d in built_in().drawings), Drawing("ah/o?", SHAPES["round"].place)))
    start, end = frame_time(5, rate), frame_time(11, rate)
    sounds = (Sound("m", start, start + 0.04, 1.0), Sound("ɑ", start + 0.04, end, 1.0))
    line = Line("Mah -- <fog> & =1", start, end, (Word("Mah", start, end, 0.9, False, sounds),), 1)
    used = {drawing for drawing, _ in rows}
    return Role(
        name,
        tuple(found),
        chart,
        {drawing: drawn(COLOURS[drawing]) if drawing else "" for drawing in used},
        Reading(frame_time(frame, rate), 48000, "en", (line,)),
    )


@pytest.fixture(scope="module")
def tone(tmp_path_factory):
    """Two seconds with a click at half a second."""
    samples = np.zeros(96_000, np.float32)
    samples[24_000:24_480] = 0.9
    path = tmp_path_factory.mktemp("tone") / "tone.flac"
    soundfile.write(path, samples, 48_000)
    return path


@pytest.fixture
def shot(tone):
    """A shot of one character at 24 frames a second."""
    return shot_at(Fraction(24), tone)


def shot_at(rate, tone, *roles):
    return Shot("Fog", rate, START, roles or (role(rate),), tone)


def made(kind, shot, tmp_path, look=SMALL, **how):
    path = tmp_path / f"made.{kind}"
    registry.write(kind, path, shot, How(look, {kind: registry.FORMATS[kind].options(**how)}))
    return path


def names(shot, number=0):
    return [e.drawing for e in shot.roles[number].on_each_frame()]


def told(pictures):
    """Which drawing each picture, (height, width, 3 or 4), shows."""
    known = {name: np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)]) for name, colour in COLOURS.items()}
    found = []
    for picture in pictures:
        middle = np.asarray(picture)[picture.shape[0] // 2, picture.shape[1] // 2].astype(int)
        nearest = min(known, key=lambda name: np.abs(known[name] - middle[:3]).sum())
        clear = len(middle) == 4 and middle[3] < 128
        white = np.abs(middle[:3] - 255).sum() < 60
        found.append("" if clear or white else nearest)
    return found


def film(path):
    with av.open(str(path)) as opened:
        pictures = [(f.pts * f.time_base, f.to_ndarray(format="rgb24")) for f in opened.decode(video=0)]
    with av.open(str(path)) as opened:
        heard = [(f.pts * f.time_base, f.to_ndarray()[0], f.sample_rate) for f in opened.decode(audio=0)]
    return pictures, heard


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("kind", ["webm", "av1", "mp4", "mov"])
def test_a_film_shows_every_frame_at_its_time_with_its_sound(kind, rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    look = replace(SMALL, background="#ffffff")
    pictures, heard = film(made(kind, shot, tmp_path, look))
    assert told(picture for _, picture in pictures) == names(shot)
    slack = 0.0006 if kind in ("webm", "av1") else 0.0  # Matroska counts milliseconds.
    assert [frame_at(float(at) + slack, rate) for at, _ in pictures] == list(range(shot.frames))
    sound, per_second = np.concatenate([part for _, part, _ in heard]), heard[0][2]
    sound = sound / (32768 if sound.dtype == np.int16 else 1)
    begin = float(heard[0][0])
    click = begin + int(np.argmax(np.abs(sound) > 0.3)) / per_second
    assert click == pytest.approx(0.5, abs=0.03), "under a frame"
    assert begin + len(sound) / per_second == pytest.approx(shot.frames / float(rate), abs=0.05)


@pytest.mark.parametrize("kind", ["webm", "mp4"])
def test_shots_follow_one_another_in_one_film_each_in_its_own_time(kind, tone, tmp_path):
    look, path = replace(SMALL, background="#ffffff"), tmp_path / f"film.{kind}"
    first, second = shot_at(Fraction(24), tone), replace(shot_at(Fraction(12), tone), name="Boot")
    shots = [joined.Screened(first, look), joined.Screened(second, look, ["0020 · Boot", "The Salt Ferry"])]
    shares = []
    joined.write(path, iter(shots), 2, registry.FORMATS[kind].codec, shares.append)
    pictures, heard = film(path)
    begins = first.frames + 24
    assert len(pictures) == begins + 2 * second.frames
    seen = told(picture for _, picture in pictures)
    assert seen[: first.frames] == names(first)
    assert seen[begins:] == [name for name in names(second) for _ in range(2)]
    slate = pictures[first.frames + 3][1]
    assert np.abs(slate[2, 2].astype(int) - (34, 50, 47)).max() < 12
    sound, per_second = np.concatenate([part for _, part, _ in heard]), heard[0][2]
    clicks = float(heard[0][0]) + np.flatnonzero(np.abs(sound) > 0.3) / per_second
    assert clicks[0] == pytest.approx(0.5, abs=0.03)
    assert clicks[-1] == pytest.approx(begins / 24 + 0.51, abs=0.03)
    assert not np.any((clicks > 0.55) & (clicks < begins / 24 + 0.45))
    assert shares == sorted(shares)
    assert shares[-1] == 1


def test_a_slate_fits_its_picture_whatever_it_says():
    for look in (Look(64, 48), Look(1920, 1080)):
        picture = joined.slate(["x" * 400, "", "The Salt Ferry", "1 to 9"], look)
        assert picture.shape == (look.height, look.width, 4)
        assert np.all(picture[:, -2:] == picture[0, 0])


@pytest.mark.parametrize("kind", ["webm", "mov"])
def test_what_lies_under_a_see_through_film_shines_through(kind, shot, tmp_path):
    path = made(kind, shot, tmp_path)
    if kind == "mov":
        with av.open(str(path)) as opened:
            alpha = [f.to_ndarray(format="rgba")[..., 3] for f in opened.decode(video=0)]
    else:
        with av.open(str(path)) as opened:
            codec = av.CodecContext.create("libvpx-vp9", "r")
            frames = [f for packet in opened.demux(video=0) for f in codec.decode(packet)]
            alpha = [f.to_ndarray(format="rgba")[..., 3] for f in frames]
    middle = [a[40, 48] > 128 for a in alpha]
    assert middle == [bool(name) for name in names(shot)]


@pytest.mark.parametrize(("plays", "again"), [(0, 0), (1, None), (2, 1), (7, 6)])
def test_what_moves_is_played_so_often(shot, tmp_path, plays, again):
    with Image.open(made("gif", shot, tmp_path, plays=plays)) as gif:
        assert gif.info.get("loop") == again
    with Image.open(made("apng", shot, tmp_path, plays=plays)) as apng:
        assert apng.info.get("loop") == plays


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize(("kind", "slack"), [("apng", 0.0011), ("gif", 0.011)])
def test_a_flip_book_turns_on_the_frame(kind, slack, rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    with Image.open(made(kind, shot, tmp_path)) as image:
        pages = [(page.convert("RGBA"), page.info["duration"]) for page in ImageSequence.Iterator(image)]
    at, shown = 0.0, []
    for page, milliseconds in pages:
        shown.append((at, told([np.asarray(page)])[0]))
        at += milliseconds / 1000
    wanted = [(frame_time(e.frame, rate), e.drawing) for e in shot.roles[0].exposures]
    assert [name for _, name in shown] == [name for _, name in wanted]
    assert all(abs(a - b) < slack for (a, _), (b, _) in zip(shown, wanted, strict=True))
    assert at == pytest.approx(frame_time(shot.frames, rate), abs=slack)


def test_a_sequence_has_a_picture_for_each_frame_under_its_name(shot, tmp_path):
    with zipfile.ZipFile(made("png", shot, tmp_path, pattern="{scene}-{character}.####")) as packed:
        assert packed.testzip() is None
        own = [name for name in packed.namelist() if name.startswith("frames/")]
        assert own == [f"frames/Fog-Marit.{START + n:04d}.png" for n in range(shot.frames)]
        pictures = [np.asarray(Image.open(io.BytesIO(packed.read(name)))) for name in own]
        assert told(pictures) == names(shot)
        assert pictures[0].shape == (80, 96, 4)
        document = json.loads(packed.read("exposures.json"))
    assert [e["drawing"] for e in document["exposures"] for _ in range(e["frames"])] == names(shot)


def test_drawings_and_sheet_say_when_each_is_shown(shot, tmp_path):
    with zipfile.ZipFile(made("drawings", shot, tmp_path)) as packed:
        files = {row["drawing"]: row["file"] for row in json.loads(packed.read("Marit/drawings.json"))}
        shown = {
            name: np.asarray(Image.open(io.BytesIO(packed.read(f"Marit/drawings/{file}"))))
            for name, file in files.items()
        }
        rows = list(csv.DictReader(io.StringIO(packed.read("exposures.csv").decode())))
    assert list(files) == ["rest", "press", "open", "ah/o?"]
    assert told(shown.values()) == list(shown)
    assert [row["drawing"] for row in rows for _ in range(int(row["frames"]))] == names(shot)
    with zipfile.ZipFile(made("sheet", shot, tmp_path)) as packed:
        sheet = np.asarray(Image.open(io.BytesIO(packed.read("Marit/sheet.png"))))
        document = json.loads(packed.read("Marit/sheet.json"))
    cut = [sheet[d["y"] : d["y"] + d["h"], d["x"] : d["x"] + d["w"]] for d in document["drawings"].values()]
    assert told(cut) == list(document["drawings"])
    assert [e["drawing"] for e in document["exposures"] for _ in range(e["frames"])] == names(shot)


def test_several_together_stand_where_they_are_placed_one_over_the_other(tone, tmp_path):
    rate = Fraction(25)
    other = role(rate, "Brede", (("press", 10), ("rest", 16)))
    shot = shot_at(rate, tone, role(rate), other)
    face = replace(SMALL, width=200, height=100, spots={"Marit": Spot(0.5, 0.5, 0.9), "Brede": Spot(1.5, 0.5, 0.4)})
    frames = Frames(shot, face)
    assert told([frames[3][:, :100], frames[3][:, 100:], frames[12][:, 100:]]) == ["rest", "press", "rest"]
    assert frames[3][5, 150, 3] == 0, "the smaller one leaves room"
    assert frames[0] is frames[4], "the same picture is not made twice"
    beside = Frames(shot, replace(face, spots={}))
    assert told([beside[3][:, :100], beside[3][:, 100:]]) == ["rest", "press"]
    outside = Frames(shot, replace(face, spots={"Marit": Spot(-3, 0.5, 0.5), "Brede": Spot(1.95, 0.0, 1.5)}))
    assert not outside[3][:, :60, 3].any()
    assert outside[3][10, 190, 3] == 255
    rows = list(csv.DictReader(made("frames", shot, tmp_path).open(encoding="utf-8")))
    assert [(row["Marit drawing"], row["Brede drawing"]) for row in rows] == list(
        zip(names(shot), names(shot, 1), strict=True)
    )
    assert [int(row["scene_frame"]) for row in rows] == list(range(START, START + shot.frames))
    assert rows[7]["words"] == "Mah Mah"
    assert rows[0]["timecode"] == "00:00:04:01"


def test_a_range_is_cut_with_its_lines_and_its_numbers(shot, tmp_path):
    cut = shot.between(range(5, 16))
    assert (cut.start_frame, cut.frames) == (START + 5, 11)
    assert names(cut) == names(shot)[5:16]
    assert [line.start for _, line in cut.lines()] == [pytest.approx(0.0)]
    with pytest.raises(TrackError, match="no frame"):
        shot.between(range(500, 600))


def test_what_a_cut_exposure_serves_is_still_the_sound_it_served(shot):
    (own,) = shot.roles
    before = replace(own.reading.lines[0], words=(replace(own.reading.lines[0].words[0], sounds=NOISE),), start=0.0)
    lines = (before, *own.reading.lines)
    exposures = tuple(replace(e, sounds=(2,)) if e.drawing == "press" else e for e in own.exposures)
    cut = replace(shot, roles=(replace(own, exposures=exposures, reading=replace(own.reading, lines=lines)),))
    for part in (cut, cut.between(range(4, 16))):
        (role,) = part.roles
        ipa = [sound.ipa for sound in role.reading.sounds()]
        assert [ipa[n] for e in role.exposures for n in e.sounds] == ["m"]
    assert not any(e.sounds for e in cut.between(range(6, 16)).roles[0].exposures), "its line begins before"


@pytest.mark.parametrize("rate", RATES)
def test_the_timeline_has_the_drawings_as_clips(rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    timeline = otio.adapters.read_from_string(made("otio", shot, tmp_path).read_text(encoding="utf-8"), "otio_json")
    mouths, sound = timeline.tracks
    assert (mouths.kind, sound.kind) == ("Video", "Audio")
    assert timeline.global_start_time == otio.opentime.RationalTime(START, float(rate))
    spans = [(c.range_in_parent(), "" if isinstance(c, otio.schema.Gap) else c.name) for c in mouths]
    assert [(span.start_time.to_frames(), span.duration.to_frames(), name) for span, name in spans] == [
        (e.frame, e.frames, e.drawing) for e in shot.roles[0].exposures
    ]
    assert mouths[4].media_reference.target_url == "Marit/drawings/ah_o.png"
    assert [(m.name, m.marked_range.start_time.to_frames()) for m in mouths.markers] == [
        ("Mah -- <fog> & =1", 5),
        ("Mah", 5),
    ]
    assert sound.duration() == otio.opentime.RationalTime(shot.frames, float(rate))


@pytest.mark.parametrize("rate", RATES)
def test_the_sound_has_the_exposures_as_labelled_cue_points(rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    path = made("wav", shot, tmp_path)
    with wave.open(str(path)) as sound:
        assert (sound.getframerate(), sound.getnframes()) == (48_000, round(shot.frames / rate * 48_000))
    chunks = dict(riff(path.read_bytes()))
    count = struct.unpack_from("<I", chunks[b"cue "])[0]
    points = [struct.unpack_from("<II4sIII", chunks[b"cue "], 4 + 24 * n) for n in range(count)]
    labels = {
        struct.unpack_from("<I", data)[0]: data[4:].split(b"\0")[0].decode()
        for _, data in riff(b"RIFF____" + chunks[b"LIST"])
    }
    assert [(point[5], labels[point[0]]) for point in points] == [
        (round(e.frame / rate * 48_000), e.drawing or "nothing") for e in shot.roles[0].exposures
    ]
    assert len(path.read_bytes()) == struct.unpack_from("<I", path.read_bytes(), 4)[0] + 8


def riff(data):
    at = 12
    while at < len(data):
        name, size = struct.unpack_from("<4sI", data, at)
        yield name, data[at + 8 : at + 8 + size]
        at += 8 + size + size % 2


def test_the_lines_are_subtitles(shot, tmp_path):
    (cue,) = webvtt.read(made("vtt", shot, tmp_path))
    assert (
        cue.text.replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&"),
        cue.start,
    ) == ("Mah -- <fog> & =1", "00:00:00.208")
    (cue,) = webvtt.from_srt(made("srt", shot, tmp_path))
    assert (cue.start, cue.end) == ("00:00:00.208", "00:00:00.458")
    words = [
        row.split()
        for row in made("ctm", shot, tmp_path).read_text(encoding="utf-8").splitlines()
        if not row.startswith(";;")
    ]
    assert [(row[2], row[4]) for row in words] == [("0.208", "Mah")]


def test_visemes_are_numbered_by_sound_and_by_shape(shot, tmp_path):
    rows = [
        row.split() for row in made("fap", shot, tmp_path).read_text(encoding="utf-8").splitlines() if row[0] != "#"
    ]
    assert [int(row[0]) for row in rows] == list(range(START, START + shot.frames))
    wanted = {"rest": "0", "press": "1", "open": "10", "": "0", "ah/o?": "13"}
    assert [row[1] for row in rows] == [wanted[name] for name in names(shot)]
    assert {row[3] for row in rows} == {"63"}
    assert visemes.NUMBERS["ʃ"] == 6


@pytest.mark.parametrize("rate", RATES)
def test_the_weights_of_the_morph_targets_are_the_drawings(rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    found = pygltflib.GLTF2.from_dict(json.loads(made("gltf", shot, tmp_path).read_text(encoding="utf-8")))
    data = base64.b64decode(found.buffers[0].uri.split(",")[1])
    targets = found.meshes[0].extras["targetNames"]
    assert targets == list(shot.roles[0].drawings)
    assert {len(p.targets) for p in found.meshes[0].primitives} == {len(targets)}
    weights, scale = found.animations[0].channels
    times, shown = (values(found, data, number) for number in sampler(found, weights))
    assert found.animations[0].samplers[weights.sampler].interpolation == "STEP"
    shown = shown.reshape(len(times), len(targets))
    at = [int(np.searchsorted(times, frame_time(n, rate) + 1e-4, side="right")) - 1 for n in range(shot.frames)]
    assert [targets[int(row.argmax())] if row.any() else "" for row in shown[at]] == names(shot)
    assert scale.target.path == "scale"
    points = values(found, data, found.meshes[0].primitives[0].attributes["POSITION"]).reshape(-1, 3)
    opened = values(found, data, found.meshes[0].primitives[0].targets[targets.index("open")]["POSITION"]).reshape(
        -1, 3
    )
    assert np.ptp((points + opened)[:, 1]) > 2 * np.ptp(points[:, 1]), "an open mouth is higher"
    inside = found.accessors[found.meshes[0].primitives[0].indices]
    assert values(found, data, found.meshes[0].primitives[0].indices).max() < len(points)
    assert inside.componentType == pygltflib.UNSIGNED_SHORT


def sampler(found, channel):
    own = found.animations[0].samplers[channel.sampler]
    return own.input, own.output


def values(found, data, number):
    accessor = found.accessors[number]
    view = found.bufferViews[accessor.bufferView]
    kind = np.uint16 if accessor.componentType == pygltflib.UNSIGNED_SHORT else np.float32
    width = {"SCALAR": 1, "VEC3": 3}[accessor.type]
    return np.frombuffer(data, kind, accessor.count * width, view.byteOffset)


NUMBER, TEXT = {"type": "number"}, {"type": "string"}
LAYER = {
    "type": "object",
    "required": ["ty", "ip", "op", "st", "ks", "ind", "nm"],
    "properties": {"ty": {"enum": [1, 2]}, "ip": NUMBER, "op": NUMBER, "refId": TEXT, "sc": TEXT},
}
LOTTIE = {
    "type": "object",
    "required": ["v", "fr", "ip", "op", "w", "h", "layers", "assets"],
    "properties": {
        "fr": {"type": "number", "exclusiveMinimum": 0},
        "w": {"type": "integer", "minimum": 1},
        "layers": {"type": "array", "items": LAYER},
        "assets": {"type": "array", "items": {"type": "object", "required": ["id", "w", "h", "p", "e"]}},
        "markers": {"type": "array", "items": {"type": "object", "required": ["tm", "cm", "dr"]}},
    },
}


@pytest.mark.parametrize("rate", RATES)
def test_the_layers_of_a_lottie_are_the_exposures(rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    found = json.loads(made("lottie", shot, tmp_path).read_text(encoding="utf-8"))
    jsonschema.validate(found, LOTTIE)
    assert (found["fr"], found["op"], found["markers"][0]["tm"]) == (float(rate), shot.frames, 5)
    pictures = {
        a["id"]: np.asarray(Image.open(io.BytesIO(base64.b64decode(a["p"].split(",")[1])))) for a in found["assets"]
    }
    shown = []
    for frame in range(shot.frames):
        top = next((layer for layer in found["layers"] if layer["ip"] <= frame < layer["op"]), None)
        shown += told([pictures[top["refId"]]]) if top else [""]
    assert shown == names(shot)


@pytest.mark.parametrize("rate", RATES)
def test_a_moving_svg_shows_each_drawing_at_its_time(rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    root = ElementTree.parse(made("svg", shot, tmp_path)).getroot()
    space = "{http://www.w3.org/2000/svg}"
    shown = [""] * shot.frames
    for group in root.iter(f"{space}g"):
        animate = group.find(f"{space}animate[@attributeName='display']")
        if animate is None:
            continue
        (name,) = [n for n, colour in COLOURS.items() if colour == group.find(f"{space}rect").get("fill")]
        times, steps = animate.get("keyTimes").split(";"), animate.get("values").split(";")
        assert float(animate.get("dur")[:-1]) == pytest.approx(frame_time(shot.frames, rate))
        for frame in range(shot.frames):
            now = [step for time, step in zip(times, steps, strict=True) if float(time) <= (frame + 0.5) / shot.frames]
            if now[-1] == "inline":
                shown[frame] += name
    assert shown == names(shot)


def test_eased_seams_are_eased_in_every_format_that_can(tone, tmp_path):
    rate = Fraction(24)
    shot = shot_at(rate, tone, replace(role(rate), eases={7: 4, 20: 4}))
    assert [(p.drawing, p.first, p.end, len(p.shares)) for p in plates(shot.roles[0])][1:3] == [
        ("press", 5, 8, 0),
        ("open", 6, 11, 2),
    ]
    frames = Frames(shot, SMALL)
    red = [int(frames[n][40, 48, 0]) for n in (5, 6, 7, 8)]
    assert red == sorted(red, reverse=True)
    assert red[0] == 0xE0 > red[1] > red[2] > red[3] == 0x20
    rows = list(csv.DictReader(made("frames", shot, tmp_path).open(encoding="utf-8")))
    assert [(rows[n]["Marit drawing"], rows[n]["Marit comes"], rows[n]["Marit share"]) for n in (5, 6, 8)] == [
        ("press", "", ""),
        ("press", "open", "0.156"),
        ("open", "", ""),
    ]
    fap = [row.split() for row in made("fap", shot, tmp_path).read_text().splitlines() if row[0] != "#"]
    assert fap[6][1:] == ["1", "10", str(round(63 * (1 - 0.15625)))]
    found = pygltflib.GLTF2.from_dict(json.loads(made("gltf", shot, tmp_path).read_text()))
    data = base64.b64decode(found.buffers[0].uri.split(",")[1])
    weights = found.animations[0].channels[0]
    assert found.animations[0].samplers[weights.sampler].interpolation == "LINEAR"
    _, shown = (values(found, data, number) for number in sampler(found, weights))
    shown = shown.reshape(shot.frames, -1)
    # Lips that meet are whole on all of their frames; the seam comes on those after it.
    assert shown[6].tolist() == [0.0, 1.0, 0.0, 0.0]
    assert shown[7].tolist() == pytest.approx([0.0, 0.15625, 0.84375, 0.0])
    assert np.allclose(shown.sum(axis=1), [1.0 if name else 0.0 for name in names(shot)])
    lottie = json.loads(made("lottie", shot, tmp_path).read_text())
    eased = next(layer for layer in lottie["layers"] if layer["ks"]["o"]["a"])
    assert [step["s"] for step in eased["ks"]["o"]["k"]][-1] == [100.0]
    svg = made("svg", shot, tmp_path).read_text()
    assert svg.count('attributeName="opacity"') == 2
    pictures, _ = film(made("mp4", shot, tmp_path, replace(SMALL, background="#ffffff")))
    middle = pictures[7][1][40, 48].astype(int)
    assert np.abs(middle - frames[7][40, 48, :3]).max() < 24


def test_numbers_and_words_are_burnt_in(shot):
    look = Look(320, 240, "#000000", burnt=("frame", "timecode", "words"))
    frames = Frames(shot, look)
    plain = Frames(shot, replace(look, burnt=()))
    strips = [np.asarray(frames[n]).astype(int)[210:] - plain[n][210:] for n in (7, 8, 20)]
    assert all(strip.any() for strip in strips)
    assert (strips[0] != strips[1]).any(), "another number"
    assert (strips[0] != 0).sum() > (strips[2] != 0).sum() + 40, "and no words"
    assert not (np.asarray(frames[7])[:200] != plain[7][:200]).any()


def test_json_is_read_again_and_nothing_is_lost(shot, tmp_path):
    reading, rate = reading_json.parse(made("json", shot, tmp_path).read_text(encoding="utf-8"))
    assert rate == shot.rate
    assert [(w.text, w.start, w.end, [s.ipa for s in w.sounds]) for w in reading.words()] == [
        (w.text, w.start, w.end, [s.ipa for s in w.sounds]) for w in shot.roles[0].reading.words()
    ]
    several = json.loads(
        made("json", shot_at(shot.rate, shot.sound, role(shot.rate), role(shot.rate, "Pock")), tmp_path).read_text()
    )
    assert [one["character"] for one in several["characters"]] == ["Marit", "Pock"]
    rows = list(csv.DictReader(made("csv", shot, tmp_path).open(encoding="utf-8")))
    assert [(row["drawing"], row["character"]) for row in rows] == [
        (e.drawing, "Marit") for e in shot.roles[0].exposures
    ]


@pytest.mark.parametrize(
    ("do", "why"),
    [
        (lambda: Pattern("{character}"), "one row of 1 to 9 #"),
        (lambda: Pattern("a/##"), "letters, digits"),
        (lambda: Pattern("## and ##"), "one row"),
        (lambda: Pattern("{actor}_##"), "letters, digits"),
        (lambda: Pattern("{_##"), "letters, digits"),
        (lambda: Pattern(".##"), "neither begins nor ends"),
        (lambda: Look(95, 80), "16 to 4096 pixels"),
        (lambda: Look(background="octarine"), "a colour such as"),
        (lambda: Look(burnt=("smell",)), "Frame number, timecode and words"),
        (lambda: registry.write("statue", None, None, How()), "no format “statue”"),
    ],
)
def test_what_cannot_be_handed_over_is_said(do, why):
    with pytest.raises(HandoverError, match=why):
        do()


def test_a_shot_without_sound_or_people_says_so(shot, tmp_path):
    with pytest.raises(HandoverError, match="no sound"):
        made("wav", replace(shot, sound=None), tmp_path)
    made("mp4", replace(shot, sound=None), tmp_path)
    with pytest.raises(TrackError, match="nothing to hand over"):
        Shot("Fog", Fraction(24), 1, ())


def test_names_never_meet_and_timecode_counts_frames():
    assert stems(["a/b", "A:b", "a_b", "🐐", "x" * 300]) == {
        "a/b": "a_b",
        "A:b": "A_b_2",
        "a_b": "a_b_3",
        "🐐": "character",
        "x" * 300: "x" * 60,
    }
    assert timecode(30 * 3600, Fraction(30000, 1001)) == "01:00:00:00"
    assert [scene_timecode(25, start, Fraction(24)) for start in (0, 1, 2)] == [
        "00:00:01:01",
        "00:00:01:01",
        "00:00:01:03",
    ]
    assert set(FORMATS) >= {
        "png",
        "webm",
        "mp4",
        "mov",
        "apng",
        "gif",
        "otio",
        "vtt",
        "srt",
        "csv",
        "wav",
        "gltf",
        "lottie",
        "svg",
        "fap",
    }


@pytest.fixture(scope="module")
def lighter(tmp_path_factory):
    """Two seconds at 24 frames a second, each 8 lighter than the one before."""
    return make_film(tmp_path_factory.mktemp("lighter") / "lighter.mp4", 2.0)


@pytest.fixture(scope="module")
def shades(lighter):
    """How light each of its pictures is."""
    with av.open(str(lighter)) as film:
        return [int(picture.to_ndarray(format="rgb24")[40, 4, 0]) for picture in film.decode(video=0)]


def ground(picture):
    """How light the picture is in a corner of its lower half, where nobody stands."""
    return int(np.asarray(picture)[picture.shape[0] - 12, 24, 0])


@pytest.mark.parametrize("rate", RATES)
def test_the_reference_film_lies_behind_everybody_at_the_time_of_each_frame(rate, tone, lighter, shades):
    strip = Strip(lighter, 2, 30, 0.25)
    shot = replace(shot_at(rate, tone), film=(strip,))
    frames = Frames(shot, Look(160, 120, mouth=True, film=True, spots={"Marit": Spot(1.0, 0.3, 0.4)}))
    expected = [
        shades[min(47, int((0.25 + (frame - 2 + 1 / 3) / float(rate)) * 24))] if frame >= 2 else 0
        for frame in range(len(frames))
    ]
    assert [ground(frames[number]) for number in range(len(frames))] == pytest.approx(expected, abs=5)
    assert ground(frames[3]) == pytest.approx(expected[3], abs=5), "and back"
    assert not frames.clear
    assert ground(Frames(shot.between(range(6, 20)), frames.look)[0]) == pytest.approx(expected[6], abs=5)


def test_a_film_over_the_reference_film_shows_both(tone, lighter, shades, tmp_path):
    shot = replace(shot_at(Fraction(24), tone), film=(Strip(lighter, 0, 100, 0.0),))
    path = made("mp4", shot, tmp_path, Look(160, 120, mouth=True, film=True, spots={"Marit": Spot(0.67, 0.5, 0.5)}))
    with av.open(str(path)) as film:
        pictures = [picture.to_ndarray(format="rgb24") for picture in film.decode(video=0)]
    assert told(pictures)[:5] == ["rest"] * 5
    lightness = [int(picture[10, 8, 0]) for picture in pictures]
    assert lightness == pytest.approx(shades[: len(pictures)], abs=5)


def test_a_reference_film_that_cannot_be_read_is_said(tone, tmp_path):
    path = tmp_path / "film.mp4"
    path.write_bytes(b"no film")
    shot = replace(shot_at(Fraction(24), tone), film=(Strip(path, 0, 9, 0.0),))
    with pytest.raises(HandoverError, match="reference film"):
        Frames(shot, Look(96, 80, film=True))[0]


def test_a_picture_behind_everybody_is_seen_where_there_is_no_film(tone, lighter, shades):
    grey = Picture("pier", np.full((30, 40, 4), 255, np.uint8) * np.array([1, 0, 0, 1], np.uint8))
    shot = replace(shot_at(Fraction(24), tone), film=(Strip(lighter, 4, 30, 0.0),), backdrop=grey)
    look = Look(160, 120, mouth=True, backdrop=True, spots={"Marit": Spot(1.0, 0.3, 0.4)})
    alone = Frames(shot, look)
    assert [alone[frame][60, 24].tolist() for frame in (0, 9)] == [[255, 0, 0, 255]] * 2
    assert not alone.clear
    assert alone.token(1) == alone.token(2), "what is the same is drawn once"
    over = Frames(shot, replace(look, film=True))
    assert ground(over[0]) == 255
    assert ground(over[9]) == pytest.approx(shades[5], abs=5)
    assert Frames(shot, replace(look, backdrop=False)).clear


def test_large_pictures_are_not_kept_by_the_dozen():
    assert pictures_kept(Look(640, 360)) == 64
    assert pictures_kept(Look(4096, 4096)) * 4096 * 4096 < 100_000_000
