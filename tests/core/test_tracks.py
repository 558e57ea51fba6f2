"""Golden tracks: what is shown on every frame of some short lines at 24 fps, and why. The first sound begins at frame
12. A rule of curves, events or plan that is bent shows here."""

from fractions import Fraction

import pytest

from tests.speech import say
from tinfork.core.exposure.curves import curves
from tinfork.core.exposure.plan import plan
from tinfork.core.exposure.track import Passage, Settings
from tinfork.core.mouths.chart import built_in

FPS = Fraction(24)
MAP = "m:60 'æ:90 p:60 ə:50 v:50 m:60 'ʌ:100 ɡ:60 z:90"
BOOT = "ə:60 l:60 'ɛ:110 f:80 t:60 b:60 'u:180 t:90"
BOUGHT = "b:70 'ɑ:120 b:60 i:90 b:60 'ɔ:140 t:90"

TRACKS = {
    "Mum": (
        "m:80 'ʌ:130 m:120",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("press", 3, "m, a frame early and one more as a phrase begins"),
            ("half", 3, "the vowel between two closures opens, to its full length"),
            ("press", 4, "m until it is over, and no longer"),
            ("rest", 17, "silence"),
        ),
    ),
    "Bobby bought": (
        BOUGHT,
        Settings(),
        (
            ("rest", 10, "silence"),
            ("press", 3, "b"),
            ("open", 2, "ɑ is reached though it lasts three frames with b on both sides"),
            ("press", 2, "b for a hold"),
            ("spread", 2, "i, two frames, is not pressed through"),
            ("press", 2, "b for a hold"),
            ("round", 3, "ɔ"),
            ("ajar", 4, "t with the lips still forward, to its end: rest does not come early"),
            ("rest", 16, "silence"),
        ),
    ),
    "My, why": (
        "m:70 'aɪ:230 w:70 'aɪ:260",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("press", 3, "m"),
            ("open", 2, "the first half of aɪ"),
            ("spread", 3, "its glide, which is long enough to be held"),
            ("purse", 2, "w"),
            ("open", 3, "the first half of aɪ"),
            ("spread", 5, "its glide, until it is over"),
            ("rest", 16, "silence"),
        ),
    ),
    "big": (
        "b:70 'ɪ:120 ɡ:110",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("press", 3, "b"),
            ("ajar", 7, "ɪ and ɡ are alike; there is no rest inside the word"),
            ("rest", 16, "silence"),
        ),
    ),
    "fog, fog": (
        "f:90 'ɑ:160 ɡ:70 _:110 f:90 'ɑ:160 ɡ:80",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("tuck", 3, "f"),
            ("open", 7, "ɑ and ɡ, and held over a gap of 110 ms"),
            ("tuck", 4, "f"),
            ("open", 7, "ɑ and ɡ"),
            ("rest", 17, "silence"),
        ),
    ),
    "boat. Map": (
        "b:70 'oʊ:200 t:90 _:500 m:80 'æ:160 p:90",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("press", 3, "b"),
            ("round", 2, "the first half of oʊ"),
            ("purse", 3, "its glide"),
            ("push", 3, "t with the lips still forward"),
            ("rest", 9, "a pause of half a second"),
            ("press", 4, "m opens the next phrase early"),
            ("half", 4, "æ"),
            ("press", 3, "p, until it is over"),
            ("rest", 17, "silence"),
        ),
    ),
    "A left boot, calm": (
        BOOT,
        Settings(detail=0.0),
        (
            ("rest", 10, "silence"),
            ("half", 7, "ə and l give way to ɛ, which is stressed"),
            ("tuck", 2, "f"),
            ("press", 2, "b; t between them has no room"),
            ("purse", 8, "u; the calm dial leaves t out"),
            ("rest", 17, "silence"),
        ),
    ),
    "A left boot, crisp": (
        BOOT,
        Settings(detail=1.0),
        (
            ("rest", 10, "silence"),
            ("ajar", 2, "ə"),
            ("lift", 2, "l"),
            ("half", 3, "ɛ"),
            ("tuck", 2, "f"),
            ("press", 2, "b"),
            ("purse", 5, "u"),
            ("push", 3, "t with the lips still forward"),
            ("rest", 17, "silence"),
        ),
    ),
    "five, no lead": (
        "f:100 'aɪ:240 v:90",
        Settings(lead=0),
        (
            ("rest", 11, "silence"),
            ("tuck", 3, "f, which the lips are ready for as it begins"),
            ("open", 3, "the first half of aɪ"),
            ("spread", 3, "its glide"),
            ("tuck", 3, "v"),
            ("rest", 17, "silence"),
        ),
    ),
    "five, three frames of lead": (
        "f:100 'aɪ:240 v:90",
        Settings(lead=3),
        (
            ("rest", 8, "silence"),
            ("tuck", 5, "f, held until it is heard"),
            ("open", 2, "the first half of aɪ"),
            ("spread", 2, "its glide"),
            ("tuck", 6, "v, early, and until it is over"),
            ("rest", 17, "silence"),
        ),
    ),
    "Nooo": (
        "n:90 'oʊ:2000",
        Settings(),
        (
            ("rest", 12, "silence, and n which o takes over"),
            ("round", 46, "o, as long as it is shouted"),
            ("purse", 5, "its glide comes at the end"),
            ("rest", 16, "silence"),
        ),
    ),
    "a hiss": (
        "s:110 'ʌ:120 m:50",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("teeth", 4, "s lasts, so it is seen"),
            ("half", 3, "ʌ"),
            ("press", 2, "m"),
            ("rest", 17, "silence"),
        ),
    ),
    "ah, sah": (
        "'ɑ:160 _:170 s:60 'ɑ:160",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("open", 6, "ɑ, and held over most of a gap of 170 ms"),
            ("teeth", 4, "a syllable beats: the mouth goes toward s, short as it is, and comes back"),
            ("open", 6, "ɑ"),
            ("rest", 16, "silence"),
        ),
    ),
    "ever for": (
        "'ɛ:60 v:90 ɚ:84 f:70 'ɔ:50",
        Settings(),
        (
            ("rest", 10, "silence"),
            ("half", 3, "ɛ"),
            ("tuck", 2, "v"),
            ("ajar", 2, "the lips part for ɚ, slack as it is"),
            ("tuck", 2, "f"),
            ("round", 2, "ɔ"),
            ("rest", 17, "silence"),
        ),
    ),
    "map of mugs": (
        MAP,
        Settings(),
        (
            ("rest", 10, "silence"),
            ("press", 3, "m"),
            ("half", 2, "æ, two frames"),
            ("press", 2, "p"),
            ("tuck", 2, "v; ə between them has no room"),
            ("press", 2, "m"),
            ("half", 6, "ʌ; ɡ and z are left out by the dial"),
            ("rest", 17, "silence"),
        ),
    ),
}


