"""The guide at a stop-motion set: one document with all its data, so that it works offline."""

import base64
import secrets
from typing import Any

from django.core import signing
from django.utils.crypto import constant_time_compare

from tinfork.apps.produce.models import Shot
from tinfork.core.scene.scene import Column, Figure, Scene
from tinfork.core.solver.problem import NO_MOUTH
from tinfork.engines.handover.archive_files import png
from tinfork.engines.handover.rendering import plates

_SALT = "at the set"
#: How long a link for a tablet is valid.
LINK_S = 30 * 24 * 3600
#: The width of a drawing in pixels.
_WIDE = 720


def set_document(scene: Scene) -> dict[str, Any]:
    """The document: frames from 0; each drawing once, as a data URL; words and sounds by frame."""
    return {
        "production": scene.production,
        "shot": scene.name,
        "firstFrame": scene.first_frame,
        "frames": scene.frames,
        "rate": [scene.rate.value.numerator, scene.rate.value.denominator],
        "columns": [_column(f, c, len(scene.figures) > 1) for f in scene.figures for c in f.columns],
        "heard": _heard(scene),
        "notes": [{"frame": frame, "text": text} for frame, text in sorted(scene.notes.items())],
    }


def _column(figure: Figure, column: Column, has_others: bool) -> dict[str, Any]:
    pictures = plates(column, _WIDE)
    keys = list(pictures)
    name = column.name if column.is_mouth is False else ("mouth" if not has_others else "")
    return {
        "name": " ".join(filter(None, (figure.name if has_others else "", name))),
        "isMouth": column.is_mouth,
        "drawings": [
            {
                "number": key[1],
                "set": key[0],
                "name": column.sprites[key].name,
                "picture": "data:image/png;base64," + base64.b64encode(png(pictures[key])).decode(),
            }
            for key in keys
        ],
        "holds": [
            {
                "start": hold.start,
                "end": hold.end,
                "drawing": -1 if hold.drawing == NO_MOUTH else keys.index((hold.set, hold.drawing)),
            }
            for hold in column.holds
        ],
    }


def _heard(scene: Scene) -> list[dict[str, Any]]:
    rate = scene.rate
    return [
        {
            "text": word.text,
            "start": rate.frame_at(word.start_us),
            "end": rate.frame_at(max(word.start_us, word.end_us - 1)) + 1,
            "sounds": [
                {"ipa": p.ipa, "start": rate.frame_at(p.start_us), "end": rate.frame_at(p.end_us - 1) + 1}
                for p in word.phonemes
            ],
        }
        for word in sorted(scene.reading.words(), key=lambda each: each.start_us)
    ]


def link_for(shot: Shot) -> str:
    """A token that opens the guide of this shot, with its mouths and sound, without an account for a while.

    It can be withdrawn.
    """
    if not shot.set_key:
        shot.set_key = secrets.token_urlsafe(16)
        shot.save(update_fields=["set_key"])
    return signing.dumps([shot.pk, shot.set_key], salt=_SALT)


def withdraw_links(shot: Shot) -> None:
    """Withdraw all links to the shot's guide."""
    shot.set_key = ""
    shot.save(update_fields=["set_key"])


def shot_in(token: str) -> Shot | None:
    """The shot of a valid link."""
    try:
        number, key = signing.loads(token, salt=_SALT, max_age=LINK_S)
    except (signing.BadSignature, TypeError, ValueError):
        return None
    shot = Shot.objects.filter(pk=number).exclude(set_key="").first() if isinstance(number, int) else None
    return shot if shot and constant_time_compare(shot.set_key, str(key)) else None
