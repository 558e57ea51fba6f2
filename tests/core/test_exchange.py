from dataclasses import replace

import pytest

from bench.truth import flite
from tests.speech import LINE
from tinfork.core.errors import TinForkError
from tinfork.core.formats import ctm, exchange_csv, exchange_json, exchange_vtt
from tinfork.core.speech import correct, exchange
from tinfork.core.speech.read import LineToRead, read_lines

SCRIPT = [exchange.Written(0, "My left boot went <overboard>"), exchange.Written(1, "near the lighthouse, & so on")]


def say(text):
    return [("a", 1), ("m", 0)]


@pytest.fixture(scope="module")
def corrected():
    """A reading with everything in it: pins, a word put in, one not said, one approved, unwritten speech."""
    lines = [LineToRead(line.text, id=line.id) for line in SCRIPT]
    reading = read_lines(flite(LINE, "slt").recording, lines)
    reading = correct.approve(reading, (0, 1))
    reading = correct.move_edge(reading, (0, 3), 0, reading.lines[0].words[3].start + 0.015)
    reading = correct.delete_word(reading, (1, 1))
    reading = correct.split_word(reading, (0, 4), 3, "over", "board")
    first = reading.lines[0]
    beside = replace(first.words[0], extra=((0.01, 0.1),))
    return replace(reading, lines=(replace(first, words=(beside, *first.words[1:])), *reading.lines[1:]))


def plain(lines):
    """What exchange is about: lines without what the caller numbers them by."""
    return [replace(line, id=0, basis="") for line in lines]


def test_json_holds_everything(corrected):
    lines, problems = exchange_json.parse(exchange_json.write(corrected.lines))
    assert not problems
    assert plain(lines) == plain(corrected.lines)
    back, strange = exchange.fitted(lines, SCRIPT, say)
    assert back == corrected.lines
    assert not strange


def test_csv_holds_all_but_what_it_says(corrected):
    lines, problems = exchange_csv.parse(exchange_csv.write(corrected.lines))
    assert not problems
    assert exchange_csv.LOSES == "where unwritten speech was heard"
    without = [replace(line, words=tuple(replace(w, extra=()) for w in line.words)) for line in corrected.lines]
    assert plain(lines) == plain(without)


@pytest.mark.parametrize("module", [exchange_vtt, ctm])
def test_word_times_survive_to_the_millisecond(corrected, module):
    lines, problems = module.parse(module.write(corrected.lines))
    assert not problems
    said = [w for line in corrected.lines for w in line.words if w.said]
    found = [w for line in lines for w in line.words]
    assert [w.text for w in found] == [w.text for w in said]
    for one, other in zip(found, said, strict=True):
        assert one.start == pytest.approx(other.start, abs=0.0011)
        assert one.end == pytest.approx(other.end, abs=0.0031)
    again, _ = module.parse(module.write(lines))
    assert again == lines


def test_words_without_sounds_get_some_and_are_pinned(corrected):
    lines, _ = exchange_vtt.parse(exchange_vtt.write(corrected.lines))
    found, strange = exchange.fitted(lines, SCRIPT, say)
    left = found[0].words[1]
    assert (left.text, left.pinned, len(left.sounds)) == ("left", (0, 2), 2)
    assert left.start == pytest.approx(corrected.lines[0].words[1].start, abs=0.001)
    assert strange == ["over", "board"]
    assert [w.text for w in found[0].words if not w.said] == ["overboard"]


@pytest.mark.parametrize(
    ("module", "text"),
    [
        (exchange_json, ""),
        (exchange_json, "[" * 100_000),
        (exchange_json, '{"lines": 3}'),
        (exchange_json, '{"tinfork_reading": 9, "lines": []}'),
        (exchange_csv, "a,b\n1,2\n"),
        (exchange_csv, ""),
        (exchange_vtt, "WEBVTT\n\n00:00:02.000 --> 00:00:01.000\nbackwards\n"),
        (exchange_vtt, "nothing"),
        (ctm, "x 1 nan 0.2 word\nx 1 0.1\n;; note\n"),
    ],
)
def test_files_that_are_none_are_refused(module, text):
    with pytest.raises(TinForkError, match=r"\.$"):
        module.parse(text)


def test_broken_parts_cost_only_themselves():
    lines, problems = exchange_json.parse(
        '{"lines": [{"text": "a", "words": []}, {"text": "b", "words": [{"text": "b", "start": 1, "end": 2,'
        '"confidence": 0.5, "guessed": false, "sounds": [{"ipa": "b", "start": 1, "end": 2, "confidence": 7}]}]},'
        '{"text": "c", "words": [{"text": "c", "start": 1, "end": 2, "confidence": 0.5, "guessed": false,'
        '"sounds": [{"ipa": "k", "start": 1, "end": 2, "confidence": 0.7}]}]}]}'
    )
    assert [line.text for line in lines] == ["c"]
    assert len(problems) == 2
    lines, problems = ctm.parse("a 1 0.5 0.2 fog 0.9\na 1 x 0.2 bell\na 1 0.6 0.3 early\na 1 2.0 0.3 goat\n")
    assert [line.text for line in lines] == ["fog", "goat"]
    assert [p.split(" ")[1] for p in problems] == ["2", "3"]
    lines, problems = exchange_vtt.parse(
        "WEBVTT\n\n00:01.000 --> 00:00.000\nno\n\n00:01.000 --> 00:02.000\n<00:01.500>fog &amp; bell\n"
    )
    assert [w.text for w in lines[0].words] == ["fog", "&", "bell"]
    assert lines[0].words[0].start == 1.5
    assert len(problems) == 1