def shown(text, settings, passages=()):
    sounds, seconds = say(text)
    track = plan(curves(sounds, seconds, FPS), built_in(), settings, passages=passages)
    return [(e.drawing, e.frames) for e in track]


@pytest.mark.parametrize("line", TRACKS)
def test_a_line_is_shown_as_an_animator_would(line):
    text, settings, expected = TRACKS[line]
    assert shown(text, settings) == [(drawing, frames) for drawing, frames, _ in expected]


def test_on_twos_drawings_change_on_even_frames_only():
    track = shown(MAP, Settings(step=2))
    starts = [sum(frames for _, frames in track[:n]) for n in range(len(track))]
    assert all(start % 2 == 0 for start in starts)
    assert [drawing for drawing, _ in track] == ["rest", "press", "half", "press", "tuck", "press", "half", "rest"]


def test_a_passage_has_settings_of_its_own():
    calm, crisp = shown(BOOT, Settings(detail=0.0)), shown(BOOT, Settings(detail=1.0))
    # From frame 21, where b closes, to the end: the start is shown calmly, the rest crisply.
    track = shown(BOOT, Settings(detail=0.0), [Passage(21, 30, Settings(detail=1.0))])
    assert track[:4] == calm[:4]
    assert track[-3:] == crisp[-3:]


def test_a_longer_lead_in_a_passage_shows_its_words_earlier():
    second = Passage(24, 30, Settings(lead=3))
    text = "f:90 'ɑ:160 _:600 f:90 'ɑ:160"
    early, plain = shown(text, Settings(), [second]), shown(text, Settings())
    assert early[:3] == plain[:3]
    assert early[3][1] == plain[3][1] - 2
