import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import ScriptError
from tinfork.core.limits import MAX_SCRIPT_CHARACTERS
from tinfork.core.speech import espeak, phones, pronounce, words


def said(text, language="en"):
    return [word for token in words.tokens(text, language) for word in token.spoken]


@pytest.mark.parametrize(
    ("text", "spoken"),
    [
        ("at 7:30", "at seven thirty"),
        ("at 9:05", "at nine oh five"),
        ("$3.50", "three dollars fifty cents"),
        ("£1", "one pound"),
        ("1,204 goats", "one thousand two hundred and four goats"),
        ("in 1987", "in nineteen eighty seven"),
        ("the 21st", "the twenty first"),
        ("50%", "fifty percent"),
        ("2.5", "two point five"),
        ("No. Dr. Skerrick", "No doctor Skerrick"),
        ("twenty-one", "twenty one"),
        ("don’t — stop…now", "don't stop now"),
        ("😀 fog 😀", "fog"),
    ],
)
def test_what_is_written_is_spoken_in_full(text, spoken):
    assert " ".join(said(text)) == spoken


def test_another_alphabet_is_said_in_its_own_language():
    tokens = words.tokens("fog туман ομίχλη", "en")
    assert [token.language for token in tokens] == ["en", "ru", "el"]


@given(st.text(max_size=60))
def test_any_text_has_words_or_none(text):
    for token in words.tokens(text, "en"):
        assert token.text
        assert token.spoken


def test_a_script_too_long_is_refused():
    with pytest.raises(ScriptError, match="Split it"):
        words.split_lines("a" * (MAX_SCRIPT_CHARACTERS + 1))


def test_dictionary_words_have_all_their_variants_and_the_rest_is_guessed():
    read, skerrick = pronounce.pronounce(words.tokens("read Skerrick", "en"))
    assert {"".join(ipa for ipa, _ in v) for v in read.variants} == {"ɹid", "ɹɛd"}
    assert not read.guessed
    assert skerrick.guessed
    assert skerrick.variants


def test_the_lexicon_has_the_last_word():
    own = ((("b", 0), ("u", 1)),)
    (fog,) = pronounce.pronounce(words.tokens("fog", "en"), {("fog", "en"): own})
    assert fog.variants == own
    assert not fog.guessed


def test_a_language_nobody_speaks_is_refused():
    with pytest.raises(ScriptError, match="not a language"):
        espeak.check_language("xx-nowhere")
    assert espeak.check_language("SV") == "sv"


@pytest.mark.parametrize("ipa", ["ɲ", "y", "ʁ", "œ̃", "ɕ", "tʰ", "aː", "ɬ", "ǃ", "?"])
def test_every_sound_has_a_stand_in(ipa):
    known = set(phones.ARPABET_TO_IPA)
    assert set(phones.to_arpabet(ipa)) <= known
