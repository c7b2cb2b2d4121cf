"""Our own JSON: the reading and the holds, without loss.

Times are seconds from the start of the sound with six decimals, which hold the core's
microseconds exactly. Frames in `holds` count from 0 at the start of the sound, and
`end` is exclusive. Version 1:

    {"version": 1, "rate": "24/1", "duration": 3.2,
     "lines": [{"id", "speaker", "also", "text", "language", "way", "unsaid", "extras": [{"start", "end", "heard"}],
                "start", "end",
                "words": [{"id", "text", "start", "end", "confidence", "pinned", "heard", "others",
                           "phonemes": [{"id", "ipa", "viseme", "start", "end", "confidence"}]}]}],
     "turns": [{"id", "speaker", "start", "end", "by_hand"}],
     "tracks": [{"character", "part", "holds": [{"start", "end", "drawing", "set", "viseme"}]}],
     "notes": [{"frame", "text"}]}

`id` (a number that lasts as long as what has it, a sound's in its word), `also` (others who say the line too), `way`
(how it was read), `unsaid` (words of its text that are not heard), `extras` (speech that none of its words has),
`pinned` (a person put it there), `heard` (what seems to be said instead of a word, or where there is none), `others`
(what else a word that nobody typed may be), `turns`, `part` (of a face, where it is not the mouth) and `notes` are left
out where there are none.
"""

import json
from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from tinfork.core.clock import FrameRate, seconds_from_us, us_from_seconds
from tinfork.core.errors import FormatError, TinForkError
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.speech.reading import Extra, Line, Phoneme, Reading, Turn, Word

VERSION = 1


def reading_to_dict(reading: Reading) -> dict[str, Any]:
    """The reading alone, as plain values."""
    document: dict[str, Any] = {
        "version": VERSION,
        "duration": seconds_from_us(reading.duration_us),
        "lines": [_line_to_dict(line) for line in reading.lines],
    }
    if reading.turns:
        document["turns"] = [_turn_to_dict(turn) for turn in reading.turns]
    return document


def _turn_to_dict(turn: Turn) -> dict[str, Any]:
    return {
        "speaker": turn.speaker,
        "start": seconds_from_us(turn.start_us),
        "end": seconds_from_us(turn.end_us),
        "by_hand": turn.by_hand,
        **_number(turn),
    }


def _line_to_dict(line: Line) -> dict[str, Any]:
    return {
        **_number(line),
        "speaker": line.speaker,
        **({"also": list(line.also)} if line.also else {}),
        "text": line.text,
        "language": line.language,
        **({"way": line.way} if line.way else {}),
        **({"unsaid": list(line.unsaid)} if line.unsaid else {}),
        **({"extras": [_extra_to_dict(e) for e in line.extras]} if line.extras else {}),
        "start": seconds_from_us(line.start_us),
        "end": seconds_from_us(line.end_us),
        "words": [
            {
                **_number(word),
                **_span(word),
                **({"pinned": True} if word.is_pinned else {}),
                **({"heard": word.heard} if word.heard else {}),
                **({"others": list(word.others)} if word.others else {}),
                "text": word.text,
                "phonemes": [_phoneme_to_dict(p) for p in word.phonemes],
            }
            for word in line.words
        ],
    }


def _extra_to_dict(extra: Extra) -> dict[str, Any]:
    return {"start": seconds_from_us(extra.start_us), "end": seconds_from_us(extra.end_us), "heard": extra.heard}


def _phoneme_to_dict(phoneme: Phoneme) -> dict[str, Any]:
    return {**_number(phoneme), "ipa": phoneme.ipa, "viseme": phoneme.viseme, **_span(phoneme)}


def _number(item: Line | Word | Phoneme | Turn) -> dict[str, int]:
    return {"id": item.id} if item.id else {}


def _span(item: Word | Phoneme) -> dict[str, Any]:
    return {
        "start": seconds_from_us(item.start_us),
        "end": seconds_from_us(item.end_us),
        "confidence": round(item.confidence, 4),
    }


