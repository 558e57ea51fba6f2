"""What somebody asks for when they hand a scene over, checked; and what will come of it, before it is made."""

from typing import Annotated, Any, TypeVar

from msgspec import Meta, Struct, structs

from tinfork.core.errors import HandoverError
from tinfork.core.formats.options import taken
from tinfork.core.formats.registry import FORMATS, How
from tinfork.core.limits import MAX_CAST, MAX_SCENE_FRAMES
from tinfork.core.naming import file_stem, folders, stems
from tinfork.core.shot.stage import Look, Spot
from tinfork.web.edits.requests import Integer, Number
from tinfork.web.productions.models import Scene
from tinfork.web.staves.models import Stave

from .models import Version
from .roles import staves_of

T = TypeVar("T")

MOST_SCENES = 400
MOST_LISTED = 60
"""So many files are listed by name before they are made."""


class SpotWish(Struct, frozen=True, forbid_unknown_fields=True):
    """Where a character's face stands: see tinfork.core.shot.stage.Spot."""

    character: Integer
    x: Number
    y: Number
    height: Number


class Wish(Struct, frozen=True, forbid_unknown_fields=True):
    """What is to be handed over, as a page asks for it. kinds: of tinfork.core.formats.registry.FORMATS; scenes:
    others beside the one that is asked of; characters: by their numbers, all where none is named; together: everybody
    in one picture, else each alone; first, end: scene frames from and to, as they are numbered, None for the whole;
    version: the number of one that was shown for review, 0 for each scene as it is; options: what formats are asked,
    by their names, as their own options have it; joined: whether the films of several scenes are one, each scene after
    a slate if slates says so; folders: how the folder of each scene is called in one ZIP of all that is made
    (tinfork.core.naming.folders), "" for a file each; the rest: see Look of the core."""

    kinds: Annotated[list[str], Meta(max_length=40)] = []
    scenes: Annotated[list[Integer], Meta(max_length=MOST_SCENES)] = []
    characters: Annotated[list[Integer], Meta(max_length=MAX_CAST)] = []
    together: bool = False
    first: Integer | None = None
    end: Integer | None = None
    version: Integer = 0
    joined: bool = False
    slates: bool = True
    folders: Annotated[str, Meta(max_length=120)] = ""
    width: Integer = 1280
    height: Integer = 720
    background: Annotated[str, Meta(max_length=40)] = ""
    mouth: bool = False
    burnt: Annotated[list[str], Meta(max_length=3)] = []
    film: bool = False
    backdrop: bool = False
    options: Annotated[dict[str, dict[str, str | Integer]], Meta(max_length=40)] = {}
    spots: Annotated[list[SpotWish], Meta(max_length=MAX_CAST)] = []

    def how(self, names: dict[int, str]) -> How:
        """Return how it is to look, and what the formats are asked, as the core takes it. names: of the characters,
        by their numbers. HandoverError for a spot outside the picture, or options that a format does not have."""
        for spot in self.spots:
            if not (-1 <= spot.x <= 9 and -1 <= spot.y <= 2 and 0.02 <= spot.height <= 4):
                raise HandoverError("A face stands in the picture, and is 0.02 to 4 times as high as it.")
        spots = {names[one.character]: Spot(one.x, one.y, one.height) for one in self.spots if one.character in names}
        look = Look(
            self.width, self.height, self.background, self.mouth, spots, tuple(self.burnt), self.film, self.backdrop
        )
        return How(look, {kind: taken(FORMATS[kind].options, self.options.get(kind, {})) for kind in self.kinds})

    def check(self) -> None:
        """HandoverError where nothing, or nothing that there is, is asked for."""
        if not self.kinds:
            raise HandoverError("Choose what to make first.")
        for kind in self.kinds:
            if kind not in FORMATS:
                raise HandoverError(f"There is no format “{kind[:20]}”; reload the page.")
        if self.first is not None and self.end is not None and self.end < self.first:
            raise HandoverError("The range ends before it begins; set its first and last frame anew.")
        if self.folders:
            folders(self.folders, [])

    @property
    def joins(self) -> list[str]:
        """Which of the kinds are made once of all scenes."""
        return [kind for kind in self.kinds if self.joined and self.scenes and FORMATS[kind].codec]

    @property
    def alone(self) -> list[str]:
        """Which are made of each scene."""
        return [kind for kind in self.kinds if kind not in self.joins]

    def frames(self, scene: Scene) -> range:
        """Return the frames of a scene that are asked for, counted from its first."""
        first = 0 if self.first is None else max(0, self.first - scene.start_frame)
        end = MAX_SCENE_FRAMES if self.end is None else max(0, self.end - scene.start_frame + 1)
        return range(first, end)


