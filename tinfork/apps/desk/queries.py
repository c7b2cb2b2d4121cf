"""What the Desk draws, as plain values: times in microseconds, frames from 0."""

from typing import Any

from django.urls import reverse

from tinfork.apps.cast.models import Character
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.solving import solve_shot
from tinfork.core.sound import peaks
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.visemes import typical_sounds
from tinfork.engines.reader import DOUBTFUL


def desk_document(shot: Shot) -> dict[str, Any]:
    """The shot, its reading, its holds and where to fetch sound and pictures."""
    take, production, reading = shot.take, shot.production, shot.reading.content
    assert take is not None
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
        "revision": shot.reading.revision,
        "doubtful": DOUBTFUL,
        "words": words,
        "phonemes": phonemes,
        "characters": [_character(shot.character, shot, reading)],
        "sound": {
            "url": reverse("take_sound", args=[take.pk]),
            "peaks": [reverse("take_peaks", args=[take.pk, level]) for level in range(peaks.LEVELS)],
            "peaksPerSecond": peaks.PER_SECOND,
            "peaksFactor": peaks.FACTOR,
        },
    }


def _tiers(reading: Reading) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    words: list[dict[str, Any]] = []
    phonemes: list[dict[str, Any]] = []
    for number, line in enumerate(reading.lines):
        for word in line.words:
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
                    "speaker": line.speaker,
                }
            )
    return words, phonemes


def _character(character: Character, shot: Shot, reading: Reading) -> dict[str, Any]:
    place = character.placement
    return {
        "id": character.pk,
        "name": character.name,
        "ink": character.ink,
        "face": reverse("face", args=[character.pk]) if character.face else "",
        "mouth": {"x": place.x, "y": place.y, "width": place.width, "aspect": place.aspect},
        "drawings": [
            {
                "number": d.number,
                "name": d.name,
                "visemes": d.visemes,
                "sounds": [s for v in d.visemes for s in typical_sounds(v)],
                "url": reverse("drawing_picture", args=[d.pk]),
            }
            for d in character.drawings.all()
        ],
        "holds": [
            {"start": h.start, "end": h.end, "drawing": h.drawing, "viseme": h.viseme}
            for h in solve_shot(shot, reading)
        ],
    }
