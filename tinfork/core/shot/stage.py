"""What is seen on each frame of a shot, as pictures: mouths alone, faces, or everybody together."""

import io
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Generic, TypeVar, overload

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageColor, ImageDraw, ImageFont

from ..errors import HandoverError
from ..exposure.track import Exposure
from ..mouths.draw import BOX, alone
from ..mouths.face import VIEW, on_face
from ..mouths.raster import png
from ..timebase import scene_timecode
from .behind import Behind
from .flowing import flowing
from .puppet import Poses, Puppet
from .shot import Role, Shot

T = TypeVar("T")

Picture = NDArray[np.uint8]
"""(height, width, 4) RGBA."""

MOST_WIDE, LEAST_WIDE = 4096, 16
Key = tuple[str, str, float, int]
"""Of a role the drawing before, the one after, the share of that, and the number of what its parts do, 0 for rest."""

Progress = Callable[[float], None]
"""Told, as work goes on, the share of it that is done."""

_MOST_KEPT, _MOST_PIXELS_KEPT = 64, 80_000_000

BURNT = ("frame", "timecode", "words")
_BURN_SHARE = 22


@dataclass(frozen=True)
class Spot:
    """Where a face stands in a picture of several: its middle, and how high it is, in shares of the picture's height
    from its left top corner."""

    x: float
    y: float
    height: float


@dataclass(frozen=True)
class Look:
    """What pictures of a scene look like. width, height: pixels, even; background: a CSS colour, "" to let through
    what lies under it; mouth: whether mouths alone are shown, on their canvas, else faces; spots: where the faces
    stand, by their characters' names; burnt: what of BURNT is written into the picture; film: whether the shot's
    reference film lies behind everybody; backdrop: whether its picture does, under the film where there are both."""

    width: int = 1280
    height: int = 720
    background: str = ""
    mouth: bool = False
    spots: Mapping[str, Spot] = field(default_factory=dict)
    burnt: tuple[str, ...] = ()
    film: bool = False
    backdrop: bool = False

    def __post_init__(self) -> None:
        for side in (self.width, self.height):
            if not LEAST_WIDE <= side <= MOST_WIDE or side % 2:
                raise HandoverError(f"A picture is {LEAST_WIDE} to {MOST_WIDE} pixels wide and high, and even.")
        if self.background:
            try:
                ImageColor.getrgb(self.background)
            except ValueError:
                raise HandoverError("The background is a colour such as #f4f1ea, or none.") from None
        if set(self.burnt) - set(BURNT):
            raise HandoverError("Frame number, timecode and words can be written into the picture.")


