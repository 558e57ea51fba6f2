import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bench.alignment import WINDOW, measure, own_pronunciation
from bench.conditions import noisy
from bench.sentences import ENGLISH
from bench.truth import flite
from tests.speech import LINE, noise, recording_of, speak
from tinfork.core.errors import ScriptError
from tinfork.core.mouths.shapes import shapes_of
from tinfork.core.plain import plain, restore
from tinfork.core.sound import recording
from tinfork.core.sound.features import cepstra, with_differences
from tinfork.core.speech import model, phones, reading
from tinfork.core.speech.read import LineToRead, read, read_lines
from tinfork.core.speech.reading import SOUNDS_ONLY


def written(reading):
    """The words that somebody wrote."""
    return [word for word in reading.words() if not word.is_unwritten]


def check_total_and_monotone(found, seconds):
    sounds = list(found.sounds())
    assert sounds
    for before, after in itertools.pairwise(sounds):
        assert before.end <= after.start
    for sound in sounds:
        assert 0 <= sound.start <= sound.end <= seconds + 1e-6
        assert 0 <= sound.confidence <= 1
        assert 0 <= sound.level <= 1
    for line in found.lines:
        assert line.start == line.words[0].start
        assert line.end == line.words[-1].end
    for word in found.words():
        assert (word.start, word.end) == (word.sounds[0].start, word.sounds[-1].end)


@pytest.fixture(scope="module")
def spoken():
    return flite(LINE, "rms")


def test_sounds_are_found_where_they_were_spoken(spoken):
    found = [s for s in read(spoken.recording, LINE).sounds()]
    true = [p for p in spoken.phones if p.ipa]
    pairs = [
        (t.start, f.start)
        for t, f in zip(true, found, strict=True)
        if phones.to_arpabet(t.ipa) == phones.to_arpabet(f.ipa)
    ]
    errors = np.abs(np.diff(pairs, axis=1))
    assert len(pairs) > 0.8 * len(true)
    assert np.mean(errors < 1 / 24) > 0.9


def test_perfect_silence_around_speech_changes_little(spoken):
    samples = spoken.recording.samples
    quiet = np.zeros(16_000 * 3)
    found = read(recording_of(np.concatenate([quiet, samples, quiet])), LINE)
    plain = read(spoken.recording, LINE)
    shifts = [b.start - a.start - 3 for a, b in zip(plain.words(), found.words(), strict=True)]
    assert np.median(np.abs(shifts)) < 0.03


def test_wrong_words_are_read_with_low_confidence(spoken):
    right = read(spoken.recording, LINE)
    wrong = read(spoken.recording, "Please put both paws behind the yellow umbrella today")
    check_total_and_monotone(wrong, spoken.recording.seconds)
    mean = [np.mean([w.confidence for w in found.words()]) for found in (right, wrong)]
    assert mean[0] > 0.8
    assert mean[1] < 0.5


def test_more_words_than_the_sound_can_hold(spoken):
    found = read(spoken.recording, "\n".join([LINE] * 60))
    check_total_and_monotone(found, spoken.recording.seconds)
    assert "too short for 480 words" in found.notes[0]
    assert all(word.confidence == 0 for word in found.words())


def test_silence_is_said_to_be_silent():
    found = read(recording_of(np.zeros(32_000)), "fog")
    check_total_and_monotone(found, 2.0)
    assert "silent" in found.notes[0]


@settings(max_examples=15, deadline=None)
@given(
    st.text("abcdefgh fogß'-59$\nж", min_size=1, max_size=80).filter(lambda t: any(c.isalnum() for c in t)),
    st.floats(0.05, 2.5),
    st.sampled_from([0.0, 0.01, 0.9]),
)
def test_any_text_on_any_sound(text, seconds, level):
    sound = recording_of(noise(seconds, level))
    check_total_and_monotone(read(sound, text), sound.seconds)


@pytest.mark.parametrize("text", ["", " \n ", "— … !", "😀"])
def test_a_script_with_nothing_to_say_is_refused(text):
    with pytest.raises(ScriptError, match="no word"):
        read(recording_of(noise(1)), text)


