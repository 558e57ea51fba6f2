"""A long script and a pile of recordings: what is said in which, and where it then lies."""

from tinfork.core.script.finding import HeardRecording, SaidLine, ScriptScene, laid_out, said_in, scenes_of
from tinfork.core.script.lines import Cue

PIER = ScriptScene(
    "Pier", (Cue("Fog again on the pier.", "Marit"), Cue("No.", "Brede"), Cue("A boot full of fish.", "Brede"))
)


def heard(text, begin=0.0):
    words = text.lower().split()
    return HeardRecording(
        tuple((w, begin + n, begin + n + 0.8, 0.9) for n, w in enumerate(words)), begin + len(words) + 1
    )


def test_a_script_falls_into_scenes_at_its_headings_and_is_one_without():
    cues = [Cue("[INT. PIER]"), Cue("Fog.", "Marit"), Cue("EXT. GANGWAY"), Cue("No.", "Brede"), Cue("(shouts)")]
    assert [(one.name, [cue.text for cue in one.cues]) for one in scenes_of(cues, "Ferry")] == [
        ("INT. PIER", ["Fog."]),
        ("EXT. GANGWAY", ["No.", "(shouts)"]),
    ]
    assert [(one.name, len(one.cues)) for one in scenes_of(cues[1:2], "Ferry")] == [("Ferry", 1)]
    assert [one.name for one in scenes_of([Cue("int. is what Marit says", "Marit")], "Ferry")] == ["Ferry"]


def test_a_line_is_said_where_six_of_ten_of_its_words_are_heard_in_order():
    found = said_in(PIER, heard("oh fog again on that pier well"), "en")
    assert [(one.line, one.start, round(one.share, 2)) for one in found] == [(0, 1.0, 0.8)]
    assert said_in(PIER, heard("fog the pier"), "en")[0].share == 0.6
    assert said_in(PIER, heard("fog and pier"), "en") == []
    eleven = ScriptScene("Pier", (Cue("one two three four five six seven eight nine ten eleven", "Marit"),))
    assert said_in(eleven, heard("one two three four five six"), "en") == []
    assert said_in(PIER, heard("fog so it is that we all went again on the pier"), "en") == []


def test_a_short_line_is_found_beside_another_and_not_by_itself():
    assert said_in(PIER, heard("no"), "en") == []
    assert [one.line for one in said_in(PIER, heard("fog again on the pier no"), "en")] == [0, 1]


def line(number, start, end, share=1.0, sure=0.9):
    return SaidLine(number, start, end, share, sure)


def test_what_was_recorded_at_the_same_time_lies_side_by_side():
    said = {7: [line(0, 0.5, 2.0), line(2, 4.0, 5.0)], 8: [line(1, 2.5, 3.5)]}
    found = laid_out(4, said, {7: 6.0, 8: 6.0})
    assert [(one.recording, one.first, one.last, one.at) for one in found.laid] == [
        (7, 0.0, None, 0.0),
        (8, 0.0, None, 0.0),
    ]
    assert found.missing == (3,)
    cut = laid_out(4, said, {7: 6.0, 8: 6.0}, [8])
    assert [(one.recording, one.first, one.last, one.at) for one in cut.laid] == [
        (7, 0.2, 5.3, 0.0),
        (8, 0.2, 5.3, 0.0),
    ]


def test_lines_of_recordings_of_their_own_follow_one_another_as_they_are_written():
    said = {7: [line(0, 0.5, 2.0), line(2, 2.5, 3.5)], 8: [line(1, 0.2, 1.0)]}
    found = laid_out(3, said, {7: 3.6, 8: 5.0})
    assert [(one.recording, round(one.first, 3), round(one.last, 3), round(one.at, 3)) for one in found.laid] == [
        (7, 0.2, 2.3, 0.0),
        (8, 0.0, 1.3, 2.1),
        (7, 2.2, 3.6, 3.4),
    ]


def test_of_several_takes_the_one_that_says_most_of_it_is_heard_and_the_others_are_told():
    said = {
        7: [line(0, 0.5, 2.0, 0.8), line(1, 3.0, 4.0)],
        8: [line(0, 0.5, 2.0), line(1, 3.0, 4.0)],
        9: [line(2, 0, 1)],
    }
    found = laid_out(3, said, {7: 5.0, 8: 5.0, 9: 2.0})
    assert [(one.recording, one.lines) for one in found.laid] == [(8, (0, 1)), (9, (2,))]
    assert [(one.recording, one.said.line, one.chosen.share) for one in found.takes] == [(7, 0, 1.0), (7, 1, 1.0)]
