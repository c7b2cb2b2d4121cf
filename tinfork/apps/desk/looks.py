"""A shot's second looks as plain values, with their likely corrections."""

from typing import Any, NamedTuple

from django.utils.translation import get_language

from tinfork.apps.common.recent_cache import RecentCache
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.looks import looks_of, remember_left
from tinfork.apps.review.remarks import drawings_of_remarks
from tinfork.core.solver.corrections import Correction, Corrections, reached_us
from tinfork.core.solver.looks import REMARK, Look
from tinfork.core.soundtrack.project import clips_of_words
from tinfork.core.speech.reading import Reading


def looks_document(shot: Shot) -> list[dict[str, Any]]:
    """The second looks, the worst first, with settled ones marked."""
    row = shot.soundtrack
    settled = set(row.settled)
    looks = looks_of(shot)
    remember_left(row, looks)
    drawn = drawings_of_remarks(shot) if any(look.kind == REMARK for look in looks) else {}
    corrections = Corrections(row.reading, shot.production.rate, clips_of_words(row.content))
    context = get_language(), shot.production.rate, row.content.clips
    last = _LOOKS.get(shot.pk)
    known = last.told if last and last.context == context else {}
    start_us, end_us = reached_us(last.reading, row.reading) if last else (0, 0)
    told: dict[str, _ToldLook] = {}
    for look in looks:
        one = known.get(look.key)
        is_same = one and (one.look is look or one.look == look) and one.is_settled == (look.key in settled)
        if not one or not is_same or (look.start_us <= end_us and start_us <= look.end_us):
            one = _ToldLook(look, look.key in settled, _look_document(look, corrections, look.key in settled))
        told[look.key] = one
    _LOOKS.put(shot.pk, _ToldLooks(context, row.reading, told))
    return [
        one.document | {"drawing": drawn[one.look.key]} if one.look.key in drawn else one.document
        for one in told.values()
    ]


class _ToldLook(NamedTuple):
    """A look as it was told."""

    look: Look
    is_settled: bool
    document: dict[str, Any]


class _ToldLooks(NamedTuple):
    """The looks of a shot as told last, by key; with the language, frame rate and clips, and the reading."""

    context: tuple[object, ...]
    reading: Reading
    told: dict[str, _ToldLook]


#: The looks of recent shots as told last: an edit changes few of them.
_LOOKS: RecentCache[int, _ToldLooks] = RecentCache(12)


def _look_document(look: Look, corrections: Corrections, is_settled: bool) -> dict[str, Any]:
    return {
        "key": look.key,
        "kind": look.kind,
        "start": look.start_us,
        "end": look.end_us,
        "text": str(look.text),
        "severity": look.severity,
        "corrections": [] if is_settled else [correction_document(one) for one in corrections.for_look(look)],
        "who": int(look.who) if look.who.isdigit() else 0,
        "settled": is_settled,
    }


def correction_document(one: Correction) -> dict[str, Any]:
    """A likely correction: its text, and the edit or the place to go to."""
    return {"text": str(one.text), "edit": one.edit, "parameters": dict(one.parameters), "goes": one.goes}
