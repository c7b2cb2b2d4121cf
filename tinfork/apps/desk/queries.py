"""The data of the Desk as plain values: times in microseconds, frames from 0."""

from collections.abc import Sequence
from dataclasses import asdict
from itertools import chain
from operator import itemgetter
from typing import Any

from django.utils.translation import gettext

from tinfork.apps.cast.models import Character, Drawing, Part
from tinfork.apps.cast.queries import (
    drawing_document,
    face_tracing_addresses,
    place_document,
    set_face_document,
    tracing_addresses,
)
from tinfork.apps.cast.small_pictures import small_pictures_address, thumb_address
from tinfork.apps.common.recent_cache import RecentCache
from tinfork.apps.common.serve import address_of
from tinfork.apps.desk.looks import looks_document
from tinfork.apps.desk.telling import remember_whole, shortened
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.layout import stands_of
from tinfork.apps.reading.actions.soundtracks import leaves_nothing_read, touched_since
from tinfork.apps.reading.actions.versions import shot_as_of
from tinfork.apps.reading.documents import reel_document, sound_document
from tinfork.apps.reading.models import Edit, Version
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import (
    columns_of,
    drawings_of,
    other_parts,
    part_holds,
    part_key,
    solution_of,
    solve_character,
    with_sets,
)
from tinfork.core.clock import FrameRate
from tinfork.core.kept import common_ends, kept, of_each
from tinfork.core.motion.gestures import said_reason
from tinfork.core.mouths.placement import Placement
from tinfork.core.scene.boil import Boil, drawing_width
from tinfork.core.solver.explain import explain
from tinfork.core.solver.holds import HoldColumns
from tinfork.core.solver.numbers import Numbers, differing, numbers_of
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.soundtrack.columns import frames_of
from tinfork.core.soundtrack.keys import key_frame
from tinfork.core.soundtrack.mix import heard_clips
from tinfork.core.soundtrack.model import Pin
from tinfork.core.soundtrack.pinning import mouth_pins
from tinfork.core.soundtrack.project import PlacedLine, PlacedTurn
from tinfork.core.speech.reading import DOUBTFUL, Line, Reading
from tinfork.core.speech.visemes import VISEMES, typical_sounds


def desk_document(shot: Shot) -> dict[str, Any]:
    """The shot, its reading, its holds, and the URLs of sound and pictures."""
    production, soundtrack = shot.production, shot.soundtrack
    reading = soundtrack.reading
    document = {
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
        **_read(shot),
        **_history(shot, shot.soundtrack.newest_edit),
        "notes": _notes(shot),
        "passNotes": _pass_notes(shot),
        "characters": [
            *(_character(character, shot, reading) for character in shot.characters),
            *(_part(part, shot) for part in other_parts(shot)),
        ],
        "smallPictures": [small_pictures_address(character) for character in shot.characters],
        "looks": looks_document(shot),
        "layout": layout_document(shot),
        "motion": motion_document(shot),
        "reel": reel_document(shot),
    }
    remember_whole(shot.pk, document)
    return document


def motion_document(shot: Shot) -> dict[str, dict[str, list[dict[str, Any]]]]:
    """The keys of motion, by a character's number and what moves."""
    rate = shot.production.rate
    out: dict[str, dict[str, dict[int, dict[str, Any]]]] = {}
    for key in shot.soundtrack.content.keys:
        frame = key_frame(key, rate)
        row = {
            "frame": frame,
            "pose": key.pose.numbers,
            "way": key.way,
            "step": key.step,
            "by": said_reason(key.made_by, gettext),
        }
        out.setdefault(key.character, {}).setdefault(key.part, {})[frame] = row
    return {
        who: {part: [rows[frame] for frame in sorted(rows)] for part, rows in parts.items()}
        for who, parts in out.items()
    }


