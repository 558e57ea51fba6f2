"""A picture of a drawing as it comes: PNG, WebP or SVG, opened with nothing in it believed.

An SVG is checked and then only ever used as the pixels it draws, so that nothing in it can run anywhere.
"""

import io
import re
import warnings
from dataclasses import dataclass
from xml.etree.ElementTree import Element, ParseError

import numpy as np
from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from ..errors import ChartError
from .raster import png

Pixels = NDArray[np.uint8]

MOST_PIXELS = 40_000_000
MOST_BYTES = 30_000_000
MOST_SVG_PARTS = 20_000
SVG_WIDTH = 800
"""An SVG is drawn so wide, in pixels."""

_SEEN = 8
_FAST = 3
_DIGITS = 16
_SHAPELESS = frozenset({"script", "foreignobject", "iframe", "embed", "object", "audio", "video", "image", "feimage"})
_NUMBERS = re.compile(r"-?\d+(?:\.\d+)?(?:e-?\d+)?")


@dataclass(frozen=True, eq=False)
class Picture:
    """A picture that was opened. name: what its file was called, without the ending; pixels: (height, width, 4) red,
    green, blue and alpha, 0 to 255."""

    name: str
    pixels: Pixels

    @property
    def png(self) -> bytes:
        """The picture as a PNG."""
        return self.png_within(max(self.pixels.shape[:2]))

    def png_within(self, side: int) -> bytes:
        """Return the picture as a PNG that is no wider and no higher than a side, in pixels."""
        small, out = self.scaled(min(1.0, side / max(self.pixels.shape[:2]))), io.BytesIO()
        Image.fromarray(small.pixels).save(out, "PNG", compress_level=_FAST)
        return out.getvalue()

    def scaled(self, times: float) -> "Picture":
        """Return the picture so many times as large."""
        if times == 1:
            return self
        height, width = (max(1, round(side * times)) for side in self.pixels.shape[:2])
        return Picture(self.name, _resized(self.pixels, width, height))


def _resized(pixels: Pixels, width: int, height: int) -> Pixels:
    image = Image.fromarray(pixels).convert("RGBa").resize((width, height), Image.Resampling.BOX)
    return np.asarray(image.convert("RGBA"))


def open_picture(file_name: str, data: bytes) -> Picture:
    """Return the picture in a file. ChartError, with a sentence, when it is none that can be used."""
    name = re.sub(r"\.[A-Za-z0-9]{1,5}$", "", file_name) or file_name
    if not data:
        raise ChartError(f"{file_name} is empty; export the drawing again.")
    if len(data) > MOST_BYTES:
        raise ChartError(f"{file_name} has {len(data) / 1e6:.0f} MB; a drawing may have {MOST_BYTES / 1e6:.0f}.")
    pixels = _svg(file_name, data) if _is_svg(data) else _raster(file_name, data)
    if not (pixels[:, :, 3] > _SEEN).any():
        raise ChartError(f"Nothing can be seen in {file_name}; export the drawing with its layers switched on.")
    return Picture(name, pixels)


def _is_svg(data: bytes) -> bool:
    return b"<svg" in data[:4096].lower() or data.lstrip()[:5].lower() == b"<?xml"


def _raster(file_name: str, data: bytes) -> Pixels:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image: Image.Image = Image.open(io.BytesIO(data), formats=("PNG", "WEBP"))
            if image.width * image.height > MOST_PIXELS:
                raise Image.DecompressionBombError
            if getattr(image, "n_frames", 1) > 1:
                raise ChartError(f"{file_name} moves; a drawing is one picture. Export its frames one by one.")
            if image.mode.startswith("I"):
                values = np.asarray(image, np.float64) * (255 / 65535)
                image = Image.fromarray(values.astype(np.uint8))
            return np.asarray(image.convert("RGBA"))
    except (Image.DecompressionBombWarning, Image.DecompressionBombError):
        raise ChartError(
            f"{file_name} is too large; a drawing may have {MOST_PIXELS / 1e6:.0f} million pixels. Make it smaller."
        ) from None
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, EOFError):
        raise ChartError(f"{file_name} is no PNG, WebP or SVG that can be opened; export the drawing again.") from None