def chosen(wish: Wish, scene: Scene) -> list[Stave]:
    """Return the staves of a scene that are handed over. HandoverError where nobody has a mouth track."""
    found = [one for one in staves_of(scene) if not wish.characters or one.character_id in wish.characters]
    if not found:
        raise HandoverError(f"Nobody who is chosen has mouths in “{scene.name}” yet; read its sound first.")
    return found


def version_of(wish: Wish, scene: Scene) -> Version:
    """Return the version of a scene that is wished for. HandoverError where there is none."""
    found = scene.shown_versions.filter(number=wish.version).first()
    if found is None or wish.scenes:
        raise HandoverError("There is no such version of what is chosen; choose one scene, and a version of it.")
    return found


def scene_as_wished(wish: Wish, scene: Scene) -> Scene:
    """Return the scene as it was numbered in the version that is wished for; not to be saved."""
    return version_of(wish, scene).scene_then(scene) if wish.version else scene


def parts(wish: Wish, everybody: list[T]) -> list[list[T]]:
    """Return who is together in a file."""
    return [everybody] if wish.together and len(everybody) > 1 else [[one] for one in everybody]


def files(wish: Wish, scene: Scene) -> list[dict[str, Any]]:
    """Return the files that will be made of a scene: their names, and of sequences the first and last picture's."""
    wish.check()
    names, length = _who_and_length(wish, scene)
    scene = scene_as_wished(wish, scene)
    how = wish.how(names)
    asked = wish.frames(scene)
    span = range(asked.start, min(asked.stop, length))
    if not span:
        raise HandoverError("This range has no frame of the scene; set its first and last frame anew.")
    numbered = range(scene.start_frame + span.start, scene.start_frame + span.stop)
    found = []
    for kind in wish.alone:
        for together in parts(wish, list(names.values())):
            name = called(kind, scene, together, list(names.values()))
            row: dict[str, Any] = {"name": name, "about": FORMATS[kind].about}
            if inside := FORMATS[kind].inside:
                who = together[0] if len(together) == 1 else scene.name
                row["inside"] = inside(numbered, who, scene.name, how.options[kind])
            found.append(row)
    return found


def joined_files(wish: Wish, scene: Scene) -> list[dict[str, Any]]:
    """Return the films that are made of all scenes at once."""
    stem = file_stem(scene.production.name)
    return [
        {"name": f"{stem}_film{FORMATS[kind].suffix}", "about": f"{FORMATS[kind].about}; all scenes in one"}
        for kind in wish.joins
    ]


def packed_in(wish: Wish, scene: Scene) -> str:
    """Return what the ZIP is called in which everything lies by folders; "" where nothing is packed."""
    return f"{file_stem(scene.production.name)}_shots.zip" if wish.folders else ""


def _who_and_length(wish: Wish, scene: Scene) -> tuple[dict[int, str], int]:
    """Who is handed over, by the numbers of their characters, and how many frames there are to choose from."""
    if wish.version:
        found = version_of(wish, scene)
        names = {int(number): name for number, name in found.who.items()}
        return {n: name for n, name in names.items() if not wish.characters or n in wish.characters}, found.frames
    staves = chosen(wish, scene)
    return {stave.character_id: stave.character.name for stave in staves}, staves[0].arrangement.value.frames


def called(kind: str, scene: Scene, together: list[str], names: list[str]) -> str:
    """Return what a file is called in which these are together, whoever else of all these names has the same but for
    signs that file names cannot have."""
    who = f"_{stems(names)[together[0]]}" if len(together) == 1 else ""
    return f"{file_stem(scene.name)}{who}{FORMATS[kind].suffix}"


def as_now(wish: dict[str, Any]) -> dict[str, Any]:
    """Return a wish that an earlier version kept, as it is kept now: how pictures are called was no option of a
    format."""
    if "pattern" not in wish:
        return wish
    return {name: own for name, own in wish.items() if name != "pattern"} | {
        "options": {"png": {"pattern": wish["pattern"]}}
    }


def without_scene(wish: Wish) -> Wish:
    """Return what of a wish a preset keeps."""
    return structs.replace(wish, scenes=[], characters=[], first=None, end=None, version=0, joined=False, spots=[])
