"""An SVG that holds a drawing in each of its layers, taken apart."""

import re
from xml.etree.ElementTree import Element, tostring

from ..errors import ChartError
from ..limits import MAX_DRAWINGS
from .picture import Picture, checked_svg, open_picture

_LEAST = 2


def by_layers(file_name: str, data: bytes) -> list[Picture]:
    """Return a picture for each group of an SVG, all on its canvas, so that they stay where they lie; groups that
    are switched off are drawn as well. What is in no group is behind all of them. ChartError where there is but one
    group."""
    root = checked_svg(file_name, data)
    within = _that_holds_layers(root)
    layers = [child for child in within if _is_group(child)]
    if len(layers) < _LEAST:
        raise ChartError(f"{file_name} has no layers; put each drawing into a layer or group of its own.")
    if len(layers) > MAX_DRAWINGS:
        raise ChartError(f"{file_name} has {len(layers)} layers; a chart has {MAX_DRAWINGS} drawings at the most.")
    everything = list(within)
    found = []
    for number, own in enumerate(layers, 1):
        within[:] = [child for child in everything if child is own or not _is_group(child)]
        picture = _switched_on(root, own, f"layer {number}")
        if picture is not None:
            found.append(picture)
    if not found:
        raise ChartError(f"Nothing can be seen in the layers of {file_name}.")
    return found


def _that_holds_layers(root: Element) -> Element:
    """The root, or the group that holds all others."""
    groups = [child for child in root if _is_group(child)]
    if len(groups) == 1 and sum(_is_group(child) for child in groups[0]) >= _LEAST:
        return _that_holds_layers(groups[0])
    return root


def _switched_on(root: Element, own: Element, unnamed: str) -> Picture | None:
    """The drawing of the one layer that is in an SVG; None where nothing is in it."""
    for name in ("display", "visibility"):
        own.attrib.pop(name, None)
    own.set("style", re.sub(r"(display|visibility)\s*:[^;]*;?", "", own.get("style", "")))
    name = _name(own) or unnamed
    try:
        return Picture(name, open_picture(f"{name}.svg", tostring(root, encoding="utf-8", xml_declaration=True)).pixels)
    except ChartError:
        return None


def _is_group(element: Element) -> bool:
    return str(element.tag).rpartition("}")[2].lower() == "g"


def _name(group: Element) -> str:
    """What a layer is called: its label, whoever wrote it, its title, or its id."""
    label = next((value for key, value in group.attrib.items() if key.rpartition("}")[2].lower() == "label"), "")
    title = next((child.text or "" for child in group if str(child.tag).rpartition("}")[2].lower() == "title"), "")
    return (label or title or group.get("id", "")).strip()
