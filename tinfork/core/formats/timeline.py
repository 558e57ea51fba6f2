"""A shot as an OpenTimelineIO timeline: a track of drawings for each character, its words and lines as markers, and the
sound."""

from fractions import Fraction
from pathlib import Path

import opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange

from ..exposure.track import Exposure
from ..naming import stems
from ..shot.shot import Role, Shot
from ..timebase import frame_at

ROLE = "tinfork"
"""The key of our own metadata."""

_ACTED, _BEAT = otio.schema.MarkerColor.CYAN, otio.schema.MarkerColor.MAGENTA


def document(shot: Shot) -> otio.schema.Timeline:
    """Return the timeline. A drawing is a clip that names it and points at its picture as write_drawings calls it;
    where nothing is shown there is a gap."""
    timeline = otio.schema.Timeline(shot.name, global_start_time=_at(shot.start_frame, shot.rate))
    for role in shot.roles:
        timeline.tracks.append(_track(role, shot))
        timeline.tracks.extend(_switched(role, shot))
    if shot.sound:
        heard = otio.schema.Track("sound", kind=otio.schema.TrackKind.Audio)
        span = TimeRange(_at(0, shot.rate), _at(shot.frames, shot.rate))
        reference = otio.schema.ExternalReference(f"{shot.stem}.wav", available_range=span)
        heard.append(otio.schema.Clip(shot.name, reference, span))
        timeline.tracks.append(heard)
    return timeline


def write(path: Path, shot: Shot) -> None:
    """The timeline as .otio, which is JSON."""
    path.write_text(otio.adapters.write_to_string(document(shot), "otio_json"), encoding="utf-8")


def _at(frame: int, rate: Fraction) -> RationalTime:
    return RationalTime(frame, float(rate))


def _span(first: int, frames: int, rate: Fraction) -> TimeRange:
    return TimeRange(_at(first, rate), _at(frames, rate))


def _track(role: Role, shot: Shot) -> otio.schema.Track:
    track = otio.schema.Track(f"{role.name}, mouth", kind=otio.schema.TrackKind.Video)
    track.metadata[ROLE] = {"character": role.name, "part": "mouth"}
    files = stems(role.drawings)
    for e in role.exposures:
        track.append(_clip(e, role, shot.rate, files))
    for line in role.reading.lines:
        track.markers.append(_marker(line.text, line.start, line.end, shot.rate, "line"))
        for word in line.words:
            if word.said:
                track.markers.append(_marker(word.text, word.start, word.end, shot.rate, "word"))
    track.markers.extend(_beats(role, shot.rate))
    return track


def _switched(role: Role, shot: Shot) -> list[otio.schema.Track]:
    """A track for each part of the face whose drawings change, or that does something: what it does as markers."""
    found = []
    for part in role.face.parts:
        lane = role.lanes.get(part.name)
        if lane is None:
            continue
        track = otio.schema.Track(f"{role.name}, {part.name}", kind=otio.schema.TrackKind.Video)
        track.metadata[ROLE] = {"character": role.name, "part": part.name}
        for e in lane.track(part.rest) if part.drawings else ():
            if e.drawing:
                clip = otio.schema.Clip(e.drawing, otio.schema.MissingReference(), _span(0, e.frames, shot.rate))
                clip.metadata[ROLE] = {"pinned": e.pinned}
                track.append(clip)
            else:
                track.append(otio.schema.Gap(duration=_at(e.frames, shot.rate)))
        for one in lane.gestures:
            if one.amount and one.end > 0:
                first = max(0, one.frame)
                span = _span(first, one.end - first, shot.rate)
                about = {"kind": one.gesture.kind, "accepted": one.gesture.accepted}
                track.markers.append(otio.schema.Marker(one.gesture.kind, span, _ACTED, {ROLE: about}))
        for dial, keys in lane.keys.items():
            for frame, value in zip(keys.frames, keys.values, strict=True):
                if 0 <= frame < shot.frames:
                    about = {"kind": "key", "dial": dial, "value": value}
                    track.markers.append(otio.schema.Marker(dial, _span(frame, 1, shot.rate), _ACTED, {ROLE: about}))
        found.append(track)
    return found


def _beats(role: Role, rate: Fraction) -> list[otio.schema.Marker]:
    """What is said of phrases, and their key moments."""
    found = []
    for beat in role.beats:
        if beat.note:
            span = _span(beat.frame, max(1, beat.end - beat.frame), rate)
            found.append(otio.schema.Marker(beat.note, span, _BEAT, {ROLE: {"kind": "beat"}}))
        for frame in beat.moments:
            found.append(otio.schema.Marker("key moment", _span(frame, 1, rate), _BEAT, {ROLE: {"kind": "moment"}}))
    return found


def _clip(e: Exposure, role: Role, rate: Fraction, files: dict[str, str]) -> otio.core.Item:
    if not e.drawing:
        return otio.schema.Gap(duration=_at(e.frames, rate))
    still = f"{role.stem}/drawings/{files[e.drawing]}.png"
    reference = otio.schema.ExternalReference(still, available_range=_span(0, e.frames, rate))
    clip = otio.schema.Clip(e.drawing, reference, _span(0, e.frames, rate))
    clip.metadata[ROLE] = {"shape": role.chart.shape_of(e.drawing), "pinned": e.pinned}
    return clip


def _marker(text: str, start: float, end: float, rate: Fraction, kind: str) -> otio.schema.Marker:
    first = max(0, frame_at(start, rate))
    span = _span(first, max(1, frame_at(end, rate) - first), rate)
    colour = otio.schema.MarkerColor.GREEN if kind == "line" else otio.schema.MarkerColor.YELLOW
    return otio.schema.Marker(text, span, colour, {ROLE: {"kind": kind}})
