"""Mouths drawn for tests alone, in styles that are not the generator's: flat colours, or lines."""

import io
from functools import cache

import numpy as np
from PIL import Image, ImageDraw

from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES

S = 4
WIDTH, HEIGHT = 300, 260
INK, LIP, DARK = (30, 30, 40, 255), (190, 90, 90, 255), (60, 20, 30, 255)
WHITE, TONGUE = (250, 250, 245, 255), (220, 120, 130, 255)


@cache
def flat(place):
    """A mouth in flat colours without an outline, (height, width, 4)."""
    a, image, draw, half, drop = _begun(place)
    x, y = WIDTH * S // 2, HEIGHT * S // 3
    lip = 8.4 * S * (1 - 0.75 * max(0, (a["press"] - 0.25) / 0.75))
    box = [x - half, y - drop * 0.1, x + half, y + drop * 0.9]
    draw.ellipse([box[0] - lip, box[1] - lip, box[2] + lip, box[3] + lip], fill=LIP)
    if a["jaw"] < 0.06:
        draw.line([(x - half, y), (x + half, y)], fill=INK, width=5 * S)
        return _done(image)
    hole = Image.new("L", image.size, 0)
    ImageDraw.Draw(hole).ellipse(box, fill=255)
    inside = Image.new("RGBA", image.size, WHITE if a["tuck"] > 0.5 else DARK)
    own = ImageDraw.Draw(inside)
    if a["tongue"] > 0.1:
        top = box[3] - drop * (0.15 + 0.45 * a["tongue"])
        own.ellipse([x - half * 0.65, top, x + half * 0.65, top + drop], fill=TONGUE)
    if a["upper_teeth"] > 0.1:
        own.rectangle([0, 0, WIDTH * S, box[1] + min(22 * a["upper_teeth"] * S, drop * 0.5)], fill=WHITE)
    if a["lower_teeth"] > 0.1:
        own.rectangle([0, box[3] - min(15 * a["lower_teeth"] * S, drop * 0.46), WIDTH * S, HEIGHT * S], fill=WHITE)
    image.paste(inside, (0, 0), hole)
    return _done(image)


def flat_bar():
    """Shut lips as one flat bar, which measuring takes for a slit that is open."""
    pixels = np.zeros((HEIGHT, WIDTH, 4), np.uint8)
    pixels[80:98, 90:210] = DARK
    return pixels


def lines(place):
    """A mouth of one outline, with a line for the teeth and a hump for the tongue."""
    a, image, draw, half, drop = _begun(place)
    x, y, thick = WIDTH * S // 2, HEIGHT * S // 3, 5 * S
    if a["jaw"] < 0.06:
        if a["press"] > 0.5:
            draw.line([(x - half, y), (x + half, y)], fill=INK, width=thick * 2)
        else:
            draw.arc([x - half, y - 20 * S, x + half, y + 10 * S], 20, 160, fill=INK, width=thick)
        return _done(image)
    box = [x - half, y - drop * 0.1, x + half, y + drop * 0.9]
    hole, inside = Image.new("L", image.size, 0), Image.new("RGBA", image.size, (0, 0, 0, 0))
    ImageDraw.Draw(hole).ellipse(box, fill=255)
    own = ImageDraw.Draw(inside)
    if a["upper_teeth"] > 0.1:
        at = box[1] + min(20 * a["upper_teeth"] * S, drop * 0.5)
        own.line([(0, at), (WIDTH * S, at)], fill=INK, width=thick // 2)
    if a["tongue"] > 0.1:
        top = box[3] - drop * (0.15 + 0.45 * a["tongue"])
        own.ellipse([x - half * 0.6, top, x + half * 0.6, top + drop], outline=INK, width=thick // 2)
    image.paste(inside, (0, 0), Image.fromarray(np.minimum(np.asarray(hole), np.asarray(inside)[:, :, 3])))
    draw.ellipse(box, outline=INK, width=thick)
    return _done(image)


def png(pixels):
    """Pixels as the bytes of a PNG."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


@cache
def flat_png(shape):
    """A shape in flat colours as the bytes of a PNG."""
    return png(flat(SHAPES[shape].place))


def _begun(place):
    a = dict(zip(ARTICULATORS, place, strict=True))
    image = Image.new("RGBA", (WIDTH * S, HEIGHT * S), (0, 0, 0, 0))
    half = (30 + 70 * a["width"]) * (1 - 0.5 * a["rounding"]) * S
    return a, image, ImageDraw.Draw(image), half, 110 * a["jaw"] * S


def _done(image):
    return np.asarray(image.resize((WIDTH, HEIGHT), Image.Resampling.LANCZOS))
