"""Remarks and decisions in a production's archive."""

import base64
import io
from datetime import datetime
from typing import Any

from PIL import Image

from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.models import Soundtrack, Version
from tinfork.apps.review.drawings import read_drawing
from tinfork.apps.review.models import MAX_REMARK_CHARACTERS, Decision, Remark
from tinfork.apps.review.remarks import MAX_REMARKS, key_of

#: The size limit of a remark's picture.
_MAX_PICTURE_BYTES = 1024 * 1024


def packed_reviews(shot: Shot, settled: list[str]) -> dict[str, Any]:
    """The remarks and decisions about a shot, without their links.

    A settled remark is marked in its own data, since its key is only valid in the exporting database.
    """
    own = set(settled)
    return {
        "remarks": [
            {**_said(remark), **_place(remark), "settled": key_of(remark) in own}
            | {"answers": [_said(answer) for answer in remark.answers.order_by("pk")]}
            for remark in shot.remarks.filter(answers_to=None)
        ],
        "decisions": [
            {
                "verdict": one.verdict,
                "name": one.name,
                "made_at": one.made_at.isoformat(),
                "version": one.version.name if one.version else "",
                "revision": one.revision,
            }
            for one in shot.decisions.select_related("version").order_by("pk")
        ],
    }


def _said(remark: Remark) -> dict[str, str]:
    return {"name": remark.name, "text": remark.text, "made_at": remark.made_at.isoformat()}


def _place(remark: Remark) -> dict[str, Any]:
    """The place of a remark, with its picture and drawing."""
    picture = ""
    if remark.picture:
        with remark.picture.open("rb") as file:
            picture = base64.b64encode(file.read()).decode()
    return {
        "at_us": remark.at_us,
        "end_us": remark.end_us,
        "word": remark.word,
        "clip": remark.clip,
        "offset_us": remark.offset_us,
        "drawing": remark.drawing,
        "shown": remark.shown,
        "picture": picture,
    }


def _placed(row: Soundtrack, one: dict[str, Any]) -> dict[str, Any]:
    """The place of a remark in an archive; older archives have only its time."""
    at_us = int(one["at_us"])
    numbers = {name: abs(int(one.get(name, 0))) for name in ("word", "clip")}
    return numbers | {
        "at_us": at_us,
        "end_us": min(max(at_us + 1, int(one.get("end_us", 0))), 2 * max(1, row.duration_us)),
        "offset_us": int(one.get("offset_us", 0)),
        "drawing": read_drawing(one.get("drawing", [])),
        "shown": str(one.get("shown", ""))[:16],
        "picture": _picture(str(one.get("picture", ""))),
    }


def _picture(packed: str) -> str:
    """Store the picture of a remark; raises `ValueError` for an invalid one."""
    if not packed:
        return ""
    data = base64.b64decode(packed, validate=True)
    if len(data) > _MAX_PICTURE_BYTES:
        raise ValueError(len(data))
    try:
        with Image.open(io.BytesIO(data), formats=["WEBP"]) as picture:
            picture.verify()
    except (OSError, Image.DecompressionBombError) as error:
        raise ValueError("picture") from error
    return keep_bytes(data, ".webp")


def unpack_reviews(row: Soundtrack, packed: dict[str, Any], revision: int) -> None:
    """Store remarks and decisions from an archive.

    Decisions about `revision`, that of the archived shot, apply to the imported one.

    Raises `ValueError`, `KeyError` or `TypeError` for invalid data.
    """
    remarks = list(packed.get("remarks", ()))
    if sum(1 + len(one["answers"]) for one in remarks) > MAX_REMARKS:
        raise ValueError(len(remarks))
    for one in remarks:
        remark = _written(row, one, **_placed(row, one))
        for answer in one["answers"]:
            _written(row, answer, at_us=remark.at_us, answers_to=remark)
        if one["settled"]:
            row.settled = [*row.settled, key_of(remark)]
    row.save(update_fields=["settled"])
    versions = {version.name: version for version in Version.objects.filter(soundtrack=row)}
    for one in packed.get("decisions", ()):
        made = Decision(
            shot=row.shot,
            verdict=Decision.Verdict(one["verdict"]),
            name=str(one["name"])[:80],
            version=versions.get(str(one["version"])),
            revision=row.revision if int(one["revision"]) == revision else 0,
        )
        made.save()
        Decision.objects.filter(pk=made.pk).update(made_at=datetime.fromisoformat(one["made_at"]))


def _written(row: Soundtrack, said: dict[str, Any], at_us: int, **more: Any) -> Remark:
    text = str(said["text"])
    if not 0 < len(text) <= MAX_REMARK_CHARACTERS or not 0 <= at_us <= row.duration_us:
        raise ValueError(text[:40])
    remark = Remark.objects.create(shot=row.shot, name=str(said["name"])[:80], text=text, at_us=at_us, **more)
    Remark.objects.filter(pk=remark.pk).update(made_at=datetime.fromisoformat(said["made_at"]))
    return remark