def pictures_kept(look: Look) -> int:
    """So many whole pictures are kept to be shown again."""
    return max(1, min(_MOST_KEPT, _MOST_PIXELS_KEPT // (look.width * look.height)))


def side_by_side(roles: Sequence[Role], look: Look) -> dict[str, Spot]:
    """Return where faces stand when nobody placed them: side by side, as large as they fit."""
    wide = look.width / look.height / len(roles)
    height = min(1.0, wide * VIEW[3] / VIEW[2])
    return {role.name: Spot((at + 0.5) * wide, 0.5, height) for at, role in enumerate(roles)}


class Frames(Sequence[Picture]):
    """The picture of each frame of a shot. Each drawing is drawn once, and each whole picture kept a while."""

    def __init__(self, shot: Shot, look: Look) -> None:
        self.shot, self.look = shot, look
        spots = side_by_side(shot.roles, look) | dict(look.spots)
        self._casts = [_Cast(flowing(role), look, spots[role.name]) for role in shot.roles]
        self._whole = lru_cache(pictures_kept(look))(self._composed)
        self._film = Behind(shot.film, shot.rate, (look.width, look.height)) if look.film and shot.film else None
        self._backdrop = fitted(shot.backdrop.pixels, look) if look.backdrop and shot.backdrop else None

    def __len__(self) -> int:
        return self.shot.frames

    @overload
    def __getitem__(self, frame: int) -> Picture: ...
    @overload
    def __getitem__(self, frame: slice) -> list[Picture]: ...
    def __getitem__(self, frame: int | slice) -> Picture | list[Picture]:
        if isinstance(frame, slice):
            return [self[one] for one in range(*frame.indices(len(self)))]
        seen = self._over_film(frame) if self._film else self._whole(self.key(frame))
        return self._burnt(seen, frame) if self.look.burnt else seen

    def key(self, frame: int) -> tuple[Key, ...]:
        """Return what tells pictures apart, but for what is burnt in."""
        return tuple(cast.key(frame) for cast in self._casts)

    def token(self, frame: int) -> Hashable:
        """Return the same for frames that show the same picture."""
        return (self.key(frame), frame if self.look.burnt or self._film else None)

    @property
    def clear(self) -> bool:
        """Whether what lies under it shines through."""
        return not (self.look.background or self._film or self._backdrop)

    def turns(self) -> list[int]:
        """Return the frames on which another picture is seen than on the one before."""
        return [n for n in range(len(self)) if n == 0 or self.token(n) != self.token(n - 1)]

    def _composed(self, key: tuple[Key, ...]) -> Picture:
        image = self._ground()
        self._put_cast(image, key)
        return np.asarray(image)

    def _ground(self) -> Image.Image:
        """What lies behind everybody, but for a film; black where a film or a picture leaves something free."""
        colour = self.look.background or ("#00000000" if self.clear else "black")
        image = Image.new("RGBA", (self.look.width, self.look.height), colour)
        if self._backdrop:
            _put_in_the_middle(image, self._backdrop)
        return image

    def _put_cast(self, image: Image.Image, key: tuple[Key, ...]) -> None:
        for cast, own in zip(self._casts, key, strict=True):
            image.alpha_composite(cast.seen(*own), cast.corner)

    def _over_film(self, frame: int) -> Picture:
        assert self._film
        image, behind = self._ground(), self._film.picture(frame)
        if behind:
            _put_in_the_middle(image, behind.convert("RGBA"))
        self._put_cast(image, self.key(frame))
        return np.asarray(image)

    def _burnt(self, seen: Picture, frame: int) -> Picture:
        shot, size = self.shot, max(10, self.look.height // _BURN_SHARE)
        image = Image.fromarray(seen)
        said = {
            "frame": str(frame + shot.start_frame),
            "timecode": scene_timecode(frame, shot.start_frame, shot.rate),
            "words": " ".join(shot.said_on(frame)),
        }
        draw, font = ImageDraw.Draw(image), ImageFont.load_default(size)
        where = (size // 2, self.look.height - size // 2)
        text = "   ".join(said[one] for one in BURNT if one in self.look.burnt)
        draw.text(where, text, "white", font, "ls", stroke_width=max(1, size // 8), stroke_fill="black")
        return np.asarray(image)


class MadeOnce(Generic[T]):
    """What is made of each frame's picture, once for those that show the same, as long as there is room."""

    def __init__(self, frames: Frames, make: Callable[[Picture], T]) -> None:
        self._frames, self._make = frames, make
        self._known: dict[Hashable, T] = {}

    def of(self, frame: int) -> T:
        """Return what was made of a frame's picture."""
        token = self._frames.token(frame)
        if token not in self._known:
            if len(self._known) >= pictures_kept(self._frames.look):
                self._known.clear()
            self._known[token] = self._make(self._frames[frame])
        return self._known[token]


def fitted(pixels: Picture, look: Look) -> Image.Image:
    """Return a picture as large as it fits into what is made."""
    height, width = pixels.shape[:2]
    share = min(look.width / width, look.height / height)
    size = (max(1, round(width * share)), max(1, round(height * share)))
    return Image.fromarray(pixels).convert("RGBa").resize(size, Image.Resampling.LANCZOS).convert("RGBA")


def _put_in_the_middle(image: Image.Image, own: Image.Image) -> None:
    image.alpha_composite(own, ((image.width - own.width) // 2, (image.height - own.height) // 2))


class _Cast:
    """One role in the picture."""

    def __init__(self, role: Role, look: Look, spot: Spot) -> None:
        self._role, self._mouth = role, look.mouth
        view = BOX if look.mouth else VIEW
        height = max(2, round(spot.height * look.height))
        width = max(2, round(height * view[2] / view[3]))
        if look.mouth and width > look.width:
            width, height = look.width, round(look.width * view[3] / view[2])
        self.size = (width, height)
        left, top = round(spot.x * look.height - width / 2), round(spot.y * look.height - height / 2)
        self.corner = (max(0, left), max(0, top))
        self._cut = (max(0, -left), max(0, -top))
        self._room = (look.width - self.corner[0], look.height - self.corner[1])
        self._exposures = list(role.on_each_frame())
        self._drawn: dict[str, Image.Image] = {}
        self._blended = lru_cache(pictures_kept(look))(self._blend)
        self._puppet = None if look.mouth or not role.acts else Puppet(role.face, role.drawn, self.size)
        self._poses: list[Poses] = [{}]
        self._numbers: dict[str, int] = {repr({}): 0}
        self._posed = lru_cache(pictures_kept(look))(self._pose)

    def key(self, frame: int) -> Key:
        """Return what is seen on a frame; after the end of the track its last drawing."""
        posed = self._number(min(frame, len(self._exposures) - 1)) if self._puppet else 0
        blend = self._role.blends.get(frame)
        if blend:
            return (blend.before.drawing, blend.after.drawing, round(blend.weight, 3), posed)
        own: Exposure = self._exposures[min(frame, len(self._exposures) - 1)]
        return (own.drawing, "", 0.0, posed)

    def _number(self, frame: int) -> int:
        """The number of what the parts do on a frame: the same for the same."""
        poses = self._role.poses[frame]
        number = self._numbers.setdefault(repr(poses), len(self._poses))
        if number == len(self._poses):
            self._poses.append(poses)
        return number

    def seen(self, drawing: str, after: str, share: float, posed: int) -> Image.Image:
        """Return the role alone, as far as it is in the picture."""
        if posed:
            return self._posed(drawing, after, share, posed)
        return self._blended(drawing, after, share) if share else self._picture_of(drawing)

    def _pose(self, drawing: str, after: str, share: float, posed: int) -> Image.Image:
        assert self._puppet
        return self._in_picture(self._puppet.picture(drawing, after, share, self._poses[posed]))

    def _in_picture(self, whole: Image.Image) -> Image.Image:
        """What of the role's own picture is in the whole."""
        left, top = self._cut
        right = max(left, min(self.size[0], left + self._room[0]))
        bottom = max(top, min(self.size[1], top + self._room[1]))
        return whole.crop((left, top, right, bottom))

    def _blend(self, drawing: str, after: str, share: float) -> Image.Image:
        return Image.blend(self._picture_of(drawing), self._picture_of(after), share)

    def _picture_of(self, drawing: str) -> Image.Image:
        if drawing not in self._drawn:
            svg = self._role.drawn[drawing]
            whole = Image.open(
                io.BytesIO(png(alone(svg) if self._mouth else on_face(self._role.face, svg), self.size[0]))
            )
            self._drawn[drawing] = self._in_picture(whole.convert("RGBA").resize(self.size))
        return self._drawn[drawing]
