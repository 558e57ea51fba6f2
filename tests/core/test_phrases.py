"""What was heard, as lines: sentences, pauses, and who speaks."""

from dataclasses import replace

from tests.speech import noise, recording_of
from tinfork.core.speech import phrases
from tinfork.core.speech.reading import Line, Sound, Word


def word(text, start, end):
    return Word(text, start, end, 0.9, False, (Sound("ə", start, end, 0.9),))


def line(text, *spans):
    words = tuple(word(one.strip(".,"), *span) for one, span in zip(text.split(), spans, strict=True))
    return Line(text, words[0].start, words[-1].end, words, 4)


def test_texts_are_parted_at_the_ends_of_sentences_and_go_on_where_there_is_none():
    heard = ["Mr. Brede is late. We owe", "them 4.5 nights. Do we?", "“Yes.” No"]
    assert phrases.sentences(heard) == ["Mr. Brede is late.", "We owe them 4.5 nights.", "Do we?", "“Yes.”", "No"]
    assert phrases.sentences(["nobody sold", "a ticket"]) == ["nobody sold", "a ticket"]


def test_a_pause_of_half_a_second_parts_a_line_and_a_shorter_one_does_not():
    spans = (0.0, 0.4), (0.4, 0.8), (1.3, 1.7), (1.7, 2.0)
    assert [text for text, _ in phrases.parted(line("Nobody sold a ticket.", *spans), "en", {})] == [
        "Nobody sold",
        "a ticket.",
    ]
    near = replace(line("Nobody sold a ticket.", *spans[:2], (1.29, 1.7), spans[3]))
    assert [text for text, _ in phrases.parted(near, "en", {})] == ["Nobody sold a ticket."]


def test_a_line_ends_where_another_begins_to_speak():
    own = line("Fog. Where? Here.", (0.0, 0.4), (0.5, 0.9), (1.0, 1.4))
    parts = phrases.parted(own, "en", {1: [(0.0, 0.45)], 2: [(0.45, 0.95)], 3: [(0.95, 2.0)]})
    assert [(text, part.start, part.end) for text, part in parts] == [
        ("Fog.", 0.0, 0.4),
        ("Where?", 0.5, 0.9),
        ("Here.", 1.0, 1.4),
    ]
    assert len(phrases.parted(own, "en", {1: [(0.0, 2.0)], 2: []})) == 1


def test_numbers_stay_as_they_are_written_and_are_said_in_words():
    own = line("30 mugs.", (0.0, 0.4), (1.0, 1.4))
    assert [(text, [one.text for one in part.words]) for text, part in phrases.parted(own, "en", {})] == [
        ("30", ["30"]),
        ("mugs.", ["mugs"]),
    ]


def test_stretches_cover_what_they_part():
    sound = recording_of(noise(1.0, 0.0))
    assert phrases.stretches(sound, 0.2, 0.9) == [(0.2, 0.9)]