def layout_document(shot: Shot) -> dict[str, Any]:
    """The places of the shot's characters, by number, the background, and the boil of lines."""
    boil = Boil.from_dict(shot.boil)
    return {
        "stands": {str(character): stand.to_dict() for character, stand in stands_of(shot).items()},
        "ground": shot.ground,
        "boil": {"strength": boil.strength, "rhythm": boil.rhythm},
        "background": address_of("shot_background", shot.pk, shot.background) if shot.background else "",
    }


def _read(shot: Shot) -> dict[str, Any]:
    """The reading (words, sounds, turns), and the sound it was read from."""
    return {
        "words": _words(shot.soundtrack.placed_lines),
        "turns": of_each(_turn, shot.soundtrack.turns),
        "clips": [
            {"id": c.id, "take": c.take, "start": c.start_us, "end": c.start_us + c.length_us, "gain": c.gain_db}
            for c in heard_clips(shot.soundtrack.content)
        ],
        "sound": sound_document(shot, shot.soundtrack),
    }


def _pass_notes(shot: Shot) -> dict[str, dict[str, str]]:
    """The notes about passes, by a character's number and what moves."""
    out: dict[str, dict[str, str]] = {}
    for note in shot.soundtrack.content.pass_notes:
        out.setdefault(note.character, {})[note.part] = note.text
    return out


def _notes(shot: Shot) -> list[dict[str, Any]]:
    rate = shot.production.rate
    return [{"id": n.id, "frame": rate.frame_at(n.at_us), "text": n.text} for n in shot.soundtrack.content.notes]


def _history(shot: Shot, newest: Edit | None) -> dict[str, bool]:
    """Whether there is something to undo and to redo, from the newest edit on.

    The first reading cannot be undone: the Desk needs it.
    """
    # Undone edits are newer than all others.
    has_undone = newest is not None and newest.is_undone
    row = shot.soundtrack
    last = row.edits.filter(is_undone=False).last() if has_undone else newest
    return {"canUndo": last is not None and not leaves_nothing_read(row, last), "canRedo": has_undone}


@kept
def _turn(placed: PlacedTurn) -> dict[str, Any]:
    turn = placed.turn
    return {
        "id": turn.id,
        "speaker": int(turn.speaker or 0),
        "start": turn.start_us,
        "end": turn.end_us,
        "clip": placed.clip,
    }


def _words(lines: Sequence[PlacedLine]) -> list[dict[str, Any]]:
    """All words in order of time, each with its sounds."""
    by_clip: dict[int, list[Line]] = {}
    for line, clip in lines:
        by_clip.setdefault(clip.id, []).append(line)
    of_lines = (of_each(_words_of_line, own, clip) for clip, own in by_clip.items())
    return sorted(chain.from_iterable(chain.from_iterable(of_lines)), key=itemgetter("start"))


@kept
def _words_of_line(line: Line, clip: int) -> list[dict[str, Any]]:
    return [
        {
            "id": word.id,
            "clip": clip,
            "text": word.text,
            "start": word.start_us,
            "end": word.end_us,
            "sure": round(word.confidence, 3),
            "line": line.id,
            "pinned": word.is_pinned,
            "speaker": int(line.speaker or 0),
            "sounds": [
                {
                    "id": phoneme.id,
                    "ipa": phoneme.ipa,
                    "viseme": phoneme.viseme,
                    "start": phoneme.start_us,
                    "end": phoneme.end_us,
                    "sure": round(phoneme.confidence, 3),
                }
                for phoneme in word.phonemes
            ],
        }
        for word in line.words
    ]


def _character(character: Character, shot: Shot, reading: Reading) -> dict[str, Any]:
    mouth = character.mouth
    drawings = drawings_of(mouth)
    return {
        "id": character.pk,
        "of": None,
        "name": character.name,
        "ink": character.ink,
        **place_document(character, mouth),
        "tracings": face_tracing_addresses(character),
        "faces": _faces_of_sets(character, mouth),
        "drawings": _drawings(drawings, mouth.placement),
        **timing_document(shot, character, reading, drawings),
    }


