"""From a stave's reading, settings and pins, and where its sound lies, to its mouth track, by the core's planner.

A change marks the stretch of the track that no longer follows from it; a short stretch is planned at once, a long one
piece by piece when it is looked at, its pins in place meanwhile. Either way the track is what planning all of it gives.
"""

import functools
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from django.db import transaction
from numpy.typing import NDArray

from tinfork.core.exposure import curves, plan, windows
from tinfork.core.exposure.curves import REACH_SECONDS, Curves, runs
from tinfork.core.exposure.served import with_sounds
from tinfork.core.exposure.track import NOTHING, Exposure, Pin, Track, cut_to
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.plain import restore
from tinfork.core.script import marks
from tinfork.core.script.casting import clips_of
from tinfork.core.sound.arrangement import Clip
from tinfork.core.speech.reading import Line, Reading, Sound
from tinfork.core.timebase import frames_touched
from tinfork.web.edits.actions import tell_changed
from tinfork.web.edits.following import follow
from tinfork.web.sound.models import Arrangement

from .models import Stave
from .mouths import aims_of, basis_chart, basis_now, mouths_of, rules_now
from .placing import Placed, placed_now

AT_ONCE = 480
"""So many frames are planned for one page that looks at them."""

Rules = Sequence[Sequence[Any]]

WITH_THE_EDIT = 48
"""A stretch of so many frames is planned in the same breath as the change that asks for it; a longer one when the page
asks for what it looks at, so that the answer to the edit is not kept waiting. Pins are seen at once."""

_BESIDE = 48
"""What lies so many frames off has no say in where two exposures meet."""

_FEW = 2


def scene_reading(stave: Stave, arrangement: Arrangement | None = None) -> Reading | None:
    """Return the stave's reading where its sound lies in the scene now."""
    reading = stave.reading_value
    if reading is None:
        return None
    placed = Placed(stave, arrangement) if arrangement else placed_now(stave)
    return replace(reading, seconds=placed.frames / placed.fps, lines=placed.in_scene(reading.lines))


def planned(stave: Stave) -> Placed:
    """Return a stave with its mouth track planned to the end."""
    placed = placed_now(stave)
    for first in range(0, placed.frames, AT_ONCE):
        placed = plan_in_view(placed, range(first, first + AT_ONCE))
    return placed


def track_with_sounds(placed: Placed) -> tuple[Exposure, ...]:
    """Return the mouth track of a stave that is planned to the end, with the numbers of the sounds each exposure
    serves."""
    whole = articulation(placed, range(placed.frames))
    lead = plan.dials(whole.frames, placed.rate, placed.stave.settings_value, placed.passages).lead
    own, track = mouths_of(placed.stave), placed.stave.track.exposures()
    found = with_sounds(own.in_basis(track), whole, own.basis, lead)
    return tuple(replace(e, drawing=was.drawing) for e, was in zip(found, track, strict=True))


def articulation(placed: Placed, frames: range) -> Curves:
    """Return what the mouth is asked to do on some frames."""
    return _curves(placed, sounds_on(placed, frames), frames)


def sounds_on(placed: Placed, frames: range) -> list[Sound]:
    """Return the sounds that have a say on some frames; both ends lie where the track does, or in rest."""
    around = round(2 * REACH_SECONDS * placed.fps)
    return placed.sounds(range(frames.start - around, frames.stop + around))


def _curves(placed: Placed, sounds: list[Sound], frames: range) -> Curves:
    """The articulation of some frames by the sounds that have a say there."""
    return curves.curves(sounds, placed.frames / placed.fps, placed.rate, placed.allowed, frames, aims_of(placed.stave))


def _window(placed: Placed, changed: range) -> range:
    """The frames that must be planned anew when some have changed."""
    if changed.start <= 0 and changed.stop >= placed.frames:
        return range(placed.frames)
    around, silent = AT_ONCE, placed.silent
    while True:
        frames = range(max(0, changed.start - around), min(placed.frames, changed.stop + around))
        known = windows.Known(frames, silent[frames.start : frames.stop], placed.frames)
        first, end = windows.window(
            changed, known, placed.rate, placed.stave.settings_value, placed.pins.near(frames), placed.passages
        )
        if first is not None and end is not None:
            return range(first, end)
        around *= 4


