"""Cleaning uploaded SVG: only shapes, colours and structure without text pass.

An allow-list of elements and attributes (SVG 1.1, basic shapes, paths, gradients, clips and masks). Everything that
could execute, load or refer to something outside is refused or dropped: scripts, foreign content, images, links, event
handlers, style sheets with imports, entities, document types.
"""

import re
from xml.etree.ElementTree import Element, ParseError, register_namespace, tostring

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from tinfork.core.errors import FormatError
from tinfork.core.messages import Message
from tinfork.engines.limits import MAX_ASPECT

SVG = "http://www.w3.org/2000/svg"
XLINK = "http://www.w3.org/1999/xlink"

MAX_BYTES = 8 * 1024 * 1024
#: The most elements of an SVG with every `use` expanded.
MAX_ELEMENTS = 20_000
#: The largest canvas in units.
MAX_SIDE = 20_000

_ELEMENTS = frozenset(
    [
        "path",
        "rect",
        "circle",
        "ellipse",
        "line",
        "polyline",
        "polygon",
        "svg",
        "g",
        "defs",
        "symbol",
        "use",
        "clipPath",
        "mask",
        "linearGradient",
        "radialGradient",
        "stop",
        "title",
        "desc",
    ]
)
#: Elements dropped with their content; this does not change the drawing's lines.
_DROPPED = {"metadata", "style", "script", "foreignObject", "filter", "animate", "animateTransform", "set"}
#: Elements that are refused: without them the drawing would silently lack something.
_REFUSED = {
    "image": Message("svg.part_image"),
    "text": Message("svg.part_text"),
    "pattern": Message("svg.part_pattern"),
    "marker": Message("svg.part_marker"),
}
_ATTRIBUTES = frozenset(
    [
        "id",
        "d",
        "x",
        "y",
        "x1",
        "y1",
        "x2",
        "y2",
        "cx",
        "cy",
        "r",
        "rx",
        "ry",
        "fx",
        "fy",
        "fr",
        "width",
        "height",
        "points",
        "transform",
        "viewBox",
        "preserveAspectRatio",
        "offset",
        "gradientUnits",
        "gradientTransform",
        "spreadMethod",
        "clipPathUnits",
        "maskUnits",
        "maskContentUnits",
        "version",
        "class",
    ]
)
_PRESENTATION = frozenset(
    [
        "fill",
        "fill-opacity",
        "fill-rule",
        "stroke",
        "stroke-width",
        "stroke-opacity",
        "stroke-linecap",
        "stroke-linejoin",
        "stroke-miterlimit",
        "stroke-dasharray",
        "stroke-dashoffset",
        "opacity",
        "color",
        "stop-color",
        "stop-opacity",
        "clip-path",
        "clip-rule",
        "mask",
        "display",
        "visibility",
        "paint-order",
        "vector-effect",
        "mix-blend-mode",
        "isolation",
    ]
)
_INSIDE = re.compile(r"""url\(\s*(['"]?)#[\w.:-]+\1\s*\)""")
_LENGTH = re.compile(r"\s*\+?([0-9]*\.?[0-9]+(?:[eE][+-]?[0-9]+)?)\s*(px|pt|pc|mm|cm|in)?\s*")
_UNITS = {"": 1.0, "px": 1.0, "pt": 4 / 3, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0}


