"""A soundtrack as plain values, as a shot keeps it: version 1. Times are whole microseconds.

    {"version": 1, "length": 0, "tracks": [{"id", "name", "kind", "muted"}],
     "clips": [{"id", "track", "take", "take_length", "start", "in", "length", "voice",
      "fade_in", "fade_out", "gain", "slip"}],
     "voices": [{"id", "take", "reading": {...}}], "pins": [[key, start, end, {"character", "drawing", "set",
     "exact"}]], "notes": [[at, text]],
     "keys": [[character, part, at, [x, y, turn, stretch, lean, size], way, step, made_by]],
     "pass_notes": [[character, part, text]]}

Readings are as in `reading_json`.
"""

import json
from collections.abc import Callable, Collection
from dataclasses import replace
from typing import Any

from tinfork.core.errors import FormatError, TinForkError
from tinfork.core.formats.reading_json import reading_from_dict, reading_to_dict
from tinfork.core.motion.curve import MOST_STEP, WAYS
from tinfork.core.motion.pose import Pose
from tinfork.core.soundtrack.model import Clip, MotionKey, Note, PassNote, Pin, PinnedMouth, Soundtrack, Track, Voice
from tinfork.core.speech.reading import Reading

VERSION = 1

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


def _key_from_list(values: list[Any]) -> MotionKey:
    character, part, at_us, pose, way, step, made_by = values
    if way not in WAYS or not 1 <= step <= MOST_STEP:
        raise ValueError(way)
    return MotionKey(str(character), str(part), int(at_us), Pose.of(pose), way, int(step), str(made_by))


def soundtrack_to_dict(st: Soundtrack) -> dict[str, Any]:
    """The whole document."""
    return heard_to_dict(st) | rows_to_dict(st)


def heard_to_dict(st: Soundtrack) -> dict[str, Any]:
    """The document without its rows: what is heard, which most edits leave as it is."""
    return {
        "version": VERSION,
        "length": st.length_us,
        "tracks": [track_to_dict(t) for t in st.tracks],
        "clips": [clip_to_dict(c) for c in st.clips],
        "voices": [_voice_to_dict(v) for v in st.voices],
    }


def rows_to_dict(st: Soundtrack) -> dict[str, Any]:
    """The document's rows, pins, notes, keys and notes about passes: what people set by hand."""
    return {
        "pins": [_pin_to_list(p) for p in st.pins],
        "notes": [[n.at_us, n.text] for n in st.notes],
        "keys": [[k.character, k.part, k.at_us, k.pose.numbers, k.way, k.step, k.made_by] for k in st.keys],
        "pass_notes": [[n.character, n.part, n.text] for n in st.pass_notes],
    }


def soundtrack_from_dict(document: Any) -> Soundtrack:
    """The soundtrack of a document; raises `FormatError` for anything that is not one."""
    try:
        if document["version"] != VERSION:
            raise FormatError("soundtrack.other_version", document=document["version"], version=VERSION)
        return Soundtrack(
            tracks=tuple(Track(t["id"], str(t["name"]), t["kind"], bool(t["muted"])) for t in document["tracks"]),
            clips=tuple(Clip(**{field: c[key] for key, field in _CLIP.items()}) for c in document["clips"]),
            voices=tuple(Voice(v["id"], v["take"], reading_from_dict(v["reading"])) for v in document["voices"]),
            length_us=document["length"],
            **_rows(document),
        )
    except FormatError:
        raise
    except TinForkError as error:
        raise FormatError("soundtrack.contradiction", error=error) from error
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise FormatError("soundtrack.not_a_soundtrack") from error


def _rows(document: dict[str, Any]) -> dict[str, Any]:
    return {
        "pins": tuple(_pin_from_list(pin) for pin in document.get("pins", ())),
        "notes": tuple(Note(int(at), str(text)) for at, text in document.get("notes", ())),
        "keys": tuple(_key_from_list(key) for key in document.get("keys", ())),
        "pass_notes": tuple(PassNote(*map(str, note)) for note in document.get("pass_notes", ())),
    }


_PLAIN = ("length", "tracks", "clips", "pins", "notes", "keys", "pass_notes")
#: What the parts of voices are called, whole and of some lines, before their number.
_VOICE, _LINES = "voice ", "lines "


def parts_of(document: dict[str, Any]) -> dict[str, Any]:
    """A document's parts as edits keep them: voices by number, so that one can be told from the next."""
    voices = {f"{_VOICE}{v['id']}": v for v in document["voices"]}
    return {key: document.get(key, []) for key in _PLAIN} | voices