def _part(part: Part, shot: Shot) -> dict[str, Any]:
    """Another part of a face: a column that is only set by hand."""
    drawings = drawings_of(part)
    return {
        "id": int(part_key(part)),
        "of": part.character_id,
        "kind": part.kind,
        "name": part.name if len(shot.characters) == 1 else f"{part.character.name}, {part.name}",
        "ink": part.character.ink,
        **place_document(part.character, part),
        "faces": _faces_of_sets(part.character, part),
        "drawings": _drawings(drawings, part.placement),
        **_part_column(part, shot, drawings),
    }


def _faces_of_sets(character: Character, part: Part) -> dict[str, dict[str, Any]]:
    """The own faces of sets of mouths, by set, with a part's place on each."""
    charts = enumerate(character.mouth.charts.all())
    return {chart.name if at else "": set_face_document(chart, part) for at, chart in charts if chart.face}


def _drawings(drawings: dict[tuple[str, int], Drawing], placement: Placement) -> list[dict[str, Any]]:
    """Drawings with their widths in heights of the face, so that their lines boil as much as the face's."""
    return [
        drawing_document(drawing)
        | {
            "set": set_name,
            "wide": drawing_width(placement, drawing.registration),
            "tracings": tracing_addresses(drawing),
            "thumb": thumb_address(drawing),
            "sounds": [s for c in drawing.shows for s in (typical_sounds(c) if c in VISEMES else (c,))],
            "hidden": drawing.is_hidden,
        }
        for (set_name, _), drawing in drawings.items()
    ]


def timing_document(
    shot: Shot, character: Character, reading: Reading, drawings: dict[tuple[str, int], Drawing]
) -> dict[str, Any]:
    """The results of the dials: the holds and their statistics."""
    solution = solution_of(shot, character, reading)
    holds = with_sets(shot, character, solution)
    numbers = numbers_of(columns_of(solution, holds), solution.rate)
    return {"dials": asdict(solution.dials), **_column(holds, numbers, shot, str(character.pk), drawings)}


def _part_column(part: Part, shot: Shot, drawings: dict[tuple[str, int], Drawing]) -> dict[str, Any]:
    """The column of another part of a face."""
    holds = part_holds(shot, part)
    numbers = numbers_of(HoldColumns.of(holds), shot.production.rate)
    return _column(holds, numbers, shot, part_key(part), drawings)


