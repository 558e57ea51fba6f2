"""What the Reading desk draws: for each stave what is always there, and a slice of its lanes; after an edit what has
changed of both."""

import functools
from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

from django.urls import reverse

from tinfork.core.exposure import windows
from tinfork.core.exposure.pins import PlacedPins
from tinfork.core.mouths.shapes import shapes_of
from tinfork.core.speech.reading import Line
from tinfork.web.edits.following import Changes
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, may
from tinfork.web.reading.by_hand import to_place
from tinfork.web.reading.settling import said_otherwise
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import sound_document, time_base
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import charts_to_lend, drawings_gone, mouths_of, other_plan
from tinfork.web.staves.placing import Placed, placed_now
from tinfork.web.staves.planning import plan_in_view
from tinfork.web.staves.seeing import Seen, seen

MOST_AWAY = 200
"""So many pins that are not seen are listed at a time."""

SLICE = 1440
"""How many frames a page begins with, and asks for at a time."""


def scene_document(person: Person, scene: Scene, staves: Iterable[Placed]) -> dict[str, Any]:
    """Return what every page begins with that shows a scene, and learns what others change in it: its sound, and the
    first slice of staves."""
    return {
        "scene": time_base(scene),
        "mayEdit": may(person, scene.production, "edit"),
        "sound": sound_document(arrangement_of(scene)),
        "soundUrl": reverse("sound", args=[scene.pk]),
        "staves": [stave_document(one, range(SLICE)) for one in staves],
        "slice": SLICE,
        "versionsUrl": reverse("scene-versions", args=[scene.pk]),
        "actingUrl": reverse("acting-lanes", args=[scene.pk]),
    }


def head_document(placed: Placed) -> dict[str, Any]:
    """Return a stave but for what lies in its lanes."""
    stave = placed.stave
    return {
        "id": stave.pk,
        "version": stave.version,
        "read": stave.is_read,
        "frames": placed.frames,
        "lost": [_lost(word) for _, word in stave.reading_with(()).lost],
        "pinsAway": [*pins_away(placed.pins), *drawings_gone(stave, placed.pins.shown)],
        "settings": {"hold": stave.hold, "lead": stave.lead, "detail": stave.detail, "step": stave.step},
        "passages": [[p.frame, p.frames, asdict(p.settings)] for p in placed.passages],
        "meant": [[span.start, len(span), one.kind] for span, one in placed.intents],
        "eases": [[span.start, len(span), one.ease, one.drawn] for span, one in placed.eases],
        "moods": [[span.start, len(span), mouths_of(stave).called(one)] for span, one in placed.moods],
        **stave.steps,
    }


def fixed_document(placed: Placed) -> dict[str, Any]:
    """Return what of a stave no edit of it changes."""
    stave = placed.stave
    return {
        "character": stave.character.name,
        "characterId": stave.character_id,
        "clips": [clip.id for clip in placed.clips],
        "chart": mouths_of(stave).document(f"s{stave.pk}"),
        "otherwise": {f"{line} {word}": said for (line, word), said in said_otherwise(stave.scene).items()},
        "otherCharts": [[one.pk, one.name] for one in charts_to_lend(stave.character)],
        "url": reverse("stave", args=[stave.pk]),
        "checksUrl": reverse("stave-checks", args=[stave.pk]),
        "curvesUrl": reverse("stave-curves", args=[stave.pk]),
        "habitsUrl": reverse("stave-habits", args=[stave.pk]),
        "dialUrl": reverse("stave-dial", args=[stave.pk]),
        "anewUrl": reverse("stave-anew", args=[stave.pk]),
        "takesUrl": reverse("stave-takes", args=[stave.pk]),
        "whyUrl": reverse("stave-why", args=[stave.pk, 0]).removesuffix("0"),
        "outUrl": reverse("stave-out", args=[stave.pk, "KIND"]),
        "bringUrl": reverse("stave-bring", args=[stave.pk]),
        "timingUrl": reverse("stave-timing", args=[stave.pk]),
        "editUrl": reverse("stave-edit", args=[stave.pk]),
    }


