"""An SVG that holds a drawing in each of its layers, taken apart."""

import copy
import re
from xml.etree.ElementTree import Element, tostring

from ..errors import ChartError
from ..limits import MAX_DRAWINGS
from .picture import Picture, checked_svg, opened

_LEAST = 2


def by_layers(file_name: str, data: bytes) -> list[Picture]:
    """A picture for each group of an SVG, all on its canvas, so that they stay where they lie; groups that are switched
    off are drawn as well. What is in no group is behind all of them. ChartError where there is but one group."""
    root = checked_svg(file_name, data)
    within = _that_holds_layers(root)
    layers = [child for child in within if _is_group(child)]
    if len(layers) < _LEAST:
        raise ChartError(f"{file_name} has no layers; put each drawing into a layer or group of its own.")
    if len(layers) > MAX_DRAWINGS:
        raise ChartError(f"{file_name} has {len(layers)} layers; a chart has {MAX_DRAWINGS} drawings at the most.")
    found = [picture for number in range(len(layers)) if (picture := _alone(root, number)) is not None]
    if not found:
        raise ChartError(f"Nothing can be seen in the layers of {file_name}.")
    return found


def _that_holds_layers(root: Element) -> Element:
    """The root, or the group that holds all others."""
    groups = [child for child in root if _is_group(child)]
    if len(groups) == 1 and sum(_is_group(child) for child in groups[0]) >= _LEAST:
        return _that_holds_layers(groups[0])
    return root


def _alone(root: Element, number: int) -> Picture | None:
    """The drawing of one layer; None where nothing is in it."""
    whole = copy.deepcopy(root)
    within = _that_holds_layers(whole)
    layers = [child for child in within if _is_group(child)]
    for other in layers:
        if other is not layers[number]:
            within.remove(other)
    own = layers[number]
    for name in ("display", "visibility"):
        own.attrib.pop(name, None)
    own.set("style", re.sub(r"(display|visibility)\s*:[^;]*;?", "", own.get("style", "")))
    name = _name(own) or f"layer {number + 1}"
    try:
        return Picture(name, opened(f"{name}.svg", tostring(whole, encoding="utf-8", xml_declaration=True)).pixels)
    except ChartError:
        return None


def _is_group(element: Element) -> bool:
    return str(element.tag).rpartition("}")[2].lower() == "g"


def _name(group: Element) -> str:
    """What a layer is called: its label, whoever wrote it, its title, or its id."""
    label = next((value for key, value in group.attrib.items() if key.rpartition("}")[2].lower() == "label"), "")
    title = next((child.text or "" for child in group if str(child.tag).rpartition("}")[2].lower() == "title"), "")
    return (label or title or group.get("id", "")).strip()
