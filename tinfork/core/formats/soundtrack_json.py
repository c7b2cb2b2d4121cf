"""A soundtrack as plain values, as a shot keeps it: version 1. Times are whole microseconds.

    {"version": 1, "length": 0, "tracks": [{"id", "name", "kind", "muted"}],
     "clips": [{"id", "track", "take", "take_length", "start", "in", "length", "voice",
      "fade_in", "fade_out", "gain", "slip"}],
     "voices": [{"id", "take", "reading": {...}}], "pins": [[key, start, end, {"character", "drawing", "set",
     "exact"}]], "notes": [[at, text, id]],
     "keys": [[character, part, at, [x, y, turn, stretch, lean, size], way, step, made_by]],
     "pass_notes": [[character, part, text]]}

Readings are as in `reading_json`.
"""

import json
from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Any

from tinfork.core.errors import FormatError, TinForkError
from tinfork.core.formats.reading_json import line_from_dict, reading_from_dict, reading_to_dict
from tinfork.core.formats.versions import SOUNDTRACK
from tinfork.core.motion.curve import MOST_STEP, WAYS
from tinfork.core.motion.pose import Pose
from tinfork.core.soundtrack.model import Clip, MotionKey, Note, PassNote, Pin, PinnedMouth, Soundtrack, Track, Voice
from tinfork.core.speech.reading import Line, Reading

_CLIP = {
    "id": "id",
    "track": "track",
    "take": "take",
    "take_length": "take_us",
    "start": "start_us",
    "in": "in_us",
    "length": "length_us",
    "voice": "voice",
    "fade_in": "fade_in_us",
    "fade_out": "fade_out_us",
    "gain": "gain_db",
    "slip": "slip_us",
}


def clip_to_dict(clip: Clip) -> dict[str, Any]:
    """One clip."""
    return {key: getattr(clip, field) for key, field in _CLIP.items()}


def track_to_dict(track: Track) -> dict[str, Any]:
    """One track."""
    return {"id": track.id, "name": track.name, "kind": track.kind, "muted": track.is_muted}


def _voice_to_dict(voice: Voice) -> dict[str, Any]:
    return {"id": voice.id, "take": voice.take, "reading": reading_to_dict(voice.reading)}


def _pin_to_list(pin: Pin) -> list[Any]:
    span: list[Any] = [pin.key, pin.start_us, pin.end_us]
    if pin.mouth is None:
        return span
    mouth = pin.mouth
    shown = {"character": mouth.character, "drawing": mouth.drawing, "set": mouth.set, "exact": mouth.is_exact}
    return [*span, shown]


def _pin_from_list(values: list[Any]) -> Pin:
    key, start_us, end_us, *rest = values
    if not rest:
        return Pin(int(key), int(start_us), int(end_us))
    (m,) = rest
    drawing = None if m["drawing"] is None else int(m["drawing"])
    mouth = PinnedMouth(str(m["character"]), drawing, str(m["set"]), bool(m["exact"]))
    return Pin(int(key), int(start_us), int(end_us), mouth)


def _note_from_list(values: list[Any]) -> Note:
    at_us, text, *number = values
    (id_,) = number or (0,)
    return Note(int(at_us), str(text), int(id_))


def _key_from_list(values: list[Any]) -> MotionKey:
    character, part, at_us, pose, way, step, made_by = values
    if way not in WAYS or not 1 <= step <= MOST_STEP:
        raise ValueError(way)
    return MotionKey(str(character), str(part), int(at_us), Pose.of(pose), way, int(step), str(made_by))


def soundtrack_to_dict(st: Soundtrack) -> dict[str, Any]:
    """The whole document."""
    return _timeline_to_dict(st, [_voice_to_dict(v) for v in st.voices]) | annotations_to_dict(st)


def _timeline_to_dict(st: Soundtrack, voices: list[dict[str, Any]]) -> dict[str, Any]:
    return {
        "version": SOUNDTRACK.version,
        "length": st.length_us,
        "tracks": [track_to_dict(t) for t in st.tracks],
        "clips": [clip_to_dict(c) for c in st.clips],
        "voices": voices,
    }