def _column(
    holds: tuple[Hold, ...], numbers: Numbers, shot: Shot, who: str, drawings: dict[tuple[str, int], Drawing]
) -> dict[str, Any]:
    """Holds, pins and statistics of a column."""
    rate = shot.production.rate
    return {
        "holds": _holds_after(shot.pk, who, holds, drawings),
        "pins": [_pin(p, rate) for p in mouth_pins(shot.soundtrack.content, who)],
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


def _holds(holds: tuple[Hold, ...], drawings: dict[tuple[str, int], Drawing]) -> list[dict[str, Any]]:
    return [
        {
            "start": h.start,
            "end": h.end,
            "drawing": 0 if h.drawing == NO_MOUTH else drawings[h.set, h.drawing].pk,
            "viseme": h.viseme,
            **({"set": h.set} if h.drawing == NO_MOUTH and h.set else {}),
        }
        for h in holds
    ]


def _holds_after(
    shot: int, who: str, holds: tuple[Hold, ...], drawings: dict[tuple[str, int], Drawing]
) -> list[dict[str, Any]]:
    """The holds as plain values.

    Unchanged ones are identical objects to those sent last for this column of the shot.
    """
    numbers = {key: drawing.pk for key, drawing in drawings.items()}
    last = _COLUMNS.get((shot, who))
    if last and last[0] is holds and last[1] == numbers:
        return last[2]
    first, same = common_ends(last[0], holds) if last and last[1] == numbers else (0, 0)
    old = last[2] if last else []
    told = [*old[:first], *_holds(holds[first : len(holds) - same], drawings), *old[len(old) - same :]]
    _COLUMNS.put((shot, who), (holds, numbers, told))
    return told


#: Columns as sent last: the holds, the keys of their drawings, the plain values.
_COLUMNS: RecentCache[tuple[int, str], tuple[tuple[Hold, ...], dict[tuple[str, int], int], list[dict[str, Any]]]] = (
    RecentCache(48)
)


def _pin(pin: Pin, rate: FrameRate) -> dict[str, Any]:
    start, end = frames_of(pin, rate)
    return {"key": pin.key, "start": start, "end": end, "exact": bool(pin.mouth and pin.mouth.is_exact)}


#: What edits touched that change no words or sounds, and only columns of one character.
_NARROW = ("pins", "note", "keys", "pass_note", "dials", "stand", "ground", "boil", "settled")


def changes_document(shot: Shot, since: int | None = None) -> dict[str, Any]:
    """Everything that edits since a revision may have changed, with the current revision.

    The whole document if that is unknown.

    Long lists that the page has are sent as splices.
    """
    soundtrack = shot.soundtrack
    if not soundtrack.is_read:
        return {"revision": soundtrack.revision, "isRead": False}
    newest = soundtrack.newest_edit
    met = None if since is None else touched_since(soundtrack, since, newest=newest)
    is_narrow = met is not None and all(t.what in _NARROW for t in met)
    whose = {t.who for t in met or () if t.what not in ("stand", "keys", "pass_note")} if is_narrow else None
    moves = met is None or not is_narrow or any(t.what == "keys" for t in met)
    reading = soundtrack.reading
    people = [c for c in shot.characters if whose is None or str(c.pk) in whose]
    parts = {part_key(p): p for p in other_parts(shot) if whose is None or part_key(p) in whose}
    document = {
        "revision": soundtrack.revision,
        **_history(shot, newest),
        "looks": looks_document(shot),
        "layout": layout_document(shot),
        "notes": _notes(shot),
        "passNotes": _pass_notes(shot),
        "characters": {
            **{str(c.pk): timing_document(shot, c, reading, drawings_of(c.mouth)) for c in people},
            **{who: _part_column(p, shot, drawings_of(p)) for who, p in parts.items()},
        },
        **({"motion": motion_document(shot)} if moves else {}),
        **(_read(shot) if whose is None else {}),
    }
    return shortened(shot.pk, since, document)


def version_document(shot: Shot, version: Version) -> dict[str, Any]:
    """The mouths of a version: each character's holds, and the stretches of frames that differ now."""
    then = shot_as_of(shot, version)
    out: dict[str, Any] = {}
    for character in shot.characters:
        now = solve_character(shot, character, shot.soundtrack.reading)
        old = solve_character(then, character, then.soundtrack.reading)
        drawings = drawings_of(character.mouth)
        out[str(character.pk)] = {"holds": _holds(old, drawings), "differs": differing(old, now)}
    for part in other_parts(shot):
        now, old = part_holds(shot, part), part_holds(then, part)
        out[part_key(part)] = {"holds": _holds(old, drawings_of(part)), "differs": differing(old, now)}
    return {"name": version.name, "characters": out}


def versions_document(shot: Shot) -> list[dict[str, Any]]:
    """The named versions of a shot, the latest first."""
    row = soundtrack_of(shot)
    if row.pk is None:
        return []
    return [
        {
            "id": v.pk,
            "name": v.name,
            "by": v.by.called if v.by else "",
            "made": v.made_at.isoformat(timespec="minutes"),
        }
        for v in row.versions.select_related("by")
    ]


def why_document(shot: Shot, character: Character, frame: int) -> dict[str, Any]:
    """Why the character shows what it shows on a frame (from 0)."""
    solution = solution_of(shot, character, shot.soundtrack.reading)
    at = next((n for n, h in enumerate(solution.holds) if h.start <= frame < h.end), len(solution.holds) - 1)
    said = explain(solution, at)
    return {
        "text": str(said.text),
        "others": [{"drawing": other.drawing, "more": other.more} for other in said.others],
        "start": solution.holds[at].start,
    }
