"""Sounds that are no plain words are read as written, or heard as speech that is not, and drag nothing along."""

import numpy as np
import pytest

from bench import odd
from bench.truth import Truth, flite
from tinfork.core.sound import recording
from tinfork.core.sound.features import cepstra
from tinfork.core.speech import model, pronounce, words
from tinfork.core.speech.read import read
from tinfork.core.speech.reading import Word
from tinfork.core.speech.steady import counted_once, held
from tinfork.web.demo.make_voices import FOLDER

LEFT = "No, the ferry left without us."
GOAT = "Nobody sold a ticket to that goat."
SUNG = (110.0, 138.0, 165.0, 138.0, 110.0)


def said(text: str) -> list[str]:
    """The first way to say each word."""
    spoken = pronounce.pronounce(words.tokens(text, "en"))
    assert all(word and not word.guessed for word in spoken)
    return ["".join(ipa for ipa, _ in word.variants[0]) for word in spoken if word]


@pytest.mark.parametrize(
    ("written", "sounds"),
    [
        ("Nooo!", "noʊ"),
        ("Yesss", "jɛs"),
        ("hellooooo", "həloʊ"),
        ("Mmmm.", "m"),
        ("Hmm", "hm"),
        ("brrrr", "bɹ"),
        ("Pff!", "pf"),
        ("psst", "pst"),
        ("SHHH", "ʃ"),
        ("Aaaah", "ɑ"),
        ("Hahaha", "hɑhɑhɑ"),
        ("hehehe", "hɛhɛhɛ"),
        ("ahahah", "ɑhɑhɑ"),
        ("b-b-boat", "bbboʊt"),
        ("th-the", "ððə"),
        ("Tick-tock", "tɪktɑk"),
    ],
)
def test_what_people_write_for_it_is_said_so(written, sounds):
    assert said(written) == [sounds]


def test_to_say_again_is_not_to_stammer():
    assert said("re-read")[0].count("ɹ") == 2
    assert [token.spoken for token in words.tokens("I-I-I um-um ha-ha", "en")] == [("I",) * 3, ("um",) * 2, ("ha",) * 2]


def test_of_a_letter_that_is_held_the_sound_says_how_it_is_spelled():
    (good,) = pronounce.pronounce(words.tokens("goooood", "en"))
    assert {"ɡʊd", "ɡɑd"} <= {"".join(ipa for ipa, _ in way) for way in good.variants}


def test_what_a_lexicon_has_goes_before():
    (word,) = pronounce.pronounce(words.tokens("Nooo", "en"), {("nooo", ""): ((("n", 0), ("u", 1)),)})
    assert word.variants == ((("n", 0), ("u", 1)),)


def begins(line: Truth, text: str) -> dict[str, Word]:
    return {word.text: word for word in read(line.recording, text).words()}


def starts_of(line: Truth, first: int, numbers: dict[str, int]) -> dict[str, float]:
    return {name: line.phones[number].start for name, number in numbers.items() if number >= first}


@pytest.mark.parametrize("seconds", [1.0, 4.0])
@pytest.mark.parametrize("written", ["No", "Nooo"])
def test_a_vowel_is_held_for_seconds(seconds, written):
    line = odd.held(flite(LEFT, "rms"), 2, seconds)
    found = begins(line, LEFT.replace("No", written))
    assert found[written].end == pytest.approx(line.phones[2].end, abs=0.05)
    assert found["the"].start == pytest.approx(line.phones[4].start, abs=0.05)
    assert found["us"].end == pytest.approx(line.phones[-1].start, abs=0.06)


def test_a_syllable_is_sung_on_several_notes():
    line = odd.sung(LEFT, "rms", 2, SUNG)
    found = begins(line, LEFT.replace("No", "Nooo"))
    assert line.phones[2].end - line.phones[2].start > 1.8
    assert found["Nooo"].end == pytest.approx(line.phones[2].end, abs=0.05)
    assert found["the"].start == pytest.approx(line.phones[4].start, abs=0.05)


