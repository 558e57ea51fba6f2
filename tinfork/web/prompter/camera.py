"""The camera, where one is connected: it is asked by this server, never by a browser. How: docs/formats.md."""

import io
import json
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from http.client import HTTPException
from typing import Any

from django.conf import settings
from PIL import Image

from tinfork.core.errors import TinForkError
from tinfork.web.productions.models import Scene

_SECONDS = 10
_LARGEST = 20 * 1024 * 1024
_WIDE = 960


class CameraError(TinForkError):
    """The camera did not do what it was asked."""


def connected() -> bool:
    """Return whether there is a camera at all."""
    return bool(settings.CAMERA)


def take(scene: Scene, frame: int) -> int:
    """Have a frame taken, counted as the camera counts: from the scene's start frame on. How often it was now."""
    said = _asked(scene, f"/{scene.start_frame + frame}", "POST")
    with _understood():
        return int(json.loads(said)["takes"])


def taken(scene: Scene) -> dict[int, int]:
    """Return how often each frame was taken, by its number from 0."""
    said = _asked(scene)
    with _understood():
        frames = json.loads(said)["frames"]
        found = {int(frame) - scene.start_frame: int(takes) for frame, takes in frames.items()}
    return {frame: takes for frame, takes in found.items() if frame >= 0}


@contextmanager
def _understood() -> Iterator[None]:
    try:
        yield
    except (ValueError, KeyError, TypeError, AttributeError):
        raise CameraError("The camera says something that is not understood; look at it.") from None


def picture(scene: Scene, frame: int) -> bytes:
    """Return the last picture of a frame as a JPEG of our making, at most 960 wide."""
    try:
        with Image.open(io.BytesIO(_asked(scene, f"/{scene.start_frame + frame}.jpg")), formats=["JPEG"]) as found:
            found.draft("RGB", (_WIDE, _WIDE))
            small = found.convert("RGB")
    except (OSError, ValueError, Image.DecompressionBombError):
        raise CameraError("The camera gave something that is no picture; look at it.") from None
    small.thumbnail((_WIDE, _WIDE))
    made = io.BytesIO()
    small.save(made, "JPEG", quality=80)
    return made.getvalue()


def _asked(scene: Scene, what: str = "", method: str = "GET") -> bytes:
    if not connected():
        raise CameraError("No camera is connected.")
    request = urllib.request.Request(f"{settings.CAMERA}/{scene.pk}/frames{what}", method=method)
    try:
        with urllib.request.urlopen(request, timeout=_SECONDS) as answer:
            data: Any = answer.read(_LARGEST + 1)
    except urllib.error.HTTPError as refused:
        raise CameraError(f"The camera refused ({refused.code}); look at it, then do it again.") from None
    except (OSError, HTTPException):
        raise CameraError("The camera does not answer; look at it and its cable, then do it again.") from None
    if len(data) > _LARGEST:
        raise CameraError("The camera's picture is larger than 20 MB; have it take smaller ones for looking at.")
    return bytes(data)