def checked_svg(file_name: str, data: bytes) -> Element:
    """Return what is in an SVG, when it is a plain drawing and nothing else. ChartError otherwise."""
    try:
        root: Element = fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise ChartError(f"{file_name} defines entities of its own; export it as a plain SVG.") from None
    except (ParseError, ValueError, LookupError, RecursionError):
        raise ChartError(f"{file_name} is no well-formed SVG; export the drawing again.") from None
    _check_svg(file_name, root)
    return root


def _svg(file_name: str, data: bytes) -> Pixels:
    root = checked_svg(file_name, data)
    width, height = _size(root)
    if not 0.02 < width / height < 50:
        raise ChartError(f"{file_name} is far longer one way than the other; crop it to the drawing.")
    wide = SVG_WIDTH if width >= height else max(1, round(SVG_WIDTH * width / height))
    try:
        drawn = png(data.decode("utf-8-sig"), wide)
        return np.asarray(Image.open(io.BytesIO(drawn)).convert("RGBA"))
    except (ValueError, UnicodeDecodeError, OSError, RuntimeError, Image.DecompressionBombError):
        raise ChartError(f"{file_name} cannot be drawn; export it as a plain SVG or as a PNG.") from None


def _size(root: Element) -> tuple[float, float]:
    """Width and height, from the view box or from the sizes; alike in doubt."""
    found = [float(one) for one in _NUMBERS.findall(root.get("viewBox", ""))[:4]]
    if len(found) == 4 and min(found[2:]) > 0:
        return found[2], found[3]
    sizes = [_NUMBERS.match(root.get(name, "").strip()) for name in ("width", "height")]
    values = [float(one[0]) if one else 0.0 for one in sizes]
    return (values[0], values[1]) if min(values) > 0 else (1.0, 1.0)


def _check_svg(file_name: str, root: Element) -> None:
    """ChartError for anything that is no plain drawing."""
    if _tag(root) != "svg":
        raise ChartError(f"{file_name} is no SVG drawing; export the drawing again.")
    for element in root.iter():
        if _tag(element) in _SHAPELESS:
            raise ChartError(f"{file_name} holds a <{_tag(element)}>; export it with shapes and paths alone.")
        for name, value in element.attrib.items():
            own = name.rpartition("}")[2].lower()
            target = "".join(value.split()).lower()
            if own.startswith("on") or "javascript:" in target:
                raise ChartError(f"{file_name} holds code that would run; export it as a plain SVG.")
            if (own == "href" and not target.startswith("#")) or re.search(r"url\((?!['\"]?#)", target):
                raise ChartError(f"{file_name} needs something that is not in it ({value[:40]}); embed it as shapes.")
        if _tag(element) == "style" and re.search(r"@import|url\((?!\s*['\"]?#)", element.text or "", re.IGNORECASE):
            raise ChartError(f"{file_name} needs a style that is not in it; export it as a plain SVG.")
    _check_expanded(file_name, root)


def _check_expanded(file_name: str, root: Element) -> None:
    """ChartError when all that is drawn, with what is used several times, is more than anybody draws."""
    own = {element.get("id"): element for element in root.iter() if element.get("id")}
    sizes: dict[int, int] = {}

    def size(element: Element, depth: int) -> int:
        if depth > _DIGITS * 4:
            raise ChartError(f"{file_name} is nested too deep; export it as a plain SVG.")
        if id(element) not in sizes:
            sizes[id(element)] = MOST_SVG_PARTS  # what uses itself has no end
            total = 1 + sum(size(child, depth + 1) for child in element)
            if _tag(element) == "use":
                used = own.get(next((v[1:] for k, v in element.attrib.items() if k.endswith("href")), ""))
                total += size(used, depth + 1) if used is not None else 0
            sizes[id(element)] = total
        return sizes[id(element)]

    if size(root, 0) > MOST_SVG_PARTS:
        raise ChartError(f"{file_name} has more than {MOST_SVG_PARTS:,} parts; simplify it, or export it as a PNG.")


def _tag(element: Element) -> str:
    return str(element.tag).rpartition("}")[2].lower()
