"""What parts of faces do, in words, for a sheet: gestures as they begin, drawings as they change, key moments."""

from .shot import Role

_PLAIN = ("blink", "brows")


def begun(role: Role, whose: bool = False) -> dict[int, list[str]]:
    """Return for each frame what begins on it. whose: whether it says the character's name."""
    found: dict[int, list[str]] = {}

    def put(frame: int, text: str) -> None:
        own = f"{role.name}: {text}" if whose else text
        if own not in found.setdefault(max(0, frame), []):
            found[max(0, frame)].append(own)

    for beat in role.beats:
        if beat.note:
            put(beat.frame, f"“{beat.note}”")
        for frame in beat.moments:
            put(frame, "key moment")
    for part in role.face.parts:
        lane = role.lanes.get(part.name)
        if lane is None:
            continue
        for one in lane.gestures:
            if one.amount:
                put(
                    one.frame,
                    one.gesture.kind if one.gesture.kind in ("blink", "brows") else f"{part.name} {one.gesture.kind}",
                )
        for pin in lane.shows:
            put(pin.frame, f"{part.name}: {pin.drawing or 'nothing'}")
        keyed = sorted({frame for keys in lane.keys.values() for frame in keys.frames})
        for frame in keyed:
            if frame >= 0:
                put(frame, f"{part.name} key")
    return found
