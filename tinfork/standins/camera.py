"""A simulated camera: takes a frame when told and keeps a made-up picture of it. See docs/formats.md for how it is
asked.

python -m tinfork.standins.camera PORT FOLDER
"""

import argparse
import json
import math
import re
import threading
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

SIZE = (640, 360)
_SKY, _SEA, _PIER, _COAT, _HEAD, _INK = "#b9c4c1", "#5f7f83", "#6d5a48", "#2f4a57", "#e3c3a5", "#22302f"
_SHUTTER = threading.Lock()
"""One picture is taken at a time."""
_FRAME = re.compile(r"/([\w-]{1,40})/frames(?:/(\d{1,7})(\.jpg)?)?")


def picture(frame: int, takes: int) -> Image.Image:
    """Return what stood before the camera: somebody at the pier who waves, a little further with each frame."""
    image = Image.new("RGB", SIZE, _SKY)
    draw = ImageDraw.Draw(image)
    draw.rectangle((0, 230, 640, 360), fill=_SEA)
    draw.rectangle((60, 250, 580, 275), fill=_PIER)
    sway = 18 * math.sin(frame / 5)
    draw.polygon(((280, 250), (360, 250), (340 + sway, 130), (300 + sway, 130)), fill=_COAT)
    draw.ellipse((288 + sway, 70, 352 + sway, 138), fill=_HEAD, outline=_INK, width=2)
    angle = math.radians(-30 + 35 * math.sin(frame / 3))
    shoulder = (338 + sway, 150)
    hand = (shoulder[0] + 90 * math.cos(angle), shoulder[1] + 90 * math.sin(angle))
    draw.line((*shoulder, *hand), fill=_COAT, width=16)
    said = f"{frame}" + (f", take {takes}" if takes > 1 else "")
    draw.text((14, 10), said, fill=_INK, font=ImageFont.load_default(28))
    return image


class Camera(BaseHTTPRequestHandler):
    """Answers what a camera is asked; its pictures lie in a folder for each scene."""

    folder: Path

    def do_POST(self) -> None:
        """Take a frame: POST /SCENE/frames/NUMBER."""
        asked = _FRAME.fullmatch(self.path)
        if not asked or not asked[2] or asked[3]:
            return self._say(HTTPStatus.NOT_FOUND, {"problem": "No frame is asked for."})
        place, frame = self.folder / asked[1], int(asked[2])
        place.mkdir(parents=True, exist_ok=True)
        with _SHUTTER:
            takes = self._taken(place).get(frame, 0) + 1
            picture(frame, takes).save(place / f"{frame}-{takes}.jpg", quality=85)
        return self._say(HTTPStatus.CREATED, {"frame": frame, "takes": takes})

    def do_GET(self) -> None:
        """What was taken: GET /SCENE/frames; the last picture of a frame: GET /SCENE/frames/NUMBER.jpg."""
        asked = _FRAME.fullmatch(self.path)
        taken = self._taken(self.folder / asked[1]) if asked else {}
        if asked and not asked[2]:
            return self._say(HTTPStatus.OK, {"frames": taken})
        frame = int(asked[2]) if asked and asked[3] else -1
        if asked is None or frame not in taken:
            return self._say(HTTPStatus.NOT_FOUND, {"problem": "That frame was not taken."})
        return self._answer(
            HTTPStatus.OK, "image/jpeg", (self.folder / asked[1] / f"{frame}-{taken[frame]}.jpg").read_bytes()
        )

    def log_message(self, format: str, *args: object) -> None:
        """A camera is silent."""

    @staticmethod
    def _taken(place: Path) -> dict[int, int]:
        taken: dict[int, int] = {}
        for path in place.glob("*-*.jpg"):
            frame, takes = (int(part) for part in path.stem.split("-"))
            taken[frame] = max(takes, taken.get(frame, 0))
        return taken

    def _say(self, status: HTTPStatus, what: object) -> None:
        self._answer(status, "application/json", json.dumps(what).encode())

    def _answer(self, status: HTTPStatus, kind: str, body: bytes) -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)


def camera(port: int, folder: Path) -> ThreadingHTTPServer:
    """Return a camera at a port of this machine (0: any that is free), not yet at work."""
    handler = type("CameraHere", (Camera,), {"folder": folder})
    return ThreadingHTTPServer(("127.0.0.1", port), handler)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=(__doc__ or "").splitlines()[0])
    parser.add_argument("port", type=int)
    parser.add_argument("folder", type=Path)
    given = parser.parse_args()
    camera(given.port, given.folder).serve_forever()