#: Parts that are rows in an order of their own: of these an edit keeps only what it changed, however many there are.
ROWS: dict[str, Callable[[list[Any]], Any]] = {
    "pins": lambda row: (row[1], row[0]),
    "notes": lambda row: row[0],
    "keys": lambda row: (row[2], row[0], row[1]),
    "pass_notes": lambda row: (row[0], row[1]),
}


def changed_parts(old: Soundtrack, new: Soundtrack) -> tuple[dict[str, Any], dict[str, Any]]:
    """The parts of two soundtracks that differ, as they are in each (None: not there); of pins and notes, the rows; of
    a voice that was read otherwise, the lines: `{"at": number of the first, "lines": [...]}`.

    Voices that are the same in both are not written out: an edit of a mouth costs nothing of a long reading.
    """
    lines = {
        voice.id: part
        for voice in old.voices
        if (other := next((v for v in new.voices if v.id == voice.id), None)) and (part := _changed_lines(voice, other))
    }
    before, after = (
        parts_of(soundtrack_to_dict(_apart(st, other, lines))) | {"clips": [clip_to_dict(c) for c in st.clips]}
        for st, other in ((old, new), (new, old))
    )
    keys = [key for key in {**before, **after} if before.get(key) != after.get(key)]
    gone, come = ({key: parts.get(key) for key in keys} for parts in (before, after))
    for number, (was, now) in lines.items():
        gone[f"{_LINES}{number}"], come[f"{_LINES}{number}"] = was, now
    return gone, come


def _changed_lines(old: Voice, new: Voice) -> tuple[dict[str, Any], dict[str, Any]] | None:
    """The lines of a voice that differ between two states; None where nothing does, or more of it than its lines."""
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
    """A soundtrack without the clips, without some voices, and without the voices, pins, notes and keys that the other
    one has too.
    """
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


def with_parts(document: dict[str, Any], gone: dict[str, Any], come: dict[str, Any]) -> dict[str, Any]:
    """A document after an edit, or after its undo: of two states of the changed parts, the one goes and the other
    comes. Both name the same parts.
    """
    whole = {**parts_of(document), **come, **_changed_rows(document, gone, come)}
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
    """A voice of which some lines go and others come in their place."""
    lines, at = voice["reading"]["lines"], gone["at"]
    new = [*lines[:at], *come["lines"], *lines[at + len(gone["lines"]) :]]
    return voice | {"reading": voice["reading"] | {"lines": new}}


def said_first(gone: dict[str, Any], come: dict[str, Any]) -> bool:
    """Whether of two states of the changed parts the one says no words at all and the other some."""
    return not _says_words(gone) and _says_words(come)


def _says_words(parts: dict[str, Any]) -> bool:
    lines = [part["lines"] for key, part in parts.items() if key.startswith(_LINES)]
    lines += [part["reading"]["lines"] for key, part in parts.items() if key.startswith(_VOICE) and part]
    return any(line["words"] for some in lines for line in some)


def after_parts(
    st: Soundtrack, document: Callable[[], dict[str, Any]], gone: dict[str, Any], come: dict[str, Any]
) -> Soundtrack:
    """A soundtrack, of which `document` tells the document, as `with_parts` makes it; what is heard is not read anew
    where only rows change. Raises `FormatError` for parts that are none.
    """
    if any(key in come for key in _PLAIN if key not in ROWS) or any(key.startswith((_VOICE, _LINES)) for key in come):
        return soundtrack_from_dict(with_parts(document(), gone, come))
    try:
        return replace(st, **_rows(rows_to_dict(st) | _changed_rows(rows_to_dict(st), gone, come)))
    except (KeyError, TypeError, ValueError) as error:
        raise FormatError("soundtrack.not_an_edit") from error


def _changed_rows(document: dict[str, Any], gone: dict[str, Any], come: dict[str, Any]) -> dict[str, Any]:
    return {
        key: sorted([*_without(document.get(key, []), gone[key]), *come[key]], key=place)
        for key, place in ROWS.items()
        if key in come
    }


def _without(rows: list[Any], others: list[Any]) -> list[Any]:
    # Whoever stores a row may put its names in another order.
    there = {json.dumps(row, sort_keys=True) for row in others}
    return [row for row in rows if json.dumps(row, sort_keys=True) not in there]