def test_a_reading_survives_its_document(spoken):
    found = read(spoken.recording, LINE)
    assert restore(plain(found), reading.Reading) == found


@pytest.fixture(scope="module")
def thrice(tmp_path_factory):
    """The same word three times, with pauses; when each begins; how long it lasts."""
    one = recording.load(speak(tmp_path_factory.mktemp("thrice") / "boot.wav", "boot")).samples
    gap = np.zeros(16_000, np.float32)
    starts = [i * (len(one) + len(gap)) / 16_000 for i in range(3)]
    return recording_of(np.concatenate([one, gap] * 3)), starts, len(one) / 16_000


@pytest.mark.parametrize("which", range(3))
def test_times_that_came_with_a_line_draw_it_there(thrice, which):
    sound, starts, length = thrice
    hint = starts[which] + 0.1
    (word,) = written(read_lines(sound, [LineToRead("boot", start=hint, end=hint + length)]))
    assert starts[which] <= word.start < starts[which] + length


@pytest.mark.parametrize("which", range(3))
def test_a_speaker_is_heard_only_where_they_were_marked(thrice, which):
    sound, starts, length = thrice
    speaking = {7: [(starts[which], starts[which] + length)]}
    (word,) = written(read_lines(sound, [LineToRead("boot", speaker=7)], speaking=speaking))
    assert starts[which] - 0.02 <= word.start < word.end <= starts[which] + length + 0.02


def test_marks_where_nothing_fits_still_give_a_whole_reading(thrice):
    sound, _, _ = thrice
    lines = [LineToRead("a left boot full of fish", speaker=7, start=90.0, end=91.0)]
    found = read_lines(sound, lines, speaking={7: [(0.0, 0.05)], 8: []})
    assert len(list(found.words())) == 6
    check_total_and_monotone(found, sound.seconds)


def test_noise_costs_little():
    heard = [flite(text, "rms") for text in ENGLISH[:6]]
    tally = measure([noisy(line, 10) for line in heard], own_pronunciation)
    within = np.abs(np.array(tally.true) - tally.found) <= WINDOW
    assert tally.failures == 0
    assert within.mean() > 0.65


def test_flattened_features_are_stretched_to_the_models_own():
    acoustic = model.load()
    features = with_differences(cepstra(flite(ENGLISH[0], "slt").recording.samples))
    flat, full = acoustic.fitted(features * 0.4), acoustic.fitted(features)
    assert flat.std() > 0.75 * full.std()
    assert features.std() * 0.4 < 0.5 * full.std()
    assert np.isfinite(acoustic.fitted(np.zeros((3, 3, 13), np.float32))).all()


@pytest.mark.parametrize("recognised", [False, True])
def test_what_was_recognised_is_not_told_to_be_missing(spoken, recognised):
    line = LineToRead(f"{LINE} Hippopotamus parliament.", recognised=recognised)
    found = read_lines(spoken.recording, [line])
    assert any("Written but not heard" in note for note in found.notes) is not recognised


T = np.arange(16_000 * 6) / 16_000
NOTES_OF_A_TUNE = np.sin(2 * np.pi * 220 * T * 2 ** (np.floor(T * 2) % 5 / 12)) * np.exp(-(T * 2 % 1) * 2)


@pytest.mark.parametrize(
    ("sound", "text", "language"),
    [
        (np.zeros(32_000), LINE, "en"),
        (NOTES_OF_A_TUNE * 0.3, LINE, "en"),
        (0.3 * np.sin(2 * np.pi * (100 + 400 * T) * T), LINE, "en"),
        (np.eye(1, 32_000, 16_000)[0], LINE, "en"),
        (noise(0.1), "fog", "en"),
        (noise(4), LINE, "en"),
        ("spoken", "\n".join([LINE] * 10), "en"),
        ("spoken", "Никто не продал козе билет", "ru"),
    ],
)
def test_sound_and_words_that_do_not_belong_together(spoken, sound, text, language):
    heard = spoken.recording if isinstance(sound, str) else recording_of(sound)
    found = read(heard, text, language)
    check_total_and_monotone(found, heard.seconds)
    assert np.mean([w.confidence for w in found.words()]) < 0.65
    assert found.notes
    assert all(note.endswith(".") for note in found.notes)