def timeline_to_dict(st: Soundtrack) -> dict[str, Any]:
    """The document without its annotations, and with the lasting numbers of lines in place of the lines.

    Lines are stored separately, since an edit changes one or two of them.

    Raises
    ------
    FormatError
        For lines that share a number, or have none.
    """
    numbers = [line.id for voice in st.voices for line in voice.reading.lines]
    if 0 in numbers or len(set(numbers)) < len(numbers):
        raise FormatError("soundtrack.not_a_soundtrack")
    voices = [_voice_to_dict(replace(v, reading=replace(v.reading, lines=()))) for v in st.voices]
    for voice, document in zip(st.voices, voices, strict=True):
        document["reading"]["lines"] = [line.id for line in voice.reading.lines]
    return _timeline_to_dict(st, voices)


def line_numbers(timeline: dict[str, Any]) -> list[int]:
    """The numbers of all lines in a document of `timeline_to_dict`."""
    return [number for voice in timeline["voices"] for number in voice["reading"]["lines"]]


def soundtrack_from_parts(
    timeline: dict[str, Any], annotations: dict[str, Any], lines: Mapping[int, Line]
) -> Soundtrack:
    """The soundtrack from its timeline, its annotations and its lines by number."""
    bare = [voice | {"reading": voice["reading"] | {"lines": []}} for voice in timeline["voices"]]
    st = soundtrack_from_dict({**timeline, "voices": bare, **annotations})
    voices = tuple(
        replace(v, reading=replace(v.reading, lines=tuple(lines[n] for n in document["reading"]["lines"])))
        for v, document in zip(st.voices, timeline["voices"], strict=True)
    )
    return replace(st, voices=voices)


def annotations_to_dict(st: Soundtrack) -> dict[str, Any]:
    """The document's annotations, that is pins, notes, keys and notes about passes: what people set by hand."""
    return {
        "pins": [_pin_to_list(p) for p in st.pins],
        "notes": [[n.at_us, n.text, *([n.id] if n.id else [])] for n in st.notes],
        "keys": [[k.character, k.part, k.at_us, k.pose.numbers, k.way, k.step, k.made_by] for k in st.keys],
        "pass_notes": [[n.character, n.part, n.text] for n in st.pass_notes],
    }


def soundtrack_from_dict(document: Any) -> Soundtrack:
    """The soundtrack in a document.

    Raises
    ------
    FormatError
        For anything that is not one.
    """
    try:
        if not SOUNDTRACK.knows(document["version"]):
            raise FormatError("soundtrack.other_version", document=document["version"], version=SOUNDTRACK.version)
        document = SOUNDTRACK.upgraded(document)
        return Soundtrack(
            tracks=tuple(Track(t["id"], str(t["name"]), t["kind"], bool(t["muted"])) for t in document["tracks"]),
            clips=tuple(Clip(**{field: c[key] for key, field in _CLIP.items()}) for c in document["clips"]),
            voices=tuple(Voice(v["id"], v["take"], reading_from_dict(v["reading"])) for v in document["voices"]),
            length_us=document["length"],
            **_annotations(document),
        )
    except FormatError:
        raise
    except TinForkError as error:
        raise FormatError("soundtrack.contradiction", error=error) from error
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise FormatError("soundtrack.not_a_soundtrack") from error


def _annotations(document: dict[str, Any]) -> dict[str, Any]:
    return _annotations_in({key: document.get(key, ()) for key in _ANNOTATION_READERS})


def _annotations_in(document: dict[str, Any]) -> dict[str, Any]:
    """The annotations in a document."""
    return {key: tuple(map(read, document[key])) for key, read in _ANNOTATION_READERS.items() if key in document}


