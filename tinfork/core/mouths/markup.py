"""What is drawn of a face as pieces of SVG, checked where it came from elsewhere: it is put into pages as it is."""

import re
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from ..errors import ChartError

_TAGS = frozenset({"svg", "g", "path", "image", "circle", "rect", "ellipse", "polygon", "polyline", "line", "clipPath"})
_PICTURE = re.compile(r"data:image/png;base64,[A-Za-z0-9+/=]*")
_FOREIGN = re.compile(r"url\((?!['\"]?#)|javascript:|expression\(", re.IGNORECASE)
_NAMESPACE = "{http://www.w3.org/2000/svg}"


def check_markup(markup: str) -> None:
    """Return when a piece of SVG is drawn of shapes, and of pictures that are in it, alone. ChartError otherwise."""
    try:
        root: Element = fromstring(f'<svg xmlns="http://www.w3.org/2000/svg">{markup}</svg>', forbid_dtd=True)
    except (DefusedXmlException, ParseError, ValueError, LookupError, RecursionError):
        raise ChartError("A drawing is no plain SVG.") from None
    for element in root.iter():
        if str(element.tag).removeprefix(_NAMESPACE) not in _TAGS:
            raise ChartError("A drawing holds something that is no shape.")
        for name, value in element.attrib.items():
            plain = "".join(value.split())
            own = name.rpartition("}")[2].lower()
            picture = own == "href" and _PICTURE.fullmatch(plain)
            if own.startswith("on") or own == "style" or (own == "href" and not picture) or _FOREIGN.search(plain):
                raise ChartError("A drawing holds more than a drawing does.")
