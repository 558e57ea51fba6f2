"""A chart as a folder or a ZIP of pictures: what is in it, what is left out and why, what its names say."""

import io
import json
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tests import drawings
from tests.core.test_plan import FPS, sounds_of
from tinfork.cli import main
from tinfork.core.errors import ChartError
from tinfork.core.exposure.curves import curves
from tinfork.core.exposure.plan import plan
from tinfork.core.exposure.track import Settings
from tinfork.core.formats import chart_folder, chart_in
from tinfork.core.formats.chart_in import Beside
from tinfork.core.mouths import hints, picture
from tinfork.core.mouths.chart import Chart, Drawing, built_in, coverage, distance, shape_at
from tinfork.core.mouths.draw import mouth_svg
from tinfork.core.mouths.prepared import PictureSource
from tinfork.core.mouths.shapes import ARTICULATORS, NAMES, SHAPES

ODD = {"boot": "rest", "Ünder fog": "press", "7": "open", "goat 2": "purse", "seven": "spread"}


@pytest.fixture
def folder(tmp_path):
    """Five drawings in flat colours with names that say nothing, and one that is happy."""
    for name, shape in ODD.items():
        (tmp_path / f"{name}.png").write_bytes(drawings.flat_png(shape))
    (tmp_path / "happy").mkdir()
    (tmp_path / "happy" / "7.svg").write_text(mouth_svg(SHAPES["half"].place))
    (tmp_path / ".hidden.png").write_bytes(b"no")
    (tmp_path / "notes.txt").write_text("no drawing")
    return tmp_path


