"""Importing a production's archive: all files are made safe, then everything is written in one transaction."""

import json
import shutil
import tempfile
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import PositiveIntegerField

from tinfork.apps.cast.actions.archive import unpack
from tinfork.apps.cast.models import Character
from tinfork.apps.common.storage import keep_bytes, keep_file
from tinfork.apps.people.models import Studio, User
from tinfork.apps.produce.models import Production, Shot, ShotCharacter
from tinfork.apps.produce.planning import unpack_plan
from tinfork.apps.pronounce.models import Pronunciation
from tinfork.apps.reading.actions.shot_settings import BOIL, DIALS, GROUND, STAND, STRETCHES
from tinfork.apps.reading.models import SetStretch, Soundtrack, TakeUse, Version
from tinfork.apps.reading.queries import nothing_yet
from tinfork.apps.reading.work.opening import look_into
from tinfork.apps.review.packing import unpack_reviews
from tinfork.apps.sound.actions import finish_take
from tinfork.apps.sound.models import Reel, Take
from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats.reading_json import reading_from_dict, reading_to_dict
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict, soundtrack_to_dict
from tinfork.core.formats.versions import PRODUCTION
from tinfork.core.messages import Message
from tinfork.core.scene.boil import Boil
from tinfork.core.scene.layout import Stand
from tinfork.core.solver.dials import dials_from
from tinfork.core.sound.checks import SoundFinding
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.soundtrack.numbering import numbered
from tinfork.core.soundtrack.renaming import renamed, renamed_reading
from tinfork.engines.characters import PreparedCharacter, open_face, prepare_character
from tinfork.engines.decode import Opened
from tinfork.engines.drawings import picture_apart
from tinfork.engines.film import Film, open_film
from tinfork.engines.handover.archive import PRODUCTION_MANIFEST as MANIFEST
from tinfork.engines.limits import ARCHIVE_TIMEOUT_S

#: The most bytes that an archive may unpack to, and the most files in it.
MAX_BYTES, MAX_FILES = 8 * 1024**3, 5000
Report = Callable[[str, float], None]


