"""What the Desk draws, as plain values: times in microseconds, frames from 0."""

from dataclasses import asdict
from typing import Any

from django.urls import reverse

from tinfork.apps.cast.models import Character, Drawing
from tinfork.apps.cast.queries import drawing_document, place_document
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.documents import reel_document, sound_document
from tinfork.apps.reading.looks import looks_of
from tinfork.apps.reading.solving import drawings_of, with_sets, work_out_character
from tinfork.core.solver.explain import explain
from tinfork.core.solver.numbers import numbers_of
from tinfork.core.solver.problem import NO_MOUTH
from tinfork.core.soundtrack.pinning import mouth_pins
from tinfork.core.soundtrack.project import placed_turns
from tinfork.core.speech.reading import DOUBTFUL, Reading
from tinfork.core.speech.visemes import VISEMES, typical_sounds


def desk_document(shot: Shot) -> dict[str, Any]:
    """The shot, its reading, its holds and where to fetch sound and pictures."""
    production, soundtrack = shot.production, shot.soundtrack
    reading = soundtrack.reading
    words, phonemes = _tiers(reading)
    return {
        "shot": {
            "name": shot.name,
            "firstFrame": shot.first_frame,
            "rate": [production.rate_numerator, production.rate_denominator],
            "frames": production.rate.frames_in(reading.duration_us),
            "durationUs": reading.duration_us,
            "width": production.width,
            "height": production.height,
        },
        "revision": soundtrack.revision,
        "doubtful": DOUBTFUL,
        "words": words,
        "phonemes": phonemes,
        "turns": [
            {"speaker": int(p.turn.speaker or 0), "start": p.turn.start_us, "end": p.turn.end_us}
            for p in placed_turns(soundtrack.content)
        ],
        "characters": [_character(character, shot, reading) for character in shot.characters],
        "looks": looks_document(shot),
        "sound": sound_document(shot, soundtrack),
        "reel": reel_document(shot),
    }


def _tiers(reading: Reading) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    words: list[dict[str, Any]] = []
    phonemes: list[dict[str, Any]] = []
    said = [(word, number, line) for number, line in enumerate(reading.lines) for word in line.words]
    for word, number, line in sorted(said, key=lambda item: item[0].start_us):
        for phoneme in word.phonemes:
            phonemes.append(
                {
                    "ipa": phoneme.ipa,
                    "viseme": phoneme.viseme,
                    "start": phoneme.start_us,
                    "end": phoneme.end_us,
                    "sure": round(phoneme.confidence, 3),
                    "word": len(words),
                }
            )
        words.append(
            {
                "text": word.text,
                "start": word.start_us,
                "end": word.end_us,
                "sure": round(word.confidence, 3),
                "line": number,
                "speaker": int(line.speaker or 0),
            }
        )
    return words, sorted(phonemes, key=lambda p: p["start"])


def _character(character: Character, shot: Shot, reading: Reading) -> dict[str, Any]:
    mouth = character.mouth
    drawings = drawings_of(character)
    return {
        "id": character.pk,
        "name": character.name,
        "ink": character.ink,
        **place_document(character, mouth),
        "drawings": [
            drawing_document(drawing)
            | {
                "set": set_name,
                "thumb": reverse("drawing_thumb", args=[drawing.pk]),
                "sounds": [s for c in drawing.shows for s in (typical_sounds(c) if c in VISEMES else (c,))],
                "hidden": drawing.is_hidden,
            }
            for (set_name, _), drawing in drawings.items()
        ],
        **timing_document(shot, character, reading, drawings),
    }


def timing_document(
    shot: Shot, character: Character, reading: Reading, drawings: dict[tuple[str, int], Drawing]
) -> dict[str, Any]:
    """What the dials decide: the holds, and their numbers."""
    solution = work_out_character(shot, character, reading)
    holds = with_sets(shot, character, solution)
    numbers = numbers_of(holds, solution.rate)
    return {
        "dials": asdict(solution.dials),
        "holds": [
            {
                "start": h.start,
                "end": h.end,
                "drawing": 0 if h.drawing == NO_MOUTH else drawings[h.set, h.drawing].pk,
                "viseme": h.viseme,
            }
            for h in holds
        ],
        "pins": [
            {
                "key": p.key,
                "start": shot.production.rate.frame_at(p.start_us),
                "end": shot.production.rate.frame_at(p.end_us - 1) + 1,
                "exact": bool(p.mouth and p.mouth.is_exact),
            }
            for p in mouth_pins(shot.soundtrack.content, str(character.pk))
        ],
        "numbers": {
            "changes": round(numbers.changes_per_second, 1),
            "shortest": numbers.shortest,
            "on": [round(100 * share) for share in numbers.on],
            "used": len(numbers.uses),
            "pieces": numbers.pieces,
            "uses": {
                drawings[u.set, u.drawing].pk: {"holds": u.holds, "frames": u.frames, "pieces": u.pieces}
                for u in numbers.uses
            },
        },
    }


def mouths_document(shot: Shot) -> dict[str, Any]:
    """What an edit of mouths may have changed: each character's timing, and the revision it is of."""
    reading = shot.soundtrack.reading
    edits = list(shot.soundtrack.edits.values_list("is_undone", flat=True))
    return {
        "revision": shot.soundtrack.revision,
        "canUndo": not all(edits),
        "canRedo": any(edits),
        "looks": looks_document(shot),
        "characters": {str(c.pk): timing_document(shot, c, reading, drawings_of(c)) for c in shot.characters},
    }


def looks_document(shot: Shot) -> list[dict[str, Any]]:
    """The second looks, the worst first; settled ones are marked."""
    settled = set(shot.soundtrack.settled)
    return [
        {
            "key": look.key,
            "kind": look.kind,
            "start": look.start_us,
            "end": look.end_us,
            "text": look.text,
            "severity": look.severity,
            "settled": look.key in settled,
        }
        for look in looks_of(shot)
    ]


def why_document(shot: Shot, character: Character, frame: int) -> dict[str, Any]:
    """Why the character shows what it shows on a frame (from 0)."""
    solution = work_out_character(shot, character, shot.soundtrack.reading)
    at = next((n for n, h in enumerate(solution.holds) if h.start <= frame < h.end), len(solution.holds) - 1)
    said = explain(solution, at)
    return {
        "text": said.text,
        "others": [{"drawing": other.drawing, "more": other.more} for other in said.others],
        "start": solution.holds[at].start,
    }