SOUNDS = {"a breath": odd.breath, "a cough": odd.cough, "laughter": odd.laughter, "a sob": odd.sob}


@pytest.mark.parametrize("what", SOUNDS)
@pytest.mark.parametrize("written", ["", "(what)"])
def test_what_is_not_speech_drags_nothing_along(what, written):
    plain = flite(GOAT, "slt")
    after = 16  # the end of "ticket"
    line = odd.with_sound(plain, after, SOUNDS[what]())
    found = begins(line, GOAT.replace("ticket", f"ticket {written}"))
    assert all(word.said and word.confidence > 0.8 for word in found.values())
    assert found["ticket"].end < line.phones[after].end + 0.12
    assert found["to"].start == pytest.approx(line.phones[after + 1].start, abs=0.06)
    assert found["goat"].start == pytest.approx(line.phones[22].start, abs=0.05)


def test_laughter_is_heard_though_nobody_wrote_it_and_read_where_somebody_did():
    line = odd.with_sound(flite(GOAT, "slt"), 16, odd.laughter())
    assert any(word.extra for word in begins(line, GOAT).values())
    found = begins(line, GOAT.replace("ticket", "ticket hahahahaha"))
    laugh = found["hahahahaha"]
    assert laugh.said and not any(word.extra for word in found.values())
    assert (laugh.start, laugh.end) == (pytest.approx(1.52, abs=0.08), pytest.approx(2.65, abs=0.1))


def test_laughter_with_pauses_drags_no_word_away():
    line = odd.with_sound(flite(GOAT, "slt"), 16, odd.laughter(pause=0.15))
    found = begins(line, GOAT)
    assert all(word.said for word in found.values())
    assert any(word.extra for word in found.values())


def test_of_a_yell_the_words_after_it_stay_in_their_place():
    yelled = recording.load(FOLDER / "gull-brede.flac")
    found = [word for word in read(yelled, "Nooo!\nThat was my supper!").words() if word.said]
    assert [word.text for word in found] == ["Nooo", "That", "was", "my", "supper"]
    assert found[0].end - found[0].start > 3
    assert found[1].end - found[1].start < 0.4


def test_what_is_held_is_found_and_counts_once():
    acoustic = model.load()
    line = odd.held(flite(LEFT, "rms"), 2, 2.0)
    still = held(cepstra(line.recording.samples), acoustic.spread)
    vowel = line.phones[2]
    first, end = round(vowel.start * 100), round(vowel.end * 100)
    assert still[first + 40 : end - 40].all()
    assert not still[:first].any()
    assert not still[end:].any()
    scores = np.array([[0.0, -10.0], [-4.0, 0.0]], np.float32)
    assert counted_once(scores.copy(), np.array([True, False])) == pytest.approx(np.array([[0, -1.5], [-4, 0]]))


def test_a_stammer_is_read():
    line = flite("buh buh boat, please", "rms")
    found = begins(line, "b-b-boat, please")
    assert found["b-b-boat"].start == pytest.approx(line.phones[1].start, abs=0.05)
    assert found["please"].start == pytest.approx(line.phones[9].start, abs=0.05)
    assert found["b-b-boat"].confidence > 0.8


def test_a_word_is_broken_in_two():
    plain = flite("Mind the umbrella by the door.", "slt")
    line = odd.broken(plain, 8)
    found = begins(line, "Mind the um... brella by the door.")
    assert found["um"].end < line.phones[8].end + 0.1
    assert found["brella"].start == pytest.approx(line.phones[9].start, abs=0.05)
    whole = begins(line, "Mind the umbrella by the door.")
    assert whole["by"].start == pytest.approx(line.phones[14].start, abs=0.05)
    assert whole["Mind"].start == pytest.approx(line.phones[1].start, abs=0.05)