class _Opened:
    """An opened archive: its description, and its files by name."""

    def __init__(self, path: Path, folder: Path) -> None:
        try:
            self.archive = zipfile.ZipFile(path)
            infos = self.archive.infolist()
            if len(infos) > MAX_FILES or sum(info.file_size for info in infos) > MAX_BYTES:
                raise FormatError("This archive unpacks to more than {max_bytes} GB.", max_bytes=MAX_BYTES // 2**30)
            self.rows = json.loads(self.archive.read(MANIFEST))
            known = self.rows["format"] == PRODUCTION.name and PRODUCTION.knows(self.rows["version"])
        except (zipfile.BadZipFile, KeyError, ValueError, TypeError, OSError, EOFError, NotImplementedError):
            raise FormatError("This production backup is damaged or incomplete. Make it again.") from None
        if not known:
            raise FormatError("This file comes from a newer version, or is not a production backup.")
        self.rows = PRODUCTION.upgraded(self.rows)
        self.folder = folder

    def file(self, name: str) -> Path:
        """Extract a file of the archive to disk, under a safe name."""
        path = self.folder / f"{abs(hash(name)):x}{Path(name).suffix[:8]}"
        if not path.exists():
            try:
                with self.archive.open(name) as source, path.open("wb") as target:
                    shutil.copyfileobj(source, target, 1024 * 1024)
            except (KeyError, zipfile.BadZipFile, zipfile.zlib.error, EOFError, RuntimeError):  # type: ignore[attr-defined]
                raise FormatError(
                    "“{name}” is missing or damaged in this backup. Make it again.", name=str(name)[:80]
                ) from None
        return path


@dataclass
class _Safe:
    """All files of an archive made safe: characters, takes and reels by their ids there, backgrounds by name."""

    characters: dict[int, PreparedCharacter] = field(default_factory=dict)
    takes: dict[int, tuple[Path, Path, Opened, list[SoundFinding]]] = field(default_factory=dict)
    reels: dict[int, tuple[Path, Film]] = field(default_factory=dict)
    backgrounds: dict[str, tuple[bytes, str]] = field(default_factory=dict)


def unpack_production(
    studio: Studio, path: Path, by: User | None, report: Report, then: Callable[[Production], None]
) -> Production:
    """Create a production from an archive, with its own characters, in one transaction together with `then`.

    Untrusted files are opened in processes of their own, before anything is written. Raises `FormatError` for an
    invalid archive.
    """
    with tempfile.TemporaryDirectory(prefix="tinfork-") as name:
        opened = _Opened(path, Path(name))
        try:
            safe = _made_safe(opened, report)
            # No progress from here on: what a transaction writes is invisible until it commits.
            report(Message("Saving"), 0.95)
            with transaction.atomic():
                production = _Unpacking(studio, opened, safe, by).all()
                then(production)
                return production
        except (KeyError, TypeError, ValueError, AttributeError, IndexError, OverflowError, ValidationError):
            raise FormatError("The description in this backup is damaged. Make it again.") from None


def _made_safe(opened: _Opened, report: Report) -> _Safe:
    safe, rows = _Safe(), opened.rows
    todo = [*rows["characters"], *rows["takes"], *rows["reels"]]
    for at, row in enumerate(todo):
        name, number, file = str(row["name"])[:80], int(row["id"]), opened.file(row["file"])

        def said(done: float, name: str = name, at: int = at) -> None:
            report(Message("Opening {name}", name=name), 0.9 * (at + done) / len(todo))

        said(0.0)
        if at < len(rows["characters"]):
            safe.characters[number] = picture_apart(
                prepare_character,
                file,
                progress=partial(_again, said),
                name=name,
                limit_s=ARCHIVE_TIMEOUT_S,
            )
        elif at < len(todo) - len(rows["reels"]):
            flac = opened.folder / f"take-{number}.flac"
            measured, _, findings = look_into(file, name, flac, said)
            safe.takes[number] = file, flac, measured, findings
        else:
            film = opened.folder / f"reel-{number}.webm"
            safe.reels[number] = film, open_film(file, film, name, said)
    opening = Message("Opening backgrounds")
    for name in _backgrounds_in(rows):
        data, suffix, _ = picture_apart(
            open_face, opened.file(name), name, progress=lambda _, done: report(opening, 0.92), name=name, reports=False
        )
        safe.backgrounds[name] = data, suffix
    return safe


def _again(said: Callable[[float], None], phase: str, done: float) -> None:
    """Passes on the progress of another process."""
    said(done)


def _backgrounds_in(rows: dict[str, Any]) -> set[str]:
    """The names of the backgrounds of all shots and their versions."""
    found = {str(shot["background"]) for shot in rows["shots"]}
    for shot in rows["shots"]:
        for version in (shot.get("soundtrack") or {}).get("versions", ()):
            found.add(str((version["beside"].get(GROUND) or ["", ""])[1]))
    return found - {""}


class _Unpacking:
    """Writes an archive to the database, with maps from the ids in the archive to new rows."""

    def __init__(self, studio: Studio, opened: _Opened, safe: _Safe, by: User | None) -> None:
        self.studio, self.safe, self.by = studio, safe, by
        self.rows = opened.rows
        self.characters: dict[int, Character] = {}
        #: The names of characters and parts in documents.
        self.speakers: dict[str, str] = {}
        self.charts: dict[int, int] = {}
        self.takes: dict[int, int] = {}

    def all(self) -> Production:
        """Write everything, in order."""
        production = self._production()
        for row in self.rows["characters"]:
            self._character(row)
        for row in self.rows["takes"]:
            self._take(production, row)
        reels = {int(row["id"]): self._reel(production, row) for row in self.rows["reels"]}
        for row in self.rows["shots"]:
            self._shot(production, row, reels)
        Pronunciation.objects.bulk_create(
            Pronunciation(
                production=production,
                language=str(p["language"])[:20],
                word=str(p["word"])[:120],
                sounds=str(p["sounds"])[:400],
                by=self.by,
            )
            for p in self.rows["pronunciations"]
        )
        return production

    def _production(self) -> Production:
        about = self.rows["production"]
        taken = set(self.studio.productions.values_list("name", flat=True))
        wanted = str(about["name"])[:100].strip() or "Restored"
        name, number = wanted, 2
        while name in taken:
            name, number = f"{wanted} {number}", number + 1
        rate = FrameRate.parse(str(about["rate"]).removesuffix("/1")).value
        production = Production(
            language=str(about.get("language", ""))[:20],
            studio=self.studio,
            name=name,
            rate_numerator=rate.numerator,
            rate_denominator=rate.denominator,
            width=int(about["width"]),
            height=int(about["height"]),
            dials=dict(about["dials"]),
            presets=dict(about["presets"]),
            handing_over=dict(about["handing_over"]),
        )
        dials_from(production.dials)
        for side in ("width", "height"):
            field_of_side = Production._meta.get_field(side)
            assert isinstance(field_of_side, PositiveIntegerField)
            field_of_side.clean(getattr(production, side), production)
        production.save()
        return production

    def _character(self, row: dict[str, Any]) -> None:
        made = unpack(self.studio, str(row["name"])[:80], self.safe.characters[int(row["id"])])
        self.characters[int(row["id"])] = made
        self.speakers[str(int(row["id"]))] = str(made.pk)
        parts = {part.name: part for part in made.parts.prefetch_related("charts")}
        for pk, name in row["parts"].items():
            self.speakers[f"-{int(pk)}"] = f"-{parts[name].pk}"
        for pk, (part, chart) in row["charts"].items():
            self.charts[int(pk)] = next(c.pk for c in parts[part].charts.all() if c.name == chart)

    def _take(self, production: Production, row: dict[str, Any]) -> None:
        path, flac, opened, findings = self.safe.takes[int(row["id"])]
        speaker = self.characters.get(row["speaker"]) if row["speaker"] else None
        reading = reading_from_dict(row["reading"]) if row["reading"] else None
        take = Take.objects.create(
            production=production,
            name=str(row["name"])[:200],
            source=row["source"] if row["source"] in Take.Source.values else Take.Source.FILE,
            speaker=speaker,
            note=str(row["note"])[:1000],
            words=str(row["words"]),
            reading=reading_to_dict(renamed_reading(reading, self.speakers)) if reading else None,
            original=keep_file(path, path.suffix or ".upload"),
        )
        finish_take(take, opened, flac, findings)
        self.takes[int(row["id"])] = take.pk

    def _reel(self, production: Production, row: dict[str, Any]) -> Reel:
        path, film = self.safe.reels[int(row["id"])]
        return Reel.objects.create(
            production=production,
            name=str(row["name"])[:200],
            film=keep_file(path, ".webm"),
            duration_us=film.duration_us,
            width=film.width,
            height=film.height,
            take_id=self.takes.get(row["take"]) if row["take"] else None,
        )

    def _shot(self, production: Production, row: dict[str, Any], reels: dict[int, Reel]) -> None:
        shot = Shot.objects.create(
            production=production,
            name=str(row["name"])[:80],
            first_frame=int(row["first_frame"]),
            words=str(row["words"]),
            language=str(row["language"])[:20],
            reel=reels.get(row["reel"]) if row["reel"] else None,
            reel_from_us=int(row["reel_from_us"]),
            ground=str(row["ground"])[:7],
            boil=Boil.from_dict(row.get("boil") or {}).to_dict(),
            background=self._background(row["background"]) if row["background"] else "",
        )
        for place, part in enumerate(row["cast"]):
            stand = Stand.from_dict(part["stand"]).to_dict() if part["stand"] else {}
            dials_from(part["dials"])
            character = self.characters[int(part["character"])]
            ShotCharacter.objects.create(
                shot=shot, character=character, place=place, dials=dict(part["dials"]), stand=stand
            )
        unpack_plan(shot, row.get("plan") or {})
        if row.get("soundtrack"):
            self._soundtrack(shot, row["soundtrack"])

    def _background(self, name: str) -> str:
        return keep_bytes(*self.safe.backgrounds[name])

    def _soundtrack(self, shot: Shot, about: dict[str, Any]) -> None:
        content = renamed(soundtrack_from_dict(about["document"]), self.takes, self.speakers)
        if {clip.take for clip in content.clips} - set(self.takes.values()):
            raise FormatError("A recording is missing from this backup. Make it again.")
        row = Soundtrack(
            shot=shot,
            **nothing_yet() | {"revision": 1},
            settled=[str(s) for s in about["settled"]],
            warnings=list(about["warnings"]),
        )
        numbers = [n for v in content.voices for line in v.reading.lines for n in _numbers(line)]
        next_id = 1 + max((*numbers, *(note.id for note in content.notes)), default=0)
        content, row.next_id = numbered(CoreSoundtrack(), content, next_id)
        row.store(content)
        row.is_read, row.duration_us = content.is_read, content.duration_us
        row.save()
        uses = {clip.take for clip in content.clips}
        TakeUse.objects.bulk_create(TakeUse(soundtrack=row, take_id=take) for take in uses)
        stretches: dict[int, int] = {}
        for number, chart, start_us, end_us in about["stretches"]:
            stretches[int(number)] = SetStretch.objects.create(
                shot=shot, chart_id=self.charts[int(chart)], start_us=int(start_us), end_us=int(end_us)
            ).pk
        for version in about["versions"]:
            document = renamed(soundtrack_from_dict(version["document"]), self.takes, self.speakers)
            Version.objects.create(
                soundtrack=row,
                name=str(version["name"])[:80],
                document=soundtrack_to_dict(document),
                shot_settings=self._settings(shot, version["beside"], stretches),
                is_kept=bool(version.get("is_kept")),
                by=self.by,
            )
        unpack_reviews(row, about.get("reviews", {}), int(about.get("revision", 0)))

    def _settings(self, shot: Shot, settings: dict[str, Any], stretches: dict[int, int]) -> dict[str, Any]:
        """A version's settings beside its document; `stretches` are the new ids of existing stretches."""
        out: dict[str, Any] = {}
        for name, part in settings.items():
            if name == STRETCHES:
                rows = [(int(n), self.charts[int(chart)], a, b) for n, chart, a, b in part if int(chart) in self.charts]
                for number, chart, start_us, end_us in rows:
                    if number not in stretches:
                        # Reserve an id that no other row will get.
                        made = SetStretch.objects.create(shot=shot, chart_id=chart, start_us=start_us, end_us=end_us)
                        stretches[number] = made.pk
                        made.delete()
                out[name] = [[stretches[number], chart, a, b] for number, chart, a, b in rows]
            elif name == GROUND:
                out[name] = [str(part[0])[:7], self._background(part[1]) if part[1] else ""]
            elif name == BOIL:
                out[name] = Boil.from_dict(part).to_dict()
            elif name.startswith((DIALS, STAND)):
                kind, _, whose = name.partition(" ")
                if whose in self.speakers:
                    out[f"{kind} {self.speakers[whose]}"] = part
        return out


def _numbers(line: Any) -> list[int]:
    """The lasting numbers of a line and its words."""
    return [line.id, *(word.id for word in line.words)]
