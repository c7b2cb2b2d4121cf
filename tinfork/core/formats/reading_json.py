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
     "notes": [{"frame", "text"}],
     "shot": {"production", "name", "version", "first_frame", "width", "height",
              "figures": [{"character", "x", "y", "size", "turn", "mirrored", "depth",
              "motion": {part: [[frame, [x, y, turn, stretch, lean, size], way, step, is_proposed]]}}]}}

`id` (a number that lasts as long as what has it, a sound's in its word), `also` (others who say the line too), `way`
(how it was read), `unsaid` (words of its text that are not heard), `extras` (speech that none of its words has),
`pinned` (a person put it there), `heard` (what seems to be said instead of a word, or where there is none), `others`
(what else a word that nobody typed may be), `turns`, `part` (of a face, where it is not the mouth) and `notes` are left
out where there are none; so is `shot`, where the reading is not of one (see `core/scene/layout.py` for its figures).
`docs/formats/reading.schema.json` is its JSON Schema.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any

from tinfork.core.clock import FrameRate, seconds_from_us, us_from_seconds
from tinfork.core.errors import FormatError, TinForkError
from tinfork.core.formats.versions import READING
from tinfork.core.motion.curve import MOST_STEP, WAYS, FrameKey
from tinfork.core.motion.pose import Pose
from tinfork.core.scene.boil import Boil
from tinfork.core.scene.choices import FIRST, RATE, as_chosen
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.layout import Stand
from tinfork.core.scene.scene import Figure, Scene
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.speech.reading import Extra, Line, Phoneme, Reading, Turn, Word


def reading_to_dict(reading: Reading) -> dict[str, Any]:
    """The reading alone, as plain values."""
    document: dict[str, Any] = {
        "version": READING.version,
        "duration": seconds_from_us(reading.duration_us),
        "lines": [line_to_dict(line) for line in reading.lines],
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


def line_to_dict(line: Line) -> dict[str, Any]:
    """One line as plain values."""
    return {
        **_number(line),
        "speaker": line.speaker,
        **({"also": list(line.co_speakers)} if line.co_speakers else {}),
        "text": line.text,
        "language": line.language,
        **({"way": line.method} if line.method else {}),
        **({"unsaid": list(line.missing_words)} if line.missing_words else {}),
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
    shot: Mapping[str, Any] | None = None,
) -> bytes:
    """The whole document.

    `tracks` are the holds of each character's mouth, `parts` those of other parts of a face, by character and name,
    `notes` by frame, `shot` what the shot is called and how it is laid out.
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
    if shot:
        whole["shot"] = dict(shot)
    return (json.dumps(whole, ensure_ascii=False, indent=1) + "\n").encode()


def reading_from_dict(document: Any) -> Reading:
    """The reading in a document.

    Raises
    ------
    FormatError
        For anything that is not one.
    """
    try:
        if not READING.knows(document["version"]):
            raise FormatError("reading.other_version", document=document["version"], version=READING.version)
        document = READING.upgraded(document)
        lines = tuple(line_from_dict(line) for line in document["lines"])
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
        raise FormatError("reading.contradiction", error=error) from error
    except (KeyError, TypeError, ValueError, AttributeError, OverflowError, RecursionError) as error:
        raise FormatError("reading.not_a_reading") from error


def line_from_dict(line: dict[str, Any]) -> Line:
    """A line from plain values.

    Raises
    ------
    KeyError
        For what is none.
    TypeError
        For what is none.
    ValueError
        For what is none.
    TinForkError
        For what is none.
    """
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
    """The reading in a JSON file.

    Raises
    ------
    FormatError
        Whatever the bytes.
    """
    return reading_from_dict(_parsed(data))


def _parsed(data: bytes) -> Any:
    try:
        return json.loads(data)
    except (ValueError, RecursionError) as error:
        raise FormatError("reading.not_json") from error


@dataclass(frozen=True)
class Document:
    """Everything in a file.

    The reading, the rate, what columns show by character and part ("" the mouth), notes, what the shot is called, where
    its characters stand.
    """

    reading: Reading
    rate: FrameRate
    tracks: Mapping[tuple[str, str], tuple[Hold, ...]]
    notes: Mapping[int, str] = field(default_factory=dict)
    production: str = ""
    name: str = ""
    version: str = ""
    first_frame: int = 1
    size: tuple[int, int] = (1920, 1080)
    stands: Mapping[str, Stand] = field(default_factory=dict)
    #: How characters move, by what moves of them.
    motions: Mapping[str, Mapping[str, tuple[FrameKey, ...]]] = field(default_factory=dict)
    boil: Boil = field(default_factory=Boil)


def read_document(data: bytes) -> Document:
    """All of a JSON file.

    Raises
    ------
    FormatError
        Whatever the bytes.
    """
    parsed = _parsed(data)
    reading = reading_from_dict(parsed)
    try:
        rate = FrameRate.parse(str(parsed["rate"]).removesuffix("/1"))
        frames = rate.frames_in(reading.duration_us)
        tracks = {
            (str(t["character"]), str(t.get("part", ""))): _holds_from_list(t["holds"], frames)
            for t in parsed["tracks"]
        }
        notes = {int(note["frame"]): str(note["text"]) for note in parsed.get("notes", ())}
        shot = parsed.get("shot") or {}
        size = int(shot.get("width", 1920)), int(shot.get("height", 1080))
        first = int(shot.get("first_frame", 1))
        if not (min(size) >= 16 and max(size) <= 8192 and 0 <= first <= 10_000_000):
            raise FormatError("reading.picture_size")
        stands = {str(f["character"]): Stand.from_dict(f) for f in shot.get("figures", ())}
        motions = {str(f["character"]): _motions(f.get("motion", {})) for f in shot.get("figures", ())}
        boil = Boil.from_dict(shot.get("boil") or {})
        production, name, version = (str(shot.get(key, "")) for key in ("production", "name", "version"))
        return Document(reading, rate, tracks, notes, production, name, version, first, size, stands, motions, boil)
    except FormatError:
        raise
    except TinForkError as error:
        raise FormatError("reading.contradiction", error=error) from error
    except (KeyError, TypeError, ValueError, AttributeError, OverflowError, RecursionError) as error:
        raise FormatError("reading.not_with_holds") from error


def _holds_from_list(rows: Any, frames: int) -> tuple[Hold, ...]:
    """Holds that follow each other from the first frame to the last; none at all is a track without any.

    Raises
    ------
    FormatError
        For gaps between them, and an end elsewhere than after the last frame.
    """
    holds = tuple(
        Hold(
            int(row["start"]),
            int(row["end"]),
            NO_MOUTH if row["drawing"] is None else int(row["drawing"]),
            str(row["viseme"]),
            str(row["set"]),
        )
        for row in rows
    )
    at = 0
    for hold in holds:
        if hold.start != at or hold.end <= at:
            raise FormatError("reading.holds_with_gaps")
        at = hold.end
    if holds and at != frames:
        raise FormatError("reading.holds_end_elsewhere", frames=frames, at=at)
    return holds


def _as_chosen(scene: Scene, values: Values) -> bytes:
    return of_scene(as_chosen(scene, values))


def _moving(figure: Figure) -> dict[str, Any]:
    motion = {
        part: [[k.frame, k.pose.numbers, k.way, k.step, k.is_proposed] for k in keys]
        for part, keys in figure.motions.items()
    }
    return {"motion": motion} if motion else {}


def _motions(motion: dict[str, Any]) -> dict[str, tuple[FrameKey, ...]]:
    return {str(part): _keys_from_list(rows) for part, rows in motion.items()}


def _keys_from_list(rows: list[Any]) -> tuple[FrameKey, ...]:
    keys = tuple(FrameKey(int(at), Pose.of(pose), way, int(step), bool(by)) for at, pose, way, step, by in rows)
    if any(key.way not in WAYS or not 1 <= key.step <= MOST_STEP for key in keys):
        raise ValueError("way")
    frames = [key.frame for key in keys]
    if frames != sorted(set(frames)) or any(not 0 <= frame < 1_000_000 for frame in frames):
        raise FormatError("reading.keys_out_of_order")
    return keys


def of_scene(scene: Scene) -> bytes:
    """The document of a shot."""
    parts = {(f.name, column.name): column.holds for f in scene.figures for column in f.columns[1:]}
    shot = {
        "production": scene.production,
        "name": scene.name,
        **({"version": scene.version} if scene.version else {}),
        "first_frame": scene.first_frame,
        "width": scene.size[0],
        "height": scene.size[1],
        **({"boil": boil} if (boil := scene.boil.to_dict()) else {}),
        "figures": [{"character": f.name, **f.stand.to_dict(), **_moving(f)} for f in scene.figures],
    }
    return write(scene.reading, scene.rate, scene.holds_by_name, parts, scene.notes, shot)


EXPORTER = Exporter(
    "json",
    "Open data (JSON), without loss",
    Purpose.ARCHIVE,
    ".json",
    "application/json",
    of_bytes(_as_chosen),
    (FIRST, RATE),
    "lines, words and sounds in seconds, holds in frames, positions; imports again without loss",
)
