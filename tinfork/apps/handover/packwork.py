"""The jobs that export a production as one file, and import one."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.urls import reverse

from tinfork.apps.common.storage import keep_file, local_copy_of
from tinfork.apps.handover.packing import pack_production
from tinfork.apps.handover.unpacking import unpack_production
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.produce.models import Production


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Export the production of a job, or import the file that was uploaded to its studio."""
    if job.kind == Job.Kind.UNPACK:
        # Imported only once, even if the job is repeated.
        if not job.options.get("made"):

            def then(made: Production) -> None:
                job.options = {**job.options, "made": made.pk}
                job.save(update_fields=["options"])

            with local_copy_of(job.options["files"][0]["key"]) as path:
                unpack_production(job.studio, path, job.by, report, then)
        return
    assert job.production is not None
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        target = Path(folder) / "production.zip"
        with target.open("wb") as out:
            pack_production(job.production, out, report)
        job.result.name = keep_file(target, ".zip")
    older = Job.objects.filter(production=job.production_id, kind=job.kind).exclude(pk=job.pk)
    older.exclude(result="").update(result="")


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The settings of the production, or, for an import, the list."""
    if job.kind == Job.Kind.UNPACK:
        return reverse("productions")
    return reverse("production_edit", args=[job.production_id])


def after(job: Job) -> str:
    """The imported production."""
    if job.kind == Job.Kind.UNPACK and job.options.get("made"):
        return reverse("production", args=[job.options["made"]])
    return home(job)