def packed(files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in files.items():
            file.writestr(name, data)
    return out.getvalue()


def test_a_folder_is_measured_and_its_document_brings_the_same_chart_again(folder, capsys):
    assert main(["chart", str(folder)]) == 0
    document = json.loads(capsys.readouterr().out)
    plain = {one["name"]: one["shape"] for one in document["drawings"] if one["mood"] == "neutral"}
    assert plain == ODD
    assert [one["picture"] for one in document["drawings"] if one["mood"] == "happy"] == ["happy/7.svg"]
    assert [one["shape"] for one in document["coverage"]] == list(NAMES)
    covered = {one["shape"] for one in document["coverage"] if one["covered"]}
    assert set(ODD.values()) <= covered
    assert "tuck" not in covered
    by_hand = document["drawings"][0]
    by_hand["place"] = dict.fromkeys(ARTICULATORS, 0.5)
    by_hand["name"] = "Boot"
    (folder / "chart.json").write_text(json.dumps(document), encoding="utf-8")
    again = chart_folder.document(chart_folder.load(folder))
    assert again["drawings"][0] == by_hand | {"shape": again["drawings"][0]["shape"]}
    assert again["drawings"][1:] == document["drawings"][1:]


def test_a_zip_is_as_good_as_a_folder(folder, tmp_path):
    files = {str(one.relative_to(folder)): one.read_bytes() for one in folder.rglob("*") if one.is_file()}
    (tmp_path / "chart.zip").write_bytes(packed(files))
    (tmp_path / "chart.zip").rename(tmp_path.parent / "packed chart.zip")
    both = [chart_folder.document(chart_folder.load(path)) for path in (folder, tmp_path.parent / "packed chart.zip")]
    assert both[0]["coverage"] == both[1]["coverage"]


def test_what_cannot_be_used_is_said_and_the_rest_is_kept():
    good = drawings.flat_png("open")
    found = chart_folder.read(
        {
            "a.png": good,
            "b.png": good,
            "c.png": b"",
            "d.svg": b"<svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>",
            "e.png": drawings.png(np.zeros((9, 9, 4), np.uint8)),
        }
    )
    assert [one.name for one in found.drawings] == ["a"]
    for said in ("c.png is empty", "d.svg holds a <script>", "Nothing can be seen in e.png", "same picture as a.png"):
        assert any(said in note for note in found.notes)
    with pytest.raises(ChartError, match=r"c\.png is empty"):
        chart_folder.read({"c.png": b""})
    with pytest.raises(ChartError, match="no picture in this"):
        chart_folder.read({})


def test_no_more_of_pictures_is_held_than_there_is_room_for(monkeypatch):
    monkeypatch.setattr(chart_folder, "MOST_PIXELS_TOGETHER", 2 * drawings.WIDTH * drawings.HEIGHT)
    files = {f"{name}.png": drawings.flat_png(name) for name in ("rest", "open", "purse")}
    chart = chart_folder.read(files)
    assert [one.name for one in chart.drawings] == ["rest", "open"]
    (note,) = chart.notes
    assert note.startswith("purse.png is left out")


@pytest.mark.parametrize(
    ("name", "shape"),
    [
        ("mouth_MBP", "press"), ("th", "tip"), ("Oo 3", "purse"), ("ʃ", "push"), ("θ", "tip"), ("drawing 12", None),
        ("ah or ee", None), ("open", "open"), ("goat", None), ("closedMouth", "rest"), ("", None),
        ("zu_MBP", "press"), ("MBP closed", "press"), ("biter", "tuck"), ("lip biter a", "tuck"), ("shout 2", "open"),
        ("a smile", "spread"), ("yell or kiss", None),
    ],
)  # fmt: skip
def test_names_are_hints(name, shape):
    assert hints.shape_in(name) == shape


def test_letters_that_count_drawings_are_no_sounds():
    assert hints.shapes_in(["mouth a", "mouth b", "mouth c", "mouth d", "mouth e oo"]) == [None] * 4 + ["purse"]
    assert hints.shapes_in(["mouth a", "mouth b", "mouth c", "mouth e"]) == ["open", "press", None, "half"]


def test_a_mood_is_what_several_names_share_and_a_drawing_may_be_called_like_one():
    assert hints.moods_in(["calm", "oo", "shout"]) == ["neutral"] * 3
    assert hints.moods_in(["happy oo", "ah", "ee_happy", "sad ah", "unhappy happy face"]) == [
        *("happy", "neutral", "happy", "neutral", "neutral")
    ]
    assert hints.moods_in(["happy 1", "happy 2"]) == ["happy"] * 2
    heads = {f"{name}.png": drawings.flat_png(shape) for name, shape in CALM.items()}
    assert {one.mood for one in chart_folder.read(heads).drawings} == {"neutral"}


CALM = {"calm": "rest", "oo": "purse", "shout": "open"}


@pytest.mark.parametrize(("name", "shape"), [("zu_MBP", "press"), ("oo", None), ("shout", None)])
def test_a_name_counts_where_looks_leave_doubt(name, shape):
    own = {f"{one}.png": drawings.flat_png(one) for one in ("rest", "open", "purse", "spread")}
    named = chart_folder.read(own | {f"{name}.png": drawings.png(drawings.flat_bar())}).drawings[-1]
    unnamed = chart_folder.read(own | {"7.png": drawings.png(drawings.flat_bar())}).drawings[-1]
    assert shape_at(named.place) == (shape or shape_at(unnamed.place))


def test_a_hint_draws_a_place_nearer_and_never_against_the_picture():
    pictures = [drawings.flat_png(name) for name in ("rest", "press", "half", "open")]
    plain = chart_folder.read(dict(zip(("1.png", "2.png", "3.png", "4.png"), pictures, strict=True)))
    named = chart_folder.read(dict(zip(("1.png", "2.png", "eh.png", "mbp.png"), pictures, strict=True)))
    aim = np.array(SHAPES["half"].place)
    far, near = (np.abs(np.array(chart.drawings[2].place) - aim).sum() for chart in (plain, named))
    assert near < far
    assert named.drawings[3].place == plain.drawings[3].place
    assert any("mbp is called like a press mouth" in note for note in named.notes)


@pytest.mark.parametrize(
    ("files", "why"),
    [
        ({"../a.png": b"x"}, "leads out of it"),
        ({"/etc/a.png": b"x"}, "leads out of it"),
        ({f"{n}.png": b"x" for n in range(1001)}, "more than"),
    ],
)
def test_a_zip_that_means_harm_is_refused(files, why):
    with pytest.raises(ChartError, match=why):
        chart_folder.unpacked(packed(files))


def test_a_zip_that_is_none_is_a_sentence(tmp_path, capsys):
    (tmp_path / "chart.zip").write_bytes(b"PK\x03\x04 no")
    assert main(["chart", str(tmp_path / "chart.zip")]) == 2
    assert main(["chart", str(tmp_path / "nowhere")]) == 2
    assert len(capsys.readouterr().err.strip().splitlines()) == 2
    (tmp_path / "chart.json").write_text("{}")
    with pytest.raises(ChartError, match=r"chart\.json cannot be read"):
        chart_folder.load(tmp_path)


SVG = "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' viewBox='0 0 9 9'>{}</svg>"


@pytest.mark.parametrize(
    ("inside", "why"),
    [
        ("<script>alert(1)</script>", "holds a <script>"),
        ("<foreignObject><b>x</b></foreignObject>", "holds a <foreignobject>"),
        ("<rect width='9' height='9' onload='alert(1)'/>", "code that would run"),
        ("<a xlink:href=' java\nscript:alert(1)'><rect width='9' height='9'/></a>", "code that would run"),
        ("<use href='http://north.pier/x.svg#a'/>", "needs something that is not in it"),
        ("<rect width='9' height='9' style='fill:url(http://north.pier/a)'/>", "needs something that is not in it"),
        ("<style>@import 'http://north.pier/a.css';</style>", "needs a style that is not in it"),
        ("<image href='file:///etc/passwd'/>", "holds a <image>"),
        ("<g id='a'><use href='#a'/></g>", "parts"),
        ("<g id='a0'><rect/></g>" + "".join(
            f"<g id='a{n}'>" + f"<use href='#a{n - 1}'/>" * 10 + "</g>" for n in range(1, 9)), "parts"),
        ("<g>" * 90 + "</g>" * 90, "nested too deep"),
        ("<rect", "no well-formed SVG"),
        ("", "Nothing can be seen"),
    ],
)  # fmt: skip
def test_an_svg_that_is_no_plain_drawing_is_refused(inside, why):
    with pytest.raises(ChartError, match=why):
        picture.open_picture("fog.svg", SVG.format(inside).encode())


def test_entities_are_refused():
    bomb = "<!DOCTYPE x [<!ENTITY a 'fog'><!ENTITY b '&a;&a;'>]><svg xmlns='http://www.w3.org/2000/svg'>&b;</svg>"
    with pytest.raises(ChartError, match="entities"):
        picture.open_picture("fog.svg", f"<?xml version='1.0'?>{bomb}".encode())


def test_pictures_of_every_kind_are_opened_or_refused():
    drawn = Image.fromarray(drawings.flat(SHAPES["open"].place))

    def saved(image, kind, **how):
        out = io.BytesIO()
        image.save(out, kind, **how)
        return out.getvalue()

    for image in (drawn, drawn.quantize(16), drawn.convert("L"), drawn.convert("LA"), drawn.convert("RGB")):
        assert picture.open_picture("a.png", saved(image, "PNG")).pixels.shape == (260, 300, 4)
    deep = Image.fromarray(np.asarray(drawn.convert("L")).astype(np.uint16) * 257)
    assert picture.open_picture("a.png", saved(deep, "PNG")).pixels[:, :, 0].max() == 255
    assert picture.open_picture("a.webp", saved(drawn, "WEBP", lossless=True)).name == "a"
    for data, why in (
        (saved(drawn, "WEBP", save_all=True, append_images=[drawn.rotate(9)]), "moves"),
        (saved(drawn.convert("CMYK"), "TIFF"), "no PNG, WebP or SVG"),
        (saved(drawn.convert("RGB"), "JPEG"), "no PNG, WebP or SVG"),
        (saved(drawn, "PNG")[:200], "no PNG, WebP or SVG"),
    ):
        with pytest.raises(ChartError, match=why):
            picture.open_picture("a.png", data)


def test_a_picture_of_thirty_thousand_by_thirty_thousand_is_refused_unopened():
    header = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\x75\x30\0\0\x75\x30\x08\x06\0\0\0"
    with pytest.raises(ChartError, match=r"too large|no PNG"):
        picture.open_picture("a.png", header + b"\0\0\0\0" + b"\0" * 64)


PLACES = st.tuples(*[st.floats(0, 1)] * len(ARTICULATORS))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(PLACES, min_size=1, max_size=60),
    st.lists(st.tuples(st.sampled_from(["m", "ɑ", "f", "u", "s", "i"]), st.floats(0.05, 0.2)), min_size=1, max_size=12),
    st.integers(1, 4),
)
def test_any_chart_gives_a_track_that_covers_every_frame_once_and_is_held(places, said, hold):
    chart = Chart(tuple(Drawing(str(number), place) for number, place in enumerate(places)))
    seconds = sum(length for _, length in said) + 1.0
    shape = curves(sounds_of([ipa for ipa, _ in said], [length for _, length in said], 0.4), seconds, FPS)
    track = plan(shape, chart, Settings(hold))
    at = 0
    for exposure in track:
        assert exposure.frame == at
        assert exposure.drawing in {d.name for d in chart.drawings}
        at = exposure.end
    assert at == len(shape.values)
    assert all(exposure.frames >= hold for exposure in track)


