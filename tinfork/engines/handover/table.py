"""All exporters, in the order of the page. To add one: a module with its `EXPORTER`, a row here, a test."""

from tinfork.core.errors import FormatError
from tinfork.core.formats import (
    gltf,
    grid_csv,
    hold_edl,
    mpeg4_csv,
    reading_json,
    sheet_csv,
    subtitles,
    weights_csv,
    weights_json,
)
from tinfork.core.scene.exporting import Exporter
from tinfork.engines.handover import (
    archive,
    gif,
    kit_pdf,
    layers,
    lottie,
    movie,
    picture_sequence,
    sheet_pdf,
    sheet_xlsx,
    svg_with_sound,
    textgrid,
    timeline_otio,
    usd,
)

EXPORTERS: tuple[Exporter, ...] = (
    movie.EXPORTER,
    gif.EXPORTER,
    sheet_csv.EXPORTER,
    picture_sequence.EXPORTER,
    layers.EXPORTER,
    lottie.EXPORTER,
    svg_with_sound.EXPORTER,
    timeline_otio.EXPORTER,
    hold_edl.EXPORTER,
    textgrid.EXPORTER,
    subtitles.SRT,
    subtitles.VTT,
    sheet_pdf.EXPORTER,
    sheet_xlsx.EXPORTER,
    grid_csv.EXPORTER,
    kit_pdf.EXPORTER,
    weights_json.EXPORTER,
    weights_csv.EXPORTER,
    gltf.EXPORTER,
    usd.EXPORTER,
    mpeg4_csv.EXPORTER,
    reading_json.EXPORTER,
    archive.EXPORTER,
)
BY_KIND = {exporter.kind: exporter for exporter in EXPORTERS}


def exporter_of(kind: str) -> Exporter:
    """An exporter by its name.

    Raises
    ------
    FormatError
        For one that there is not.
    """
    if kind not in BY_KIND:
        raise FormatError("export.no_such_format", kind=kind, by_kind=", ".join(BY_KIND))
    return BY_KIND[kind]