def _plan(placed: Placed, frames: range) -> None:
    """Plan some frames, between two places where the track may be cut. Does not save."""
    stave = placed.stave
    beside = placed.pins.near(range(frames.start - AT_ONCE, frames.stop + AT_ONCE))
    near = windows.around(frames, beside, placed.rate, placed.frames)
    before = plan.Before(stave.track.exposures(near), stave.open)
    stave.track = stave.track.with_fresh(cut_to(_exposures(placed, near, before), frames))
    _is_planned(stave, frames)


def _exposures(placed: Placed, frames: range, before: plan.Before | None = None) -> tuple[Exposure, ...]:
    """What is planned for some frames; pins keep the names they have, all others are the basis'."""
    mouths, pins = mouths_of(placed.stave), placed.pins.beginning(frames)
    own, settings, named = articulation(placed, frames), placed.stave.settings_value, {p.frame: p.drawing for p in pins}
    fresh = plan.exposures(own, mouths.basis, settings, mouths.pins_in_basis(pins), placed.passages, before)
    return tuple(replace(e, drawing=named[e.frame]) if e.pinned else e for e in fresh)


def _is_planned(stave: Stave, frames: range) -> None:
    stave.stale = windows.without(stave.stale, frames)
    stave.open = windows.without(stave.open, frames)


def plan_in_view(placed: Placed, frames: range) -> Placed:
    """Plan what of some frames is not planned yet, and keep it; the stave as it is then. Nobody who changes the stave
    meanwhile is kept waiting."""
    while due := _due(placed, frames):
        for stretch in due:
            _plan(placed, stretch)
        with transaction.atomic():
            now = Stave.objects.select_for_update(of=("self",)).get(pk=placed.stave.pk)
            if now.version == placed.stave.version:
                return _keep_planned(placed, now, due)
        stave = Stave.objects.select_related("scene__production", "character").get(pk=placed.stave.pk)
        placed = placed_now(stave)
    return placed


def _keep_planned(placed: Placed, now: Stave, planned: Iterable[range]) -> Placed:
    """Put what was planned into the track as it is kept now, where others may have planned other stretches."""
    for frames in planned:
        now.track = now.track.with_fresh(placed.stave.track.between(frames))
        _is_planned(now, frames)
    now.save(update_fields=Stave.DERIVED)
    placed.stave.track, placed.stave.unplanned, placed.stave.changed = now.track, now.unplanned, now.changed
    return placed


def _due(placed: Placed, frames: range) -> list[range]:
    """The stretches to be planned so that some frames are as they should be."""
    found = []
    for stretch in placed.stave.stale:
        seen = range(max(stretch.start, frames.start), min(stretch.stop, frames.stop))
        if seen:
            around = _window(placed, seen)
            found.append(range(max(stretch.start, around.start), min(stretch.stop, around.stop)))
    return windows.merged(found)


def _changed(placed: Placed, frames: Iterable[range], opened: Iterable[range] | None = None) -> None:
    """Let the track follow a change of what decides some frames. opened: those of which nothing is kept of what the
    track shows, where not the same ones. Does not save."""
    stave, frames = placed.stave, list(frames)
    stave.track = _of_length(placed)
    within = (range(max(0, one.start), min(placed.frames, one.stop)) for one in frames)
    dirty = windows.merged(within)
    if len(dirty) > _FEW:
        dirty = [range(dirty[0].start, dirty[-1].stop)]
    around = windows.merged(_window(placed, one) for one in dirty)
    opened = windows.merged([*stave.open, *(frames if opened is None else opened)])
    stave.open = [range(one.start, min(one.stop, placed.frames)) for one in opened if one.start < placed.frames]
    still = (range(one.start, min(one.stop, placed.frames)) for one in stave.stale)
    stave.stale = windows.merged([*still, *around])
    stave.anew = around
    for one in around:
        if len(one) <= WITH_THE_EDIT:
            _plan(placed, one)
        else:
            _show_pins(placed, one)


def _of_length(placed: Placed) -> Track:
    """The track cut to its scene, or ended with rest."""
    chart = basis_chart(placed.stave)
    rest = chart.drawings[chart.nearest(SHAPES["rest"].place)].name
    return placed.stave.track.of_length(placed.frames, rest)


def begin(stave: Stave) -> None:
    """Give a new stave a mouth track in its character's drawings, at rest as long as nothing is read."""
    stave.basis = basis_now(stave.character)
    stave.rules = rules_now(stave.character)
    placed = placed_now(stave)
    _changed(placed, [range(placed.frames)])
    stave.save()