_ANNOTATION_READERS: dict[str, Callable[[list[Any]], Any]] = {
    "pins": _pin_from_list,
    "notes": _note_from_list,
    "keys": _key_from_list,
    "pass_notes": lambda row: PassNote(*map(str, row)),
}


_PLAIN = ("length", "tracks", "clips", "pins", "notes", "keys", "pass_notes")
#: Prefixes of the names of parts, before a voice's number: a whole voice, and some lines of one.
_VOICE, _LINES = "voice ", "lines "


def document_parts(document: dict[str, Any]) -> dict[str, Any]:
    """A document as the parts that edits store: each voice is a part, named by its number."""
    voices = {f"{_VOICE}{v['id']}": v for v in document["voices"]}
    return {key: document.get(key, []) for key in _PLAIN} | voices


#: Parts that are sorted rows: an edit stores only the rows that it changed.
ANNOTATIONS: dict[str, Callable[[list[Any]], Any]] = {
    "pins": lambda row: (row[1], row[0]),
    "notes": lambda row: row[0],
    "keys": lambda row: (row[2], row[0], row[1]),
    "pass_notes": lambda row: (row[0], row[1]),
}


def to_patch(old: Soundtrack, new: Soundtrack) -> tuple[dict[str, Any], dict[str, Any]]:
    """The parts in which two soundtracks differ, as each has them (None if it has not); of pins and notes, the rows.

    Of a voice whose reading differs, the lines:

    `{"at": number of the first, "lines": [...]}`. Equal voices are not converted at all, so that editing a mouth is
    fast in a long reading, too.
    """
    lines = {
        voice.id: part
        for voice in old.voices
        if (other := next((v for v in new.voices if v.id == voice.id), None)) and (part := _changed_lines(voice, other))
    }
    before, after = (
        document_parts(soundtrack_to_dict(_apart(st, other, lines))) | {"clips": [clip_to_dict(c) for c in st.clips]}
        for st, other in ((old, new), (new, old))
    )
    keys = [key for key in {**before, **after} if before.get(key) != after.get(key)]
    gone, come = ({key: parts.get(key) for key in keys} for parts in (before, after))
    for number, (was, now) in lines.items():
        gone[f"{_LINES}{number}"], come[f"{_LINES}{number}"] = was, now
    return gone, come


def _changed_lines(old: Voice, new: Voice) -> tuple[dict[str, Any], dict[str, Any]] | None:
    """The lines of a voice that differ between two states; None if none do, or if more than lines differs."""
    if old is new or replace(old, reading=replace(old.reading, lines=())) != replace(
        new, reading=replace(new.reading, lines=())
    ):
        return None
    before, after = old.reading.lines, new.reading.lines
    most = min(len(before), len(after))
    first = next((at for at in range(most) if before[at] != after[at]), most)
    same = next((at for at in range(most - first) if before[-1 - at] != after[-1 - at]), most - first)
    if first == len(before) == len(after):
        return None
    cut = [lines[first : len(lines) - same] for lines in (before, after)]
    was, now = (reading_to_dict(Reading(old.reading.duration_us, lines))["lines"] for lines in cut)
    return {"at": first, "lines": was}, {"at": first, "lines": now}


def _apart(st: Soundtrack, other: Soundtrack, but: Collection[int]) -> Soundtrack:
    """A soundtrack with only the voices, pins, notes and keys that another one lacks, and without clips."""
    voices, pins, notes = {v.id: v for v in other.voices}, set(other.pins), set(other.notes)
    keys, pass_notes = set(other.keys), set(other.pass_notes)
    return replace(
        st,
        clips=(),
        voices=tuple(v for v in st.voices if v.id not in but and v is not voices.get(v.id) and v != voices.get(v.id)),
        pins=tuple(p for p in st.pins if p not in pins),
        notes=tuple(n for n in st.notes if n not in notes),
        keys=tuple(k for k in st.keys if k not in keys),
        pass_notes=tuple(n for n in st.pass_notes if n not in pass_notes),
    )