def test_the_built_in_chart_covers_itself():
    assert all(one.covered and one.drawing == one.shape and one.distance == 0 for one in coverage(built_in()))


@pytest.mark.parametrize(("jaw", "heeded"), [(0.27, True), (0.29, False)])
def test_a_jaw_that_is_clearly_open_speaks_against_a_name_of_shut_lips(jaw, heeded):
    shut = SHAPES["press"].place
    doubtful = (jaw, shut[1], shut[2], 0.0, 0.5, 0.5, 0.5, 0.5)
    assert min(distance(doubtful, one.place) for one in SHAPES.values()) > 0.25
    assert distance(doubtful, shut) > 0.8
    assert chart_folder._with_hint(doubtful, "press")[1] is heeded


def test_what_comes_later_is_measured_with_those_of_its_canvas_and_heads_with_all(tmp_path, monkeypatch):
    area = drawings.WIDTH * drawings.HEIGHT
    there = []
    for number, canvas in enumerate([(drawings.HEIGHT, drawings.WIDTH)] * 3 + [(9, 9)]):
        (tmp_path / f"{number}.png").write_bytes(drawings.flat_png("rest"))
        there.append((PictureSource(f"{number}.png", tmp_path / f"{number}.png"), "neutral", canvas))
    fresh = chart_folder.read({"late.png": drawings.flat_png("purse")}).drawings
    count = {heads: len(Beside(heads, tuple(there)).measured_with(fresh)) for heads in (False, True)}
    assert count == {False: 3, True: 4}
    for room, most in ((3 * area, 3), (3 * area - 1, 2)):
        monkeypatch.setattr(chart_in, "_MOST_BESIDE", room)
        assert len(Beside(False, tuple(there)).measured_with(fresh)) == most