def _show_pins(placed: Placed, frames: range) -> None:
    """Put the pins on some frames into the track. Does not save."""
    pins = placed.pins.beginning(frames)
    shown = [Exposure(pin.frame, pin.frames, pin.drawing, pinned=True) for pin in pins]
    placed.stave.track = placed.stave.track.with_over(shown)


def _follow_stave(stave: Stave, before: dict[str, Any]) -> None:
    """The track follows from what a person decided of the stave."""
    placed = placed_now(stave)
    stave.derived_before[stave.area] = stave.derived
    stave.redrawn = _redrawn(placed, before) if before.keys() & {"moods", "stretches"} else ()
    if stave.area in stave.to_bring_back:
        stave.bring_back(stave.to_bring_back.pop(stave.area))
    elif before.keys() & _ANEW or before.get("about", {}) is None or _moved(before.get("order", []), stave.order):
        _changed(placed, [range(placed.frames)])
    elif before.keys() - {"moods", "stretches", "intents", "eases"}:
        heard = _heard_otherwise(placed, before)
        decided = _decided_otherwise(placed, before)
        _changed(placed, [*heard, *decided], [*_shown_for(placed, heard), *decided])


_ANEW = {"hold", "lead", "detail", "step", "basis", "plans"}
"""What is decided for all of a track: where it changes, all is planned as if nothing had been there."""


def _shown_for(placed: Placed, heard: Iterable[range]) -> list[range]:
    """The frames of all exposures that may be there for what is heard on some frames."""
    lead = placed.stave.lead + 1
    near = [range(max(0, one.start - lead), min(one.stop, placed.frames)) for one in heard]
    return [range(e.frame, e.end) for one in windows.merged(near) for e in placed.stave.track.exposures(one)]


def ruled_otherwise(placed: Placed, was: Rules, now: Rules) -> list[range]:
    """Return the frames on which sounds are heard that have another rule now than they had."""
    signs = {ipa for ipa, *_ in (one for one in (*was, *now) if (one in was) != (one in now))}
    sounds = sounds_on(placed, range(placed.frames)) if signs else ()
    return [frames_touched(s.start, s.end, placed.rate) for s in sounds if s.ipa in signs and s.end > s.start]


def with_rules(placed: Placed, rules: Rules) -> tuple[Exposure, ...]:
    """Return the whole track of a stave that is planned to the end, if it had some rules. The stave is left with these
    rules, unsaved."""
    stave = placed.stave
    before = plan.Before(stave.track.exposures(), _shown_for(placed, ruled_otherwise(placed, stave.rules, rules)))
    stave.rules = rules
    return _exposures(placed, range(placed.frames), before)


def planned_anew(placed: Placed) -> tuple[Exposure, ...]:
    """Return the whole track of a stave as it is planned where nothing was there before: pins stay."""
    return _exposures(placed, range(placed.frames))


def _heard_otherwise(placed: Placed, before: dict[str, Any]) -> list[range]:
    """The frames on which other sounds are heard now."""
    found: list[range] = []
    names = [name for name in before if name.startswith("line ")]
    for name, now in placed.stave.decided(names).items():
        was, own = (placed.sounds_of(restore(body, Line) if body else None) for body in (before[name], now))
        found += windows.heard_otherwise(was, own, placed.rate)
    if "rules" in before:
        found += ruled_otherwise(placed, before["rules"], placed.stave.rules)
    return found


def _decided_otherwise(placed: Placed, before: dict[str, Any]) -> list[range]:
    """The frames for which a person decided something else now."""
    found: list[range] = []
    was = _as_it_was(placed, before)
    if "pins" in before:
        found += _unlike(was.pins.shown, placed.pins.shown)
    if "passages" in before:
        found += [range(p.frame, p.end) for p in {*was.passages} ^ {*placed.passages}]
    return found


def _redrawn(placed: Placed, before: dict[str, Any]) -> list[range]:
    """The frames that are shown otherwise, though nothing is planned otherwise there."""
    was = _as_it_was(placed, before)
    pairs = ((was.moods, placed.moods), (was.stretches, placed.stretches))
    return [
        span
        for old, new in pairs
        for one in (old, new)
        for span, own in one
        if (span, own) not in old or (span, own) not in new
    ]


