"""Jobs that export: one shot, or several shots of a production in a ZIP."""

import json
import tempfile
import zipfile
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import IO

from django.urls import reverse

from tinfork.apps.common.storage import keep_file
from tinfork.apps.handover.scenes import scene_of, sound_of
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.core.errors import TimingError
from tinfork.core.messages import Message
from tinfork.core.scene.choices import plain
from tinfork.core.scene.exporting import Exporter, Values
from tinfork.engines.handover import reel
from tinfork.engines.handover.archive_files import add_bytes, add_file
from tinfork.engines.handover.table import exporter_of

#: The number of files of one kind that are kept for a shot or a production.
_KEPT = 3
Report = Callable[[str, float], None]


def run(job: Job, report: Report) -> None:
    """Make the requested file: `as` an exporter's name, with `values`; for a production, of its `shots`."""
    exporter = exporter_of(str(job.options["as"]))
    values = exporter.chosen({k: v for k, v in job.options["values"].items() if v is not None})
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        target = Path(folder) / "made"
        with target.open("w+b") as out:
            if job.shot:
                _one(job.shot, exporter, values, out, report)
            else:
                assert job.production is not None
                _many(job, job.production, exporter, values, out, report)
        suffix = exporter.file_type(values)[0] if job.shot or job.options.get("reel") else ".zip"
        # Storage keys have a single suffix.
        job.result.name = keep_file(target, "." + suffix.rpartition(".")[2])
    _forget_older(job)


def _one(shot: Shot, exporter: Exporter, values: Values, out: IO[bytes], report: Report) -> None:
    report(Message("Mixing the sound"), 0.0)
    with sound_of(shot, lambda: report(Message("Mixing the sound"), 0.0)) as sound:
        scene = scene_of(shot, sound)
        exporter.write(
            scene,
            values,
            out,
            rarely(lambda done: report(Message("Writing “{name}”", name=shot.name), 0.05 + 0.95 * done)),
        )


def rarely(report: Callable[[float], None]) -> Callable[[float], None]:
    """Reports each hundredth only once, since each report is written to the database."""
    last = -1

    def say(done: float) -> None:
        nonlocal last
        if int(done * 100) != last:
            last = int(done * 100)
            report(done)

    return say


def _share(report: Report, at: int, count: int, phase: str, done: float) -> None:
    """Converts the progress of one of several to that of the whole."""
    report(phase, (at + done) / count)


def _many(job: Job, production: Production, exporter: Exporter, values: Values, out: IO[bytes], report: Report) -> None:
    wanted = set(job.options.get("shots") or [])
    shots = [s for s in production.shots.all() if s.pk in wanted and soundtrack_of(s).is_read]
    if not shots:
        raise TimingError("None of these shots has been read yet. Read their tracks first.")
    if job.options.get("reel"):
        write_reel(shots, exporter, values, out, report)
        return
    rows = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED, allowZip64=True) as archive:
        for at, shot in enumerate(shots):
            share = partial(_share, report, at, len(shots))
            suffix = exporter.file_type(values)[0]
            name = f"{at + 1:03d}-{plain(shot.name)}/{plain(shot.name)}{suffix}"
            with tempfile.NamedTemporaryFile(prefix="tinfork-") as made:
                _one(shot, exporter, values, made, share)
                made.flush()
                add_file(archive, name, Path(made.name))
            scene = scene_of(shot)
            last = scene.first_frame + scene.frames - 1
            rows.append({"shot": shot.name, "file": name, "first_frame": scene.first_frame, "last_frame": last})
        manifest = {
            "production": production.name,
            "rate": str(production.rate),
            "as": exporter.kind,
            "options": dict(values),
            "shots": rows,
        }
        add_bytes(archive, "manifest.json", json.dumps(manifest, ensure_ascii=False, indent=1).encode())


def write_reel(shots: Sequence[Shot], exporter: Exporter, values: Values, out: IO[bytes], report: Report) -> None:
    """Write all shots as one movie."""
    suffix = exporter.file_type(values)[0]
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        parts = []
        for at, shot in enumerate(shots):
            share = partial(_share, report, at, len(shots))
            parts.append(Path(folder) / f"{at:04d}{suffix}")
            with parts[-1].open("w+b") as made:
                _one(shot, exporter, values, made, share)
        report(Message("Joining the shots"), 0.99)
        reel.join(parts, out)


def _forget_older(job: Job) -> None:
    """Delete all but the newest files of a kind."""
    same = Job.objects.filter(
        shot=job.shot_id, production=job.production_id, kind=job.kind, options__as=job.options["as"]
    )
    older = same.exclude(pk=job.pk).exclude(result="").order_by("-created_at").values_list("pk", flat=True)
    Job.objects.filter(pk__in=list(older[_KEPT - 1 :])).update(result="")


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The page on which it was requested."""
    page = reverse("handover", args=[job.shot_id]) if job.shot_id else reverse("handover_all", args=[job.production_id])
    return f"{page}?as={job.options.get('as', 'movie')}"


after = home
