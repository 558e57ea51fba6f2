"""Where a long recording falls into shots."""

import opentimelineio as otio
import pytest
from opentimelineio.opentime import RationalTime, TimeRange

from tinfork.core.errors import ScriptError, SoundError
from tinfork.core.formats import cut_in
from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.core.script.cuts import halves, heading, parts
from tinfork.core.script.lines import ScriptLine


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("[SHOT 0030]", "SHOT 0030"),
        ("[ Scene 4.  The  pier ]", "Scene 4. The pier"),
        ("[INT. FERRY – NIGHT]", "INT. FERRY – NIGHT"),
        ("[EXT PIER]", "EXT PIER"),
        ("[# 12]", "# 12"),
        ("[She turns]", ""),
        ("[interested]", ""),
        ("[extremely loud]", ""),
        ("Shot 3", ""),
        ("[SHOT 3] Fog again", ""),
    ],
)
def test_a_heading_stands_in_brackets_and_says_what_it_is(text, expected):
    assert heading(text) == expected


def script(*texts):
    return [ScriptLine(number, text) for number, text in enumerate(texts, 1)]


def test_shots_part_in_the_middle_of_the_pause_between_them():
    lines = script("Before all", "[SHOT 1]", "Fog", "again", "[SHOT 2]", "[SHOT 3]", "A boot")
    found = parts(lines, {1: (0.5, 1), 3: (2, 3), 4: (3, 4), 7: (6, 8)}, 10)
    assert [(one.name, one.start, one.end, one.lines) for one in found] == [
        ("SHOT 1", 0, 5, (1, 3, 4)),
        ("SHOT 3", 5, 10, (7,)),
    ]


def test_what_cannot_be_parted_says_why():
    with pytest.raises(ScriptError, match="no heading"):
        parts(script("Fog", "A boot"), {1: (0, 1), 2: (1, 2)}, 3)
    with pytest.raises(ScriptError, match="no heading"):
        parts(script("[SHOT 1]", "Fog"), {}, 3)
    with pytest.raises(ScriptError, match="“SHOT 2” begins before"):
        parts(script("[SHOT 1]", "Fog", "[SHOT 2]", "A boot"), {2: (0, 2), 4: (1, 3)}, 3)


RATE = 24.0


def clip(name, frames, start=100):
    return otio.schema.Clip(name, source_range=TimeRange(RationalTime(start, RATE), RationalTime(frames, RATE)))


def written(tmp_path, *items, kind=otio.schema.TrackKind.Video):
    timeline = otio.schema.Timeline("Reel")
    track = otio.schema.Track("V1", kind=kind)
    track.extend(items)
    timeline.tracks.append(otio.schema.Track("empty"))
    timeline.tracks.append(track)
    path = tmp_path / "cut.otio"
    path.write_text(otio.adapters.write_to_string(timeline, "otio_json"))
    return path


def test_shots_lie_where_the_cut_has_them(tmp_path):
    gap = otio.schema.Gap(duration=RationalTime(12, RATE))
    found = cut_in.read(written(tmp_path, clip("0010", 48), gap, clip("", 24), clip("0030", 0)))
    assert found.rate == 24
    assert [(one.name, one.start, one.frames) for one in found.shots] == [("0010", 0, 48), ("Shot 2", 60, 24)]
    assert found.left == ("“0030” has no length",)


def test_a_transition_moves_nothing_and_sound_alone_will_do(tmp_path):
    half = RationalTime(6, RATE)
    fade = otio.schema.Transition("fade", otio.schema.TransitionTypes.SMPTE_Dissolve, half, half)
    path = written(tmp_path, clip("a", 48), fade, clip("b", 48), kind=otio.schema.TrackKind.Audio)
    assert [(one.start, one.frames) for one in cut_in.read(path).shots] == [(0, 48), (48, 48)]


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "no OpenTimelineIO"),
        ("{", "no OpenTimelineIO"),
        (otio.adapters.write_to_string(otio.schema.Clip("a"), "otio_json"), "no timeline"),
        ('{"OTIO_SCHEMA": "Timeline.1", "tracks": {"OTIO_SCHEMA": "Stack.1", "children": []}}', "no clip"),
    ],
)
def test_what_is_no_cut_says_so(tmp_path, text, why):
    path = tmp_path / "cut.otio"
    path.write_text(text)
    with pytest.raises(SoundError, match=why):
        cut_in.read(path)


def test_a_cut_of_shots_without_length_says_which(tmp_path):
    with pytest.raises(SoundError, match="no shot in this cut: “a” has no length"):
        cut_in.read(written(tmp_path, clip("a", 0)))


def test_lines_that_touch_part_where_they_touch():
    lines = script("[SHOT 1]", "Fog", "[SHOT 2]", "A boot")
    found = parts(lines, {2: (0, 2), 4: (2, 3)}, 3)
    assert [(one.start, one.end) for one in found] == [(0, 2), (2, 3)]


def test_a_cut_has_so_many_shots_and_no_more(tmp_path):
    assert len(cut_in.read(written(tmp_path, *(clip("a", 1) for _ in range(1000)))).shots) == 1000
    with pytest.raises(SoundError, match="up to 1,000 shots; this one has 1,001"):
        cut_in.read(written(tmp_path, *(clip("a", 1) for _ in range(1001))))


def test_a_cut_is_so_large_and_no_larger(tmp_path):
    path = tmp_path / "cut.otio"
    for size, why in ((8_000_000, "no OpenTimelineIO"), (8_000_001, "8 MB at the most")):
        path.write_bytes(b" " * size)
        with pytest.raises(SoundError, match=why):
            cut_in.read(path)


def test_a_shot_ends_where_a_film_can_and_no_later(tmp_path):
    found = cut_in.read(written(tmp_path, clip("a", MAX_SCENE_FRAMES), clip("b", 1)))
    assert [one.name for one in found.shots] == ["a"]
    assert found.left == ("“b” ends after the longest film there may be",)


@pytest.mark.parametrize(("empty", "found"), [(39, True), (40, False)])
def test_so_many_tracks_are_looked_through(tmp_path, empty, found):
    timeline = otio.schema.Timeline("Reel")
    timeline.tracks.extend(otio.schema.Track(f"V{number}") for number in range(empty))
    timeline.tracks.append(otio.schema.Track("last", [clip("a", 5)]))
    path = tmp_path / "cut.otio"
    path.write_text(otio.adapters.write_to_string(timeline, "otio_json"))
    if found:
        assert cut_in.read(path).shots[0].name == "a"
    else:
        with pytest.raises(SoundError, match="no clip"):
            cut_in.read(path)


def test_a_line_goes_to_the_half_it_is_heard_in_and_silent_ones_with_the_next():
    lines = script("[turns]", "Fog", "[waits]", "A boot", "[sits]", "A goat", "[leaves]")
    spans = {2: (0, 2), 4: (1.5, 3), 6: (3, 4)}
    first, second = halves(lines, spans, 2, 5, "Fog")
    assert (first.name, first.start, first.end, first.lines) == ("Fog A", 0, 2, (1, 2, 3, 4))
    assert (second.name, second.start, second.end, second.lines) == ("Fog B", 2, 5, (4, 5, 6, 7))
    at_once = halves(lines, spans, 3, 5, "Fog")
    assert [one.lines for one in at_once] == [(1, 2, 3, 4), (5, 6, 7)]