def _as_it_was(placed: Placed, before: dict[str, Any]) -> Placed:
    """Where the stave's pins and ranges lay before a change."""
    stave = placed.stave
    names = ("pins", "moods", "passages", "stretches")
    kept = {name: before.get(name, getattr(stave, name)) for name in names}
    return Placed(Stave(scene=stave.scene, character_id=stave.character_id, **kept), placed.arrangement, placed)


def _moved(before: list[int], now: list[int]) -> bool:
    """Whether lines that are in both stand in another order."""
    both = set(before) & set(now)
    return [number for number in before if number in both] != [number for number in now if number in both]


def _unlike(one: Iterable[Pin], other: Iterable[Pin]) -> list[range]:
    return [range(pin.frame, pin.end) for pin in {*one} ^ {*other}]


def _follow_arrangement(document: Arrangement, before: dict[str, Any]) -> None:
    """Every mouth track lies where its sound does."""
    was = Arrangement(scene=document.scene, **(document.decided(Arrangement.EDITABLE) | before))
    characters = dict(document.scene.staves.values_list("pk", "character_id"))
    moved = [pk for pk, character in characters.items() if _depends(was, character) != _depends(document, character)]
    staves = document.scene.staves.select_for_update(of=("self",)).select_related("character")
    for stave in staves.filter(pk__in=moved).exclude(cells=b"") if moved else ():
        stave.scene = document.scene
        document.derived_before[stave.area] = stave.derived
        if stave.area in document.to_bring_back:
            stave.bring_back(document.to_bring_back.pop(stave.area))
        else:
            _follow_clips(Placed(stave, was), Placed(stave, document))
        stave.note_moved(_sounds_moved(was, document, stave.character_id))
        stave.version += 1
        stave.save()
        tell_changed(stave)


def _sounds_moved(was: Arrangement, now: Arrangement, character: int) -> set[int]:
    """The sounds of a character that lie elsewhere than they did, or are cut otherwise."""
    before, after = ({(c.source_id, c.start - c.offset, c.offset, c.frames) for c in clips_of(one.value, character)}
                     for one in (was, now))  # fmt: skip
    return {source for source, *_ in before ^ after}


def _depends(arrangement: Arrangement, character: int) -> tuple[Any, ...]:
    """What of an arrangement a character's mouths depend on."""
    value = arrangement.value
    clips = tuple((c.source_id, c.start, c.offset, c.frames) for c in clips_of(value, character))
    return value.frames, clips, marks.speaking(arrangement.the_marks).get(character)


def _follow_clips(old: Placed, now: Placed) -> None:
    """Let the track go with its clips. Does not save."""
    moved, allowed = _moved_frames(old, now), _allowed_otherwise(old, now)
    kept: list[range] = []
    if not now.stave.stale:
        track = _of_length(now)
        now.stave.track, kept = _carried(track, old.clips, now.clips, _edge(now.stave))
    _changed(now, [*moved, *allowed], [*functools.reduce(windows.without, kept, windows.merged(moved)), *allowed])


def carry_over(stave: Stave, track: Track, same: Sequence[tuple[Clip, Clip]]) -> None:
    """Let a track that was planned to the end go with the sounds it follows, which are others now: same, pairs of clips
    before and afterwards on which the very same is heard. Elsewhere it is planned anew. Does not save."""
    placed = placed_now(stave)
    stave.track = track
    whole, now = _of_length(placed), [pair[1] for pair in same if pair[1].start < placed.frames]
    stave.track, kept = _carried(whole, [pair[0] for pair in same], now, _edge(stave))
    anew = functools.reduce(windows.without, kept, [range(placed.frames)])
    stave.stale, stave.open = [], []
    _changed(placed, anew, anew)


def _edge(stave: Stave) -> int:
    """How many frames beside an edge of a clip the mouth may follow from what is heard on the other side."""
    return plan.opening(stave.settings_value) + plan.settling(stave.settings_value)