def clean_svg(data: bytes, name: str = "The SVG") -> tuple[str, float, float]:
    """The cleaned text, and the canvas's width and height in units.

    Raises
    ------
    FormatError
    """
    if len(data) > MAX_BYTES:
        raise FormatError("svg.too_large", name=name, max_bytes=MAX_BYTES // 2**20)
    try:
        root = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException:
        raise FormatError("svg.references", name=name) from None
    except (ParseError, ValueError, LookupError, RecursionError):
        raise FormatError("svg.not_whole", name=name) from None
    if _local(root.tag) != "svg":
        raise FormatError("svg.not_svg", name=name)
    width, height = _canvas(root, name)
    _inline_styles(root)
    try:
        _clean(root, name)
    except RecursionError:
        raise FormatError("svg.too_deep", name=name) from None
    _count_uses(root, name)
    if "viewBox" not in root.attrib:
        root.set("viewBox", f"0 0 {width:g} {height:g}")
    root.set("width", f"{width:g}")
    root.set("height", f"{height:g}")
    register_namespace("", SVG)
    register_namespace("xlink", XLINK)
    return tostring(root, encoding="unicode") + "\n", width, height


def _local(tag: object) -> str:
    """An element's name when it is SVG's (or has no namespace), else ""."""
    if not isinstance(tag, str):
        return ""
    space, _, local = tag.rpartition("}")
    return local if space in ("", "{" + SVG) else ""


def check_shape(width: float, height: float, name: str) -> None:
    """Refuse a picture that is too long and thin for a drawing.

    Raises
    ------
    FormatError
        For such a picture.
    """
    if max(width, height) > MAX_ASPECT * min(width, height):
        raise FormatError("svg.too_narrow", name=name, width=width, height=height, max_aspect=MAX_ASPECT)


def _canvas(root: Element, name: str) -> tuple[float, float]:
    box = [float(n) for n in re.findall(r"[-+]?[0-9]*\.?[0-9]+(?:[eE][+-]?[0-9]+)?", root.get("viewBox", ""))]
    sizes: list[float] = []
    for at, side in enumerate(("width", "height")):
        match = _LENGTH.fullmatch(root.get(side, ""))
        if match:
            sizes.append(float(match[1]) * _UNITS[match[2] or ""])
        elif len(box) == 4:
            sizes.append(box[2 + at])
    if len(sizes) != 2 or not all(0 < size <= MAX_SIDE for size in sizes):
        raise FormatError("svg.no_size", name=name, max_side=MAX_SIDE)
    check_shape(sizes[0], sizes[1], name)
    return sizes[0], sizes[1]


def _inline_styles(root: Element) -> None:
    """Move the rules of plain `.class {}` style sheets to their elements, and remove the sheets."""
    rules: dict[str, str] = {}
    for sheet in root.iter(f"{{{SVG}}}style"):
        for selector, body in re.findall(r"([^{}]+)\{([^{}]*)\}", sheet.text or ""):
            for one in selector.split(","):
                if match := re.fullmatch(r"\s*\.([\w-]+)\s*", one):
                    rules[match[1]] = rules.get(match[1], "") + ";" + body
    if not rules:
        return
    for element in root.iter():
        own = element.get("style", "")
        for class_name in element.get("class", "").split():
            own = rules.get(class_name, "") + ";" + own
        if own:
            element.set("style", own)


def _clean(element: Element, name: str) -> None:
    _clean_attributes(element)
    if _local(element.tag) not in ("title", "desc"):
        element.text = None
    element.tail = None
    for child in list(element):
        local = _local(child.tag)
        if local in _REFUSED:
            raise FormatError("svg.unusable_part", name=name, refused=_REFUSED[local])
        if local not in _ELEMENTS:
            if local and local not in _DROPPED:
                raise FormatError("svg.unknown_element", name=name, local=local)
            element.remove(child)
            continue
        _clean(child, name)


def _clean_attributes(element: Element) -> None:
    for declaration in element.attrib.pop("style", "").split(";"):
        key, _, value = declaration.partition(":")
        if key.strip() in _PRESENTATION and "!" not in value:
            element.set(key.strip(), value.strip())
    for key, value in list(element.attrib.items()):
        plain = key.rpartition("}")[2] if key.startswith("{" + XLINK) else key
        if plain == "href" and _local(element.tag) in ("use", "linearGradient", "radialGradient"):
            del element.attrib[key]
            if re.fullmatch(r"#[\w.:-]+", value):
                element.set(f"{{{XLINK}}}href", value)
        elif (
            (key not in _ATTRIBUTES and key not in _PRESENTATION)
            or ("url(" in value and not _INSIDE.fullmatch(value))
            or "\\" in value
            or "@" in value
            or "javascript" in value.lower()
        ):
            del element.attrib[key]


def _count_uses(root: Element, name: str) -> None:
    """Refuse an SVG that would grow without limit if every `use`, clip and mask were expanded.

    Raises
    ------
    FormatError
        For too many shapes, and for those that contain themselves.
    """
    by_id = {element.get("id", ""): element for element in root.iter() if element.get("id")}
    known: dict[Element, int] = {}

    def targets(element: Element) -> list[str]:
        found = [element.get(f"{{{XLINK}}}href", "")[1:]] if _local(element.tag) == "use" else []
        for key in ("clip-path", "mask", "fill", "stroke"):
            found += re.findall(r"#([\w.:-]+)", element.get(key, "")) if "url(" in element.get(key, "") else []
        return [t for t in found if t]

    def weight(element: Element, above: frozenset[int]) -> int:
        if id(element) in above:
            raise FormatError("svg.endless", name=name)
        if element not in known:
            inside = above | {id(element)}
            total = 1 + sum(weight(child, inside) for child in element)
            total += sum(weight(by_id[t], inside) for t in targets(element) if t in by_id)
            known[element] = min(total, MAX_ELEMENTS + 1)
        return known[element]

    try:
        total = weight(root, frozenset())
    except RecursionError:
        raise FormatError("svg.too_deep", name=name) from None
    if total > MAX_ELEMENTS:
        raise FormatError("svg.too_many_shapes", name=name, max_elements=MAX_ELEMENTS)
