"""SVG to pixels, by resvg."""

import io

import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image


def png(svg: str, width: int) -> bytes:
    """Return the picture as a PNG of this width in pixels, transparent where nothing is drawn."""
    return bytes(resvg_py.svg_to_bytes(svg_string=svg, width=width, skip_system_fonts=True))


def pixels(svg: str, width: int, height: int) -> NDArray[np.uint8]:
    """Return the picture on its ground as RGB; (height, width, 3)."""
    image = Image.open(io.BytesIO(png(svg, width))).convert("RGB").resize((width, height))
    return np.asarray(image)