def _carried(track: Track, old: Sequence[Clip], now: Sequence[Clip], edge: int) -> tuple[Track, list[range]]:
    """The track with what lay on its clips where they are now; and where that is so, and nothing else is heard with it.
    The track is as long as the scene is now."""
    cells, frames = track.cells.copy(), len(track)
    known = {(clip.id, clip.source_id): clip for clip in old}
    once_then, once_now = (_heard_once(clips, frames) for clips in (old, now))
    kept = np.zeros(frames, bool)
    for clip in now:
        own = known.get((clip.id, clip.source_id))
        for was in [own] if own else [one for one in old if one.source_id == clip.source_id]:
            first, last = max(clip.offset, was.offset), min(clip.offset + clip.frames, was.offset + was.frames)
            to, since = first - clip.offset + clip.start, first - was.offset + was.start
            before = max(0, -to, -since)  # What lies before the scene's first frame.
            to, since = to + before, since + before
            count = min(last - first - before, frames - to, frames - since)
            if count > 0 and to != since:
                cells[to : to + count] = track.cells[since : since + count]
                cells[[to, *([to + count] if to + count < frames else [])]] |= 1
            if count > 2 * edge:
                kept[to + edge : to + count - edge] |= once_then[since + edge : since + count - edge]
    return Track(cells, track.drawings), [range(*run) for run in runs(kept & once_now)]


def _heard_once(clips: Iterable[Clip], frames: int) -> NDArray[np.bool_]:
    """(frames,) whether one clip, and no other, is heard there."""
    heard = np.zeros(frames + 1, np.int64)
    for clip in clips:
        heard[min(max(0, clip.start), frames)] += 1
        heard[min(max(0, clip.end), frames)] -= 1
    return np.asarray(np.cumsum(heard)[:-1] == 1)


def _moved_frames(old: Placed, now: Placed) -> list[range]:
    """The frames of the scene on which something else is heard than before, or another drawing is pinned."""
    one, other = ({(c.source_id, c.start, c.offset, c.frames) for c in placed.clips} for placed in (old, now))
    found = [range(start, start + frames) for _, start, _, frames in one ^ other]
    found += _unlike(old.pins.shown, now.pins.shown)
    found += [range(p.frame, p.end) for p in {*old.passages} ^ {*now.passages}]
    if old.frames != now.frames:
        found.append(range(min(old.frames, now.frames) - 1, max(old.frames, now.frames)))
    return found


def _allowed_otherwise(old: Placed, now: Placed) -> list[range]:
    """The frames of the scene on which a mouth may move now, or may not any more."""
    if (old.allowed is None) != (now.allowed is None):
        return [range(max(old.frames, now.frames))]
    spans = {*map(tuple, old.allowed or ())} ^ {*map(tuple, now.allowed or ())}
    return [range(int(start * now.fps) - 1, int(end * now.fps) + 2) for start, end in spans]


def meeting(placed: Placed, gone: range, before: Exposure, after: Exposure) -> int:
    """Return the frame of some at which one exposure best gives way to another by the sound, when nothing else is seen
    on them."""
    frames = range(max(0, gone.start - _BESIDE), min(placed.frames, gone.stop + _BESIDE))
    own, mouths = articulation(placed, frames), mouths_of(placed.stave)
    names = (mouths.planned_as(before.drawing), mouths.planned_as(after.drawing))
    if NOTHING in names:
        return gone.stop
    return plan.meeting(own, mouths.basis, placed.stave.settings_value, gone, names, placed.passages)


def whys(stave: Stave, frame: int) -> list[tuple[str, str]]:
    """Return for each sound that the exposure on a frame is there for, its IPA and why it is not simply shown, or
    ""."""
    placed = plan_in_view(placed_now(stave), range(frame, frame + 1))
    stave, track = placed.stave, placed.stave.track
    found = next(iter(track.exposures(range(frame, frame + 1))), None)
    if found is None:
        return []
    frames = _window(placed, range(found.frame, found.end))
    sounds = sounds_on(placed, frames)
    mouths = mouths_of(stave)
    own, chart, settings = _curves(placed, sounds, frames), mouths.basis, stave.settings_value
    passages = placed.passages
    pins = mouths.pins_in_basis(placed.pins.beginning(frames))
    near = mouths.in_basis(track.exposures(frames))
    numbers = next(
        e.sounds
        for e in with_sounds(near, own, chart, plan.dials(own.frames, own.rate, settings, passages).lead)
        if e.frame <= frame < e.end
    )
    reasons = {seen.sound: seen.reason for seen in plan.explain(near, own, chart, settings, pins, passages, numbers)}
    return [(sounds[number].ipa, reasons.get(number, "")) for number in numbers]


follow(Stave, _follow_stave)
follow(Arrangement, _follow_arrangement)
