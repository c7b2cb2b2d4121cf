"""The data of the page of a shot's sound as plain values: times in microseconds, frames from 0."""

from typing import Any

from django.urls import reverse

from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.waveform import mix_mark
from tinfork.apps.sound.models import Take
from tinfork.core.formats.soundtrack_json import clip_to_dict, track_to_dict
from tinfork.core.sound import peaks
from tinfork.core.soundtrack.project import placed_turns, reading_of


def sound_page(shot: Shot, soundtrack: Soundtrack) -> dict[str, Any]:
    """Tracks, clips, turns and words of a shot, and the URLs of its sound."""
    st = soundtrack.content
    rate = shot.production.rate
    reading = reading_of(st)
    edits = list(soundtrack.edits.values_list("is_undone", flat=True)) if soundtrack.pk else []
    return {
        "revision": soundtrack.revision,
        "shot": {
            "name": shot.name,
            "firstFrame": shot.first_frame,
            "rate": [shot.production.rate_numerator, shot.production.rate_denominator],
            "frames": rate.frames_in(st.duration_us),
            "durationUs": st.duration_us,
            "lengthUs": st.length_us,
        },
        "canUndo": not all(edits),
        "canRedo": any(edits),
        "tracks": [track_to_dict(track) for track in st.tracks],
        "clips": [clip_to_dict(clip) for clip in st.clips],
        "turns": [
            {
                "clip": p.clip,
                "id": p.turn.id,
                "speaker": int(p.turn.speaker or 0),
                "start": p.turn.start_us,
                "end": p.turn.end_us,
            }
            for p in placed_turns(st)
        ],
        "words": [
            {"text": w.text, "start": w.start_us, "end": w.end_us, "speaker": int(line.speaker or 0)}
            for line in reading.lines
            for w in line.words
        ],
        "characters": [{"id": c.pk, "name": c.name, "ink": c.ink} for c in shot.characters],
        "takes": {str(t.pk): take_document(t) for t in Take.objects.filter(pk__in={c.take for c in st.clips})},
        "sound": sound_document(shot, soundtrack),
        "reel": reel_document(shot),
    }


def take_document(take: Take) -> dict[str, Any]:
    """A take's name and waveform."""
    return {
        "name": take.name,
        "durationUs": take.duration_us,
        "peaks": [reverse("take_peaks", args=[take.pk, level]) for level in range(peaks.LEVELS)],
        "peaksPerSecond": peaks.PER_SECOND,
        "peaksFactor": peaks.FACTOR,
    }


def sound_document(shot: Shot, soundtrack: Soundtrack) -> dict[str, Any]:
    """The URLs of a shot's mix and waveform; they change with the sound."""
    mark = f"?sound={mix_mark(soundtrack, for_listening=True)[:16]}" if soundtrack.duration_us else ""
    return {
        "url": reverse("shot_mix", args=[shot.pk]) + mark if mark else "",
        "peaks": [reverse("shot_peaks", args=[shot.pk, level]) + mark for level in range(peaks.LEVELS)],
        "peaksPerSecond": peaks.PER_SECOND,
        "peaksFactor": peaks.FACTOR,
    }


def reel_document(shot: Shot) -> dict[str, Any] | None:
    """The shot's story reel, and its time on the first frame."""
    reel = shot.reel
    if reel is None or not reel.is_ready:
        return None
    return {
        "url": reverse("reel_film", args=[reel.pk]),
        "name": reel.name,
        "fromUs": shot.reel_from_us,
        "durationUs": reel.duration_us,
        "width": reel.width,
        "height": reel.height,
    }
