"""Scripts in and out: every parser on good and on broken files."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import ScriptError
from tinfork.core.formats import exchange_vtt, lexicon_csv, script_text, subtitles
from tinfork.core.plain import plain, restore
from tinfork.core.script import lines, marks
from tinfork.core.script.casting import cast_lines
from tinfork.core.script.lines import Cue
from tinfork.core.sound import arrangement
from tinfork.core.speech import phones, words

CAST = ("Marit", "Brede", "Pock")

SRT = """1
00:00:01,000 --> 00:00:02,500
Marit: Fog again.

2
00:00:02,000 --> 00:00:03,000 X1:40
<i>A boot</i>
in the fog

7
00:00:01.500 --> 00:00:01.900
Early & late.
"""

VTT = """WEBVTT - The Salt Ferry

NOTE nobody reads this

STYLE
::cue { color: beige }

intro
00:01.000 --> 00:02.500 align:start
<v.loud Marit>Fog &amp; <b>more</b> fog.</v>

00:02.500 --> 00:04.000
<v Skerrick>Aye.
"""


def test_srt_is_read_with_its_speakers_and_what_is_amiss():
    cues, notes = subtitles.parse(SRT, CAST)
    assert cues == [
        Cue("Fog again.", "Marit", 1.0, 2.5),
        Cue("A boot in the fog", "", 2.0, 3.0),
        Cue("Early & late.", "", 1.5, 1.9),
    ]
    assert any("ended" in note for note in notes)
    assert any("earlier" in note for note in notes)


def test_webvtt_is_read_with_its_voices():
    cues, notes = subtitles.parse(VTT)
    assert cues == [Cue("Fog & more fog.", "Marit", 1.0, 2.5), Cue("Aye.", "Skerrick", 2.5, 4.0)]
    assert notes == []


@pytest.mark.parametrize(
    ("times", "said"),
    [
        ("00:00:05,000 --> 00:00:02,000", "cannot be"),
        ("-00:00:05,000 --> 00:00:02,000", "cannot be"),
        ("99:00:00,000 --> 99:00:01,000", "cannot be"),
        ("00:00:99999,000 --> 1", "cannot be read"),
        ("soon --> later", "cannot be read"),
    ],
)
def test_absurd_times_are_left_out_and_named_by_line(times, said):
    cues, notes = subtitles.parse(f"1\n00:00:01,000 --> 00:00:02,000\nFog.\n\n2\n{times}\nBoot.\n")
    assert cues[0].start == 1.0
    assert all(cue.start is None for cue in cues[1:])
    assert "Line 6" in notes[0]
    assert said in notes[0]


def test_a_character_without_end_costs_only_itself():
    text = f"1\n00:01.000 --> 00:02.000\nThe &amp; fog&#{'9' * 5_000}; &#8212; lifts&#x{'f' * 40};\n"
    assert [cue.text for cue in subtitles.parse(text)[0]] == ["The & fog — lifts"]
    assert [word.text for line in exchange_vtt.parse(f"WEBVTT\n\n{text}")[0] for word in line.words][:2] == ["The", "&"]


@pytest.mark.parametrize("text", ["", "\n\n", "no times here", "WEBVTT", "-->", "\0\0"])
def test_no_cue_at_all_is_a_sentence(text):
    with pytest.raises(ScriptError, match="No timed line"):
        subtitles.parse(text)


@given(st.text(max_size=400))
def test_subtitles_are_read_or_refused_whatever_they_hold(text):
    try:
        cues, _notes = subtitles.parse(text)
    except ScriptError as refused:
        assert str(refused).endswith(".")
    else:
        assert all(cue.text for cue in cues)


spoken = st.text(st.characters(categories=["L", "N", "P", "Sc"]), min_size=1, max_size=30).map(str.strip)
sentences = st.lists(spoken.filter(bool), min_size=1, max_size=6).map(" ".join).filter(lambda s: "-->" not in s)
timed = st.lists(
    st.tuples(sentences, st.sampled_from(["", *CAST]), st.integers(0, 10**6), st.integers(1, 10**5)), min_size=1
)


@given(timed)
def test_srt_and_webvtt_come_back_as_they_went(rows):
    cues = [
        Cue(text, who, start / 1000, (start + length) / 1000)
        for text, who, start, length in rows
        if not text.isdigit() and not subtitles._NAMED.fullmatch(text)
    ]
    if not cues:
        return
    vtt, _ = subtitles.parse(subtitles.write_vtt(cues), CAST)
    assert vtt == cues
    srt, _ = subtitles.parse(subtitles.write_srt(cues), CAST)
    if not any(set("<>&") & set(cue.text) for cue in cues):
        assert srt == cues


def test_a_screenplay_gives_speech_to_speakers_and_keeps_directions():
    text = """[Night. The gangway.]