def patched_document(document: dict[str, Any], gone: dict[str, Any], come: dict[str, Any]) -> dict[str, Any]:
    """A document after an edit or its undo: the state `gone` of the changed parts is replaced by the state `come`.

    Both name the same parts.
    """
    whole = {**document_parts(document), **come, **_changed_annotations(document, gone, come)}
    for key, part in come.items():
        if key.startswith(_LINES):
            voice = _VOICE + key.removeprefix(_LINES)
            whole[voice] = _with_lines(whole[voice], gone[key], part)
    voices = [value for key, value in whole.items() if key.startswith(_VOICE) and value is not None]
    return {
        "version": document["version"],
        **{key: whole[key] for key in _PLAIN},
        "voices": sorted(voices, key=lambda v: v["id"]),
    }


def _with_lines(voice: dict[str, Any], gone: dict[str, Any], come: dict[str, Any]) -> dict[str, Any]:
    """A voice in which some lines are replaced by others."""
    lines, at = voice["reading"]["lines"], gone["at"]
    new = [*lines[:at], *come["lines"], *lines[at + len(gone["lines"]) :]]
    return voice | {"reading": voice["reading"] | {"lines": new}}


def said_first(gone: dict[str, Any], come: dict[str, Any]) -> bool:
    """Whether one of two states of the changed parts has no words at all and the other has some."""
    return not _says_words(gone) and _says_words(come)


def _says_words(parts: dict[str, Any]) -> bool:
    lines = [part["lines"] for key, part in parts.items() if key.startswith(_LINES)]
    lines += [part["reading"]["lines"] for key, part in parts.items() if key.startswith(_VOICE) and part]
    return any(line["words"] for some in lines for line in some)


def apply_patch(
    st: Soundtrack, document: Callable[[], dict[str, Any]], gone: dict[str, Any], come: dict[str, Any]
) -> Soundtrack:
    """A soundtrack after an edit or its undo, as `patched_document` does it to a document.

    Only the changed rows and lines are parsed.

    Raises
    ------
    FormatError
        For parts that are none.
    """
    if any(key in come for key in _PLAIN if key not in ANNOTATIONS) or any(key.startswith(_VOICE) for key in come):
        return soundtrack_from_dict(patched_document(document(), gone, come))
    try:
        has_lines = any(key.startswith(_LINES) for key in come)
        voices = tuple(_voice_after(v, gone, come) for v in st.voices) if has_lines else st.voices
        annotations = {key: annotations_to_dict(st)[key] for key in ANNOTATIONS if key in come}
        return replace(st, voices=voices, **_annotations_in(_changed_annotations(annotations, gone, come)))
    except TinForkError as error:
        raise FormatError("soundtrack.contradiction", error=error) from error
    except (KeyError, TypeError, ValueError) as error:
        raise FormatError("soundtrack.not_an_edit") from error


def _voice_after(voice: Voice, gone: dict[str, Any], come: dict[str, Any]) -> Voice:
    """A voice after an edit: a new one, or the old one with some lines replaced."""
    key = f"{_LINES}{voice.id}"
    if key not in come:
        return voice
    at, lines = gone[key]["at"], voice.reading.lines
    new = (*lines[:at], *map(line_from_dict, come[key]["lines"]), *lines[at + len(gone[key]["lines"]) :])
    return replace(voice, reading=replace(voice.reading, lines=new))


def _changed_annotations(document: dict[str, Any], gone: dict[str, Any], come: dict[str, Any]) -> dict[str, Any]:
    return {
        key: sorted([*_without(document.get(key, []), gone[key], key), *come[key]], key=place)
        for key, place in ANNOTATIONS.items()
        if key in come
    }


def _without(rows: list[Any], others: list[Any], kind: str) -> list[Any]:
    def as_text(row: list[Any]) -> str:
        # Notes are compared without their numbers, and the database may return the keys of a row in another order.
        return json.dumps(row[:2] if kind == "notes" else row, sort_keys=True)

    there = set(map(as_text, others))
    return [row for row in rows if as_text(row) not in there]