@pytest.mark.slow
def test_one_word_for_four_minutes(spoken):
    samples = np.concatenate([noise(120, 0.001), spoken.recording.samples, noise(120, 0.001)])
    found = read(recording_of(samples), "lighthouse")
    check_total_and_monotone(found, len(samples) / 16_000)
    (word,) = written(found)
    assert 120 < word.start < 125
    assert any("not written" in note for note in found.notes)


@pytest.fixture(scope="module")
def minute():
    """Over a minute of lines, with the script; long enough to be read in pieces."""
    lines = [flite(text, "slt") for text in ENGLISH[:24]]
    starts = np.cumsum([0, *(len(line.recording.samples) for line in lines)]) / 16_000
    return recording_of(np.concatenate([line.recording.samples for line in lines])), ENGLISH[:24], starts


def test_a_long_sound_is_read_in_pieces_that_are_told_of_as_they_come(minute):
    sound, texts, starts = minute
    told = []
    lines = [LineToRead(text, id=n) for n, text in enumerate(texts)]
    found = read_lines(sound, lines, finished=told.append)
    check_total_and_monotone(found, sound.seconds)
    assert len(told) > 2
    assert [line for piece in told for line in piece] == list(found.lines)
    for line, start, end in zip(found.lines, starts[:-1], starts[1:], strict=True):
        assert start <= line.start < line.end <= end + 0.05


def test_a_line_that_was_not_spoken_leaves_the_others_where_they_are(minute):
    sound, texts, starts = minute
    missing = [*texts[:10], "Nobody at all said this line about penguins", *texts[10:]]
    found = read_lines(sound, [LineToRead(text, id=n) for n, text in enumerate(missing)])
    others = [line for line in found.lines if line.id != 10]
    near = [abs(line.start - start) < 0.35 for line, start in zip(others, starts[:-1], strict=True)]
    assert sum(near) >= len(near) - 2


@pytest.mark.parametrize(("script", "unsaid", "beside"), [
    ("My left boot went overboard near the yellow lighthouse.", ["yellow"], []),
    ("My left boot went near the lighthouse.", [], ["near"]),
    ("My left umbrella went overboard near the lighthouse.", ["umbrella"], ["umbrella"]),
    (LINE, [], []),
])  # fmt: skip
def test_words_that_differ_are_found_at_their_place(spoken, script, unsaid, beside):
    found = read(spoken.recording, script)
    assert [w.text for w in found.words() if not w.said] == unsaid
    assert [w.text for w in found.words() if w.extra] == beside
    assert all(s.start == s.end for w in found.words() if not w.said for s in w.sounds)


@pytest.mark.parametrize("voice", ["slt", "rms", "awb"])
def test_the_mouth_follows_what_is_said_and_not_written(voice):
    heard = flite("Five brave foxes fell off the ferry and laughed.", voice)
    (line,) = read(heard.recording, "Five brave fell off the ferry and laughed.").lines
    (place,) = (number for number, word in enumerate(line.words) if word.is_unwritten)
    word = line.words[place]
    assert [one.text for one in line.words if not one.is_unwritten] == [
        "Five",
        "brave",
        "fell",
        "off",
        "the",
        "ferry",
        "and",
        "laughed",
    ]
    assert place == 2
    start, end = heard.phones[8].start, heard.phones[13].end
    assert abs(word.start - start) < 0.08
    assert abs(word.end - end) < 0.08
    shapes = [shape for sound in word.sounds for shape in shapes_of(sound.ipa)]
    assert shapes[0] == "tuck"
    assert {"open", "round"} & set(shapes)
    assert word.text != SOUNDS_ONLY, "what it may be is offered"


def test_a_noise_is_not_followed(spoken):
    """A gap of silence or noise between words has no sounds of its own."""
    samples = spoken.recording.samples
    quiet = np.concatenate([samples, noise(0.6, 0.002), samples])
    found = read(recording_of(quiet), f"{LINE}\n{LINE}")
    assert not [word for word in found.words() if word.is_unwritten]