MARIT
(to the goat)
Where is your ticket?
(pause) Your boot?

Fog drifts in.

Pock:
She paid.

BREDE: In full.
"""
    assert script_text.looks_like_screenplay(text, CAST)
    cues = script_text.parse_screenplay(text, CAST)
    assert cues == [
        Cue("[Night. The gangway.]"),
        Cue("(to the goat) Where is your ticket?", "Marit"),
        Cue("(pause) Your boot?", "Marit"),
        Cue("[Fog drifts in.]"),
        Cue("She paid.", "Pock"),
        Cue("In full.", "Brede"),
    ]
    assert [" ".join(t.text for t in words.tokens(c.text, "en")) for c in cues[:3]] == [
        "",
        "Where is your ticket",
        "Your boot",
    ]
    assert script_text.parse_screenplay(script_text.write_screenplay(cues), CAST) == cues


def test_plain_text_names_only_the_cast():
    text = "Marit: Fog.\nTime: 7:30 sharp\n\n  Boot.  "
    assert script_text.parse_plain(text, CAST) == [Cue("Fog.", "Marit"), Cue("Time: 7:30 sharp"), Cue("Boot.")]
    assert not script_text.looks_like_screenplay(text, CAST)


@pytest.mark.parametrize(
    ("content", "text"),
    [
        ("Før".encode(), "Før"),
        (b"\xef\xbb\xbfFog", "Fog"),
        ("Fog é".encode("utf-16"), "Fog é"),
        (b"F\xf8r", "Før"),
    ],
)
def test_text_files_are_decoded(content, text):
    assert script_text.decode(content) == text


@pytest.mark.parametrize("content", [b"RIFF\0\0\0\0", b"x" * (5 * 2**20)])
def test_what_is_no_text_is_a_sentence(content):
    with pytest.raises(ScriptError):
        script_text.decode(content)


def test_a_lexicon_with_broken_rows_gives_its_good_ones():
    text = "IPA,Word,note\nskɛɹɪk,Skerrick,a man\n,fog,\nbuːt\nf@@,x,\n\n'ˈfɒɡ,Fog,\n"
    rows, problems = lexicon_csv.parse(text)
    assert [(row.word, row.ipa) for row in rows] == [("skerrick", "skɛɹɪk"), ("fog", "'ˈfɒɡ")]
    assert [problem.split(":")[0] for problem in problems] == ["Line 3", "Line 4", "Line 5"]
    assert lexicon_csv.parse(lexicon_csv.write(rows)) == (rows, [])
    with pytest.raises(ScriptError, match="name the columns"):
        lexicon_csv.parse("a,b\n")
    assert lexicon_csv.parse("") == ([], [])


@given(st.text(max_size=300))
def test_a_lexicon_is_read_or_refused_whatever_it_holds(text):
    try:
        _rows, problems = lexicon_csv.parse("word,ipa\n" + text)
    except ScriptError as refused:
        assert str(refused).endswith(".")
    else:
        assert all(problem.startswith("Line ") for problem in problems)


@pytest.mark.parametrize(
    ("typed", "sounds"),
    [
        ("ˈskɛɹɪk", "s k ˈɛ ɹ ɪ k"),
        ("/t͡ʃuː/", "tʃ uː"),
        ("naɪt.laɪt", "n aɪ t l aɪ t"),
        ("m'a:n", "m ˈaː n"),
    ],
)
def test_ipa_is_read_sound_by_sound(typed, sounds):
    assert phones.ipa_text(phones.parse_ipa(typed)) == sounds
    assert phones.parse_ipa(sounds) == phones.parse_ipa(typed)


@given(st.text(max_size=30))
def test_ipa_is_read_or_refused(text):
    try:
        assert phones.parse_ipa(text)
    except ScriptError as refused:
        assert str(refused).endswith(".")


def cast_of(*tracks):
    made = arrangement.Arrangement()
    for kind, character in tracks:
        made = arrangement.add_track(made, kind, "", character)
        made = arrangement.place(made, made.tracks[-1].id, 1, 100, 0)
    return made


def script_of(*characters):
    return lines.Script(tuple(lines.ScriptLine(i, "Fog.", who) for i, who in enumerate(characters, 1)), 9)


def shared_out(made, script):
    casting = cast_lines(made, script)
    return {part.character: [line.id for line in part.lines] for part in casting.parts}, [
        line.id for line in casting.without_sound
    ]


def test_lines_are_shared_out_among_the_sounds():
    script = script_of(1, 2, None, 1)
    assert shared_out(cast_of(("dialogue", 1), ("dialogue", 2)), script) == ({1: [1, 4], 2: [2]}, [3])
    assert shared_out(cast_of(("shared", None)), script) == ({None: [1, 2, 3, 4]}, [])
    assert shared_out(cast_of(("dialogue", 1), ("shared", None)), script) == ({1: [1, 4], None: [2, 3]}, [])
    assert shared_out(cast_of(("dialogue", 1)), script) == ({1: [1, 3, 4]}, [2])
    assert shared_out(cast_of(("music", None)), script) == ({}, [1, 2, 3, 4])


SPEECH = [(1.0, 2.0), (3.0, 4.5)]


def test_a_pass_is_corrected_for_reaction_and_drawn_to_silence():
    assert marks.from_pass([(1.25, 2.1)], SPEECH) == [(1.0, 2.0)]
    assert marks.from_pass([(3.7, 3.95)], SPEECH) == [(3.5, 3.75)]
    assert marks.from_pass([(1.2, 1.25)], SPEECH) == []
    assert marks.from_pass([(1.2, 1.9), (1.8, 2.3)], SPEECH) == [(1.0, 2.0)]


def test_passes_follow_one_another_and_overlaps_are_shown():
    first = marks.add_pass(marks.Marks(), 1, [(1.0, 2.0), (5.0, 6.0)], (0, 9))
    both = marks.add_pass(first, 2, [(1.5, 2.5)], (0, 9))
    assert marks.overlaps(both) == [(1.5, 2.0)]
    again = marks.add_pass(both, 1, [(1.0, 1.4)], (0, 3))
    assert marks.speaking(again) == {1: [(1.0, 1.4), (5.0, 6.0)], 2: [(1.5, 2.5)]}
    assert marks.overlaps(again) == []
    assert restore(plain(again), marks.Marks) == again
    with pytest.raises(ScriptError, match="needs a length"):
        marks.change(again, again.marks[0].id, 2.0, 2.0)


def test_a_long_pause_inside_a_line_is_a_place_to_split_it():
    spoken_at = [(0.0, 0.4), (0.5, 0.8), (2.0, 2.4)]
    assert [(n, round(s, 2)) for n, s in lines.pauses(spoken_at)] == [(2, 1.2)]


def test_words_said_in_place_stay_with_their_words():
    script = lines.say(script_of(1), 1, 0, "fɒɡ")
    assert lines.write(script, 1, "The Fog. again").line(1).said == {1: "fɒɡ"}
    assert lines.write(script, 1, "Boot").line(1).said == {}
    assert restore(plain(script), lines.Script) == script


@pytest.mark.parametrize(
    "text, names",
    [
        ("Marit: Fog.\nBrede: What?\nMarit: Fog!", ["Marit", "Brede"]),
        ("MARIT\nFog.\n\nBREDE\nWhat?", ["Marit", "Brede"]),
        ("the ferry: late again\nFog everywhere.", []),
        ("", []),
    ],
)
def test_the_names_a_text_gives(text, names):
    assert script_text.speakers_in(text) == names


def test_a_mark_is_added_and_given_to_another():
    one = marks.add(marks.Marks(), 3, 1.0, 2.0)
    both = marks.add(one, 4, 0.5, 0.7)
    assert [(m.id, m.character, m.start) for m in both.marks] == [(2, 4, 0.5), (1, 3, 1.0)]
    assert [m.character for m in marks.give(both, 1, 4).marks] == [4, 4]
    for wrong in (lambda: marks.add(both, 3, 2.0, 2.05), lambda: marks.give(both, 9, 3)):
        with pytest.raises(ScriptError):
            wrong()
