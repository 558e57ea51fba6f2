"""The Salt Ferry: who is on board, and what is said in each scene, in our own words."""

from dataclasses import dataclass


@dataclass(frozen=True)
class CastMember:
    """A member of the cast: the built-in face's form and colours, the synthesiser's command for the voice; formants:
    how many times as high as that voice's theirs lie."""

    name: str
    form: str
    skin: str
    trim: str
    lip: str
    voice: tuple[str, ...]
    formants: float = 1.0


@dataclass(frozen=True)
class Said:
    """A line: who says it, after how many seconds of silence since the last line's end (less than none overlaps).
    language: a code, where it is not English; spoken: what the synthesiser is asked to say, where it is not what is
    written; held: for how many seconds it is held in the
    middle of what is loud of it; shouted: whether it is louder than was recorded."""

    who: str
    after: float
    text: str
    language: str = ""
    spoken: str = ""
    held: float = 0.0
    shouted: bool = False


@dataclass(frozen=True)
class SceneText:
    """A scene of the demo. slug names its sound files; together: everybody was recorded in one file."""

    slug: str
    name: str
    rate: str
    start_frame: int
    lines: tuple[Said, ...]
    together: bool = False


PRODUCTION = "The Salt Ferry"

SEQUENCES = {"fog": "The pier", "goat": "The pier"}
"""In which part of the film a scene is, by its slug."""

OTHERWISE = "The crossing"
"""Where those are that SEQUENCES does not name."""

LEXICON = (("skerrick", "en", "ˈs k ɛ ɹ ɪ k"),)

CAST = (
    CastMember("Marit", "round", "#e3c3a5", "#2f4a57", "#b8705a", ("flite", "-voice", "slt")),
    CastMember("Brede", "long", "#d9b08c", "#7a3b2e", "#a65a4b", ("flite", "-voice", "rms")),
    CastMember("Pock", "box", "#c9cfcc", "#2f7d72", "#8f9c9d", ("espeak-ng", "-v", "en-us", "-s", "150", "-p", "62")),
    CastMember("Gull", "round", "#f0ede4", "#8b929b", "#d18a3a", ("flite", "-voice", "slt"), 1.4),
    CastMember("Foghorn", "box", "#b8503f", "#40474d", "#7d2f27", ("flite", "-voice", "awb"), 0.75),
)

SCENES = (
    SceneText(
        "fog",
        "1 · Fog at the north pier",
        "24",
        1001,
        (
            Said("Marit", 0.4, "Fog again. Fog on the pier, fog in the mugs, fog in the map."),
            Said("Marit", 2.4, "Somebody has lost a boot. A left boot, full of fish."),
            Said("Marit", 0.7, "If it belongs to Skerrick, tell him the ferry leaves at 7:30."),
        ),
    ),
    SceneText(
        "goat",
        "2 · The goat has a season ticket",
        "25",
        1,
        (
            Said("Pock", 0.3, "Welcome aboard. Please show a valid ticket."),
            Said("Brede", 0.4, "It is a goat, Pock. Goats do not have pockets."),
            Said("Pock", 0.3, "This passenger has a season ticket. Please move, mister Brede."),
            Said("Brede", -0.3, "You sold a season ticket to a goat?"),
            Said("Pock", 0.4, "She paid in full. With a boot."),
        ),
    ),
    SceneText(
        "bill",
        "3 · The lighthouse bill",
        "23.976",
        1,
        (
            Said("Brede", 0.5, "The lighthouse wants $412 for the light we used in March."),
            Said("Marit", 0.5, "We never used it. We could not see it for the fog."),
            Said("Brede", 0.3, "That is what makes it overdue, I think."),
        ),
    ),
    SceneText(
        "gangway",
        "4 · Both on one microphone",
        "24",
        101,
        (
            Said("Marit", 0.4, "Pock, the goat is at the gangway again."),
            Said("Pock", 0.5, "Bienvenida a bordo, señora cabra.", "es"),
            Said("Marit", 0.4, "Do not greet her. She will want a cabin."),
            Said("Pock", 0.5, "She has a cabin. It is yours."),
        ),
        together=True,
    ),
    SceneText(
        "gull",
        "5 · What the gull wants",
        "24",
        1,
        (
            Said("Gull", 0.4, "Give me the chips. All of the chips, please."),
            Said("Foghorn", 0.6, "Who is that, down there in my fog?"),
            Said(
                "Gull",
                0.4,
                "Hahaha. A b-b-boat, you old trumpet.",
                spoken="Ha ha ha. A buh, buh boat, you old trumpet.",
            ),
            Said("Brede", 0.5, "Nooo!", spoken="No.", held=3.0, shouted=True),
            Said("Brede", 0.3, "That was my supper!", shouted=True),
        ),
    ),
)
