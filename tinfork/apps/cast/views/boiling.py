"""Variants of pictures for boiling lines on the Stage, the same as in movies and pictures."""

import re

from django.core.files.storage import storages
from django.db.models.fields.files import FieldFile
from django.http import Http404, HttpResponse

from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.requests import UserRequest
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.scene.boil import VARIANTS, Variant
from tinfork.engines.handover.archive_files import png
from tinfork.engines.handover.rasters import boiled, raster

#: Strength, number of the variant, and the width of the picture in ten-thousandths of its face's height.
_ASKED = re.compile(r"(\d{1,3})-(\d)-(\d{1,7})")
#: The height of a face in pixels in a variant, and the limits of a picture's width.
_FACE_PIXELS, _MOST_PIXELS, _LEAST_PIXELS = 1000, 2000, 64
_TWO_AT_A_TIME = ConcurrencyLimit(2)


def variant_of(request: UserRequest) -> Variant | None:
    """The variant requested with `boil`; None for the picture itself. Raises `Http404` for an invalid one."""
    asked = request.GET.get("boil")
    if not asked:
        return None
    found = _ASKED.fullmatch(asked)
    strength, number, wide = map(int, found.groups()) if found else (0, 0, 0)
    if not (1 <= strength <= 100 and number < VARIANTS and 100 <= wide <= 1_000_000):
        raise Http404
    return Variant(strength, number, wide / 10_000)


def serve_variant(field: FieldFile | str, suffix: str, aspect: float, variant: Variant) -> HttpResponse:
    """Serve a variant of a stored picture or of SVG text. Its URL determines its content, so browsers may cache it."""
    if isinstance(field, str):
        data = field.encode()
    else:
        with storages["default"].open(field.name or "", "rb") as file:
            data = file.read()
    picture = Picture(data, suffix)
    width = min(_MOST_PIXELS, _MOST_PIXELS * aspect, max(_LEAST_PIXELS, _FACE_PIXELS * variant.wide))
    size = max(1, round(width)), max(1, round(width / aspect))
    with _TWO_AT_A_TIME.inside():
        content = png(boiled(raster(picture, size), picture, variant))
    kept = "private, max-age=604800, immutable"
    return HttpResponse(content, content_type="image/png", headers={"Cache-Control": kept})