def stave_document(placed: Placed, frames: range) -> dict[str, Any]:
    """Return a stave with a slice of its lanes."""
    placed = plan_in_view(placed, frames)
    shown = placed.shown(placed.numbers_in(frames))
    lanes = {"lines": _lines(shown), "aims": _aims(shown), "exposures": _exposures(placed, [frames])}
    rest = {
        "newChart": other_plan(placed.stave),
        "toPlace": to_place(placed.stave),
        "first": frames.start,
        "end": frames.stop,
    }
    return head_document(placed) | fixed_document(placed) | rest | lanes


def patch_document(stave: Stave, changes: Changes) -> dict[str, Any]:
    """Return what the changes that were made changed of a stave. numbers: the places of the lines that are given anew,
    or are no longer heard; drawn: stretches of frames whose exposures are given anew; stale: stretches to be asked for
    again; renumbered: all must be, as lines have other places."""
    own = [(one, before) for one, before in changes if isinstance(one, Stave) and one.pk == stave.pk]
    stave = own[-1][0] if own else stave
    placed = placed_now(stave)
    if stave.merged or any("order" in before for _, before in own):
        return head_document(placed) | {"renumbered": True}
    names = {name for _, before in own for name in before if name.startswith("line ")}
    numbers = sorted(int(name.split()[1]) for name in names)
    anew = windows.merged(frames for one, _ in own for frames in (*one.anew, *one.redrawn))
    shown = placed.shown(numbers)
    drawn = windows.merged([*functools.reduce(windows.without, stave.stale, anew), *_pins_in(placed, anew)])
    return head_document(placed) | {
        "renumbered": False,
        "numbers": [placed.places[number] for number in numbers],
        "lines": _lines(shown),
        "aims": _aims(shown),
        "drawn": windows.pairs(drawn),
        "stale": stave.unplanned,
        "exposures": _exposures(placed, drawn),
    }


def _pins_in(placed: Placed, frames: Iterable[range]) -> list[range]:
    """Where pins lie on some frames."""
    pins = placed.pins.shown
    return [range(pin.frame, pin.end) for one in frames for pin in pins if one.start <= pin.frame < one.stop]


def _lost(word: Any) -> dict[str, str]:
    return {"text": word.text, "ipa": " ".join(sound.ipa for sound in word.sounds) if word.decided else ""}


def _lines(shown: Iterable[tuple[int, Line]]) -> list[dict[str, Any]]:
    """Lines as the desk draws them: only what it needs, so that a slice is small."""
    return [
        {
            "place": place,
            "id": line.id,
            "text": line.text,
            "start": line.start,
            "end": line.end,
            "words": [
                {
                    "text": word.text,
                    "start": word.start,
                    "end": word.end,
                    "confidence": word.confidence,
                    "guessed": word.guessed,
                    "said": word.said,
                    "extra": word.extra,
                    "pinned": word.pinned,
                    "decided": word.decided,
                    "tight": word.tight,
                    "at": word.at,
                    "sounds": [[s.ipa, s.start, s.end, s.confidence] for s in word.sounds],
                }
                for word in line.words
            ],
        }
        for place, line in shown
    ]


def _aims(shown: Iterable[tuple[int, Line]]) -> dict[str, list[str]]:
    """For each sound that is heard the shapes the mouth passes through."""
    return {s.ipa: list(shapes_of(s.ipa)) for _, line in shown for word in line.words for s in word.sounds}


def _exposures(placed: Placed, frames: Iterable[range]) -> list[dict[str, Any]]:
    """The exposures that are seen on some frames."""
    return [_exposure(one) for stretch in frames for one in seen(placed, stretch)]


def _exposure(one: Seen) -> dict[str, Any]:
    e = one.exposure
    found = {"frame": e.frame, "frames": e.frames, "drawing": e.drawing, "pinned": e.pinned}
    if one.mood is not None:
        found["mood"] = one.mood
    if one.own:
        found |= {"own": True, "bend": [one.bend.wide, one.bend.tall, one.bend.lean]}
    return found


def pins_away(placed: PlacedPins) -> list[dict[str, Any]]:
    """Return the pins that are not seen, or not whole: what they show, where, and why they are not."""
    covered = [
        {"drawing": one.pin.drawing, "frame": one.frame, "frames": one.pin.frames, "why": "a newer pin lies on it"}
        for one in placed.covered
    ]
    hidden = [
        {"drawing": pin.drawing, "frame": None, "frames": pin.frames, "why": "its sound is cut away"}
        for pin in placed.hidden
    ]
    return (covered + hidden)[:MOST_AWAY]
