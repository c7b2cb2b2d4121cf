"""Rasterising SVG to PNG."""

import resvg_py

from tinfork.core.errors import ChartError


def png_from_svg(svg: str, width: int) -> bytes:
    """Rasterise one of our own SVGs (never an unchecked upload) to `width` pixels, on a transparent ground.

    Raises
    ------
    ChartError
        For an SVG that cannot be drawn.
    """
    try:
        return bytes(resvg_py.svg_to_bytes(svg_string=svg, width=width))
    except ValueError as error:
        raise ChartError("drawing.unusable") from error
