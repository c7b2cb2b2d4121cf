"""The starter chart as files: an SVG and a PNG for each drawing, named by number."""

import io
import re
import zipfile
from functools import lru_cache

from tinfork.core.mouths.starter import starter_chart, starter_pictures
from tinfork.core.mouths.style import Style
from tinfork.engines.raster import png_from_svg

#: The width of the PNGs in pixels.
PNG_WIDTH = 1600
_DATE = (2026, 1, 1, 0, 0, 0)


def file_name(number: int, name: str) -> str:
    """The name of a drawing's file without its suffix: "03-lip-on-teeth"."""
    return f"{number:02d}-{re.sub(r'[^a-z]+', '-', name.lower()).strip('-')}"


@lru_cache(maxsize=2)
def starter_archive(style: Style, drawings: int) -> bytes:
    """A ZIP with `svg/NN-name.svg` and `png/NN-name.png`; the same look gives the same bytes."""
    pictures = starter_pictures(style, drawings)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for drawing in starter_chart(drawings).drawings:
            name, svg = file_name(drawing.number, drawing.name), pictures[drawing.number]
            archive.writestr(zipfile.ZipInfo(f"svg/{name}.svg", _DATE), svg, zipfile.ZIP_DEFLATED)
            archive.writestr(zipfile.ZipInfo(f"png/{name}.png", _DATE), png_from_svg(svg, PNG_WIDTH))
    return out.getvalue()