def holds_to_list(holds: tuple[Hold, ...]) -> list[dict[str, Any]]:
    """Holds as plain values, frames from 0, `end` exclusive; no mouth is a drawing of null."""
    return [
        {
            "start": h.start,
            "end": h.end,
            "drawing": None if h.drawing == NO_MOUTH else h.drawing,
            "set": h.set,
            "viseme": h.viseme,
        }
        for h in holds
    ]


def write(
    reading: Reading,
    rate: FrameRate,
    tracks: dict[str, tuple[Hold, ...]],
    parts: Mapping[tuple[str, str], tuple[Hold, ...]] = MappingProxyType({}),
    notes: Mapping[int, str] = MappingProxyType({}),
) -> bytes:
    """The whole document; `tracks` are the holds of each character's mouth, `parts` those of other parts of a face, by
    character and name, `notes` by frame.
    """
    document = reading_to_dict(reading)
    whole: dict[str, Any] = {
        "version": document["version"],
        "rate": str(rate),
        "duration": document["duration"],
        **{key: document[key] for key in ("lines", "turns") if key in document},
        "tracks": [{"character": name, "holds": holds_to_list(holds)} for name, holds in tracks.items()],
    }
    whole["tracks"] += [
        {"character": name, "part": part, "holds": holds_to_list(holds)} for (name, part), holds in parts.items()
    ]
    if notes:
        whole["notes"] = [{"frame": frame, "text": text} for frame, text in sorted(notes.items())]
    return (json.dumps(whole, ensure_ascii=False, indent=1) + "\n").encode()


def reading_from_dict(document: Any) -> Reading:
    """The reading of a document; raises `FormatError` for anything that is not one."""
    try:
        if document["version"] != VERSION:
            raise FormatError(f"This reading is of version {document['version']}; version {VERSION} is understood.")
        lines = tuple(_line_from_dict(line) for line in document["lines"])
        turns = tuple(
            Turn(
                str(t["speaker"]),
                us_from_seconds(t["start"]),
                us_from_seconds(t["end"]),
                bool(t["by_hand"]),
                int(t.get("id", 0)),
            )
            for t in document.get("turns", ())
        )
        return Reading(us_from_seconds(document["duration"]), lines, turns)
    except FormatError:
        raise
    except TinForkError as error:
        raise FormatError(f"The reading contradicts itself: {error}") from error
    except (KeyError, TypeError, ValueError, AttributeError, OverflowError, RecursionError) as error:
        raise FormatError("This is not a reading: a part is missing or of the wrong kind.") from error


def _line_from_dict(line: dict[str, Any]) -> Line:
    words = tuple(
        Word(
            str(word["text"]),
            us_from_seconds(word["start"]),
            us_from_seconds(word["end"]),
            tuple(
                Phoneme(
                    str(p["ipa"]),
                    us_from_seconds(p["start"]),
                    us_from_seconds(p["end"]),
                    float(p["confidence"]),
                    int(p.get("id", 0)),
                )
                for p in word["phonemes"]
            ),
            float(word["confidence"]),
            bool(word.get("pinned", False)),
            str(word.get("heard", "")),
            tuple(str(other) for other in word.get("others", ())),
            int(word.get("id", 0)),
        )
        for word in line["words"]
    )
    also = tuple(str(speaker) for speaker in line.get("also", ()))
    unsaid = tuple(str(word) for word in line.get("unsaid", ()))
    extras = tuple(
        Extra(us_from_seconds(e["start"]), us_from_seconds(e["end"]), str(e["heard"])) for e in line.get("extras", ())
    )
    way = str(line.get("way", ""))
    return Line(
        str(line["speaker"]),
        str(line["text"]),
        str(line["language"]),
        words,
        also,
        unsaid,
        way,
        extras,
        int(line.get("id", 0)),
    )


def read(data: bytes) -> Reading:
    """The reading in a JSON file; raises `FormatError` whatever the bytes."""
    try:
        document = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise FormatError("This is not JSON text.") from error
    return reading_from_dict(document)
