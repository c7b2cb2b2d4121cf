"""A production as one file.

A ZIP: `production.json` with everything but the files, and these beside it: an archive for each character (see
core/formats/character_zip.py), the recordings as they came, story reels, backgrounds, and what each shot shows as JSON
(core/formats/reading_json.py). The ids in it are those of the exporting database; the import (`unpacking.py`) gives new
ones. Version 1.
"""

import json
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any

from django.core.files.storage import storages
from django.db.models import Q
from django.db.models.fields.files import FieldFile

from tinfork.apps.cast.actions.archive import pack
from tinfork.apps.cast.models import Character
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.produce.planning import packed_plan
from tinfork.apps.reading.actions.shot_settings import GROUND
from tinfork.apps.reading.models import SetStretch
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.review.packing import packed_reviews
from tinfork.apps.sound.models import Take
from tinfork.core.formats import reading_json
from tinfork.core.formats.versions import PRODUCTION
from tinfork.core.messages import Message
from tinfork.core.scene.choices import plain
from tinfork.engines.handover.archive import PRODUCTION_MANIFEST as MANIFEST
from tinfork.engines.handover.archive_files import add_bytes, add_stream

Report = Callable[[str, float], None]


def pack_production(production: Production, out: IO[bytes], report: Report) -> None:
    """Write the archive of a production: its shots that are not archived, and everything they need."""
    shots = list(production.shots.all())
    takes = list(production.takes.exclude(listening=""))
    reels = list(production.reels.exclude(film=""))
    whose = Q(shots__production=production) | Q(takes__production=production)
    characters = list(Character.objects.filter(whose).distinct())
    steps, done = len(characters) + len(takes) + len(reels) + len(shots) + 1, 0

    def step(what: str) -> None:
        nonlocal done
        report(Message("Packing {what}", what=what), done / steps)
        done += 1

    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:
        rows: dict[str, Any] = {
            "format": PRODUCTION.name,
            "version": PRODUCTION.version,
            "production": _production(production),
        }
        rows["pronunciations"] = list(production.pronunciations.values("language", "word", "sounds"))
        rows["characters"] = []
        for character in characters:
            step(character.name)
            rows["characters"].append(_character(archive, character))
        rows["takes"] = []
        for take in takes:
            step(take.name)
            rows["takes"].append(_take(archive, take))
        rows["reels"] = []
        for reel in reels:
            step(reel.name)
            file = _stored(archive, reel.film, f"reels/{reel.pk}-{plain(reel.name)}")
            rows["reels"].append({"id": reel.pk, "name": reel.name, "take": reel.take_id, "file": file})
        rows["shots"] = []
        for number, shot in enumerate(shots, start=1):
            step(shot.name)
            rows["shots"].append(_shot(archive, shot, number))
        add_bytes(archive, MANIFEST, json.dumps(rows, ensure_ascii=False, indent=1).encode())
    report(Message("Packing"), 1.0)


def _production(production: Production) -> dict[str, Any]:
    return {
        "name": production.name,
        "rate": str(production.rate),
        "language": production.language,
        "width": production.width,
        "height": production.height,
        "dials": production.dials,
        "presets": production.presets,
        "handing_over": production.handing_over,
    }


def _stored(archive: zipfile.ZipFile, field: FieldFile, name: str) -> str:
    """Add a stored file to the archive, once; returns its name there."""
    name += "." + str(field.name).rpartition(".")[2]
    if name not in archive.namelist():
        with storages["default"].open(field.name or "", "rb") as source:
            add_stream(archive, name, source)
    return name


def _character(archive: zipfile.ZipFile, character: Character) -> dict[str, Any]:
    file = f"characters/{character.pk}-{plain(character.name)}.zip"
    with tempfile.TemporaryFile() as packed:
        pack(character, packed)
        add_stream(archive, file, packed)
    parts = list(character.parts.prefetch_related("charts"))
    return {
        "id": character.pk,
        "name": character.name,
        "file": file,
        "parts": {str(part.pk): part.name for part in parts},
        "charts": {str(chart.pk): [part.name, chart.name] for part in parts for chart in part.charts.all()},
    }


def _take(archive: zipfile.ZipFile, take: Take) -> dict[str, Any]:
    source = take.original if take.original else take.listening
    return {
        "id": take.pk,
        "name": take.name,
        "source": take.source,
        "speaker": take.speaker_id,
        "note": take.note,
        "words": take.words,
        "reading": take.reading,
        "file": _stored(archive, source, f"takes/{take.pk}-{plain(take.name)}"),
    }


def _shot(archive: zipfile.ZipFile, shot: Shot, number: int) -> dict[str, Any]:
    soundtrack = soundtrack_of(shot)
    behind = shot.background.name or ""
    row: dict[str, Any] = {
        "name": shot.name,
        "first_frame": shot.first_frame,
        "words": shot.words,
        "language": shot.language,
        "reel": shot.reel_id,
        "reel_from_us": shot.reel_from_us,
        "ground": shot.ground,
        "boil": shot.boil,
        "plan": packed_plan(shot),
        "background": _background(archive, behind) if behind else "",
        "cast": [{"character": part.character_id, "dials": part.dials, "stand": part.stand} for part in shot.cast_rows],
    }
    if soundtrack.pk is None:
        return row
    if soundtrack.is_read:
        # The holds, for use without a database: `engines/handover/command.py` reads them.
        shot.soundtrack = soundtrack
        row["reading"] = f"shots/{number:03d}-{plain(shot.name)}.json"
        add_bytes(archive, row["reading"], reading_json.of_scene(scene_of(shot)))
    versions = []
    for version in soundtrack.versions.order_by("pk"):
        settings = dict(version.shot_settings)
        if settings.get(GROUND) and settings[GROUND][1]:
            settings[GROUND] = [settings[GROUND][0], _background(archive, settings[GROUND][1])]
        versions.append(
            {"name": version.name, "document": version.document, "beside": settings, "is_kept": version.is_kept}
        )
    stretches = SetStretch.objects.filter(shot=shot).values_list("pk", "chart_id", "start_us", "end_us")
    row["soundtrack"] = {
        "document": soundtrack.document,
        "settled": soundtrack.settled,
        "warnings": soundtrack.warnings,
        "stretches": [list(stretch) for stretch in stretches],
        "versions": versions,
        "revision": soundtrack.revision,
        "reviews": packed_reviews(shot, soundtrack.settled),
    }
    return row


def _background(archive: zipfile.ZipFile, key: str) -> str:
    name = f"backgrounds/{Path(key).stem[:16]}.{key.rpartition('.')[2]}"
    if name not in archive.namelist():
        with storages["default"].open(key, "rb") as source:
            add_stream(archive, name, source)
    return name
