"""The jobs of reviews: the film of a link, and the film that compares two states of a shot."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.db import transaction
from django.urls import reverse

from tinfork.apps.common.storage import keep_file
from tinfork.apps.handover.work import write_reel
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.reading.actions.versions import shot_as_of
from tinfork.apps.reading.models import Version
from tinfork.apps.review.links import show
from tinfork.apps.review.models import ReviewedShot, ReviewLink
from tinfork.engines.handover.table import exporter_of

#: The width of a film in pixels: enough for a phone or a window, and small enough to start at once on a slow line.
SIZE = "854"


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Make the film of all shots of a link, from the versions saved when it was requested."""
    link = ReviewLink.objects.get(pk=job.options["link"])
    exporter = exporter_of("movie")
    values = exporter.chosen({"size": SIZE, "burn_text": link.for_whom if link.burns_name else ""})
    rows = job.options["shots"]
    reviewed = {one.pk: one for one in ReviewedShot.objects.filter(link=link).select_related("shot__production")}
    versions = Version.objects.in_bulk([row["version"] for row in rows])
    shown = [row for row in rows if row["id"] in reviewed and row["version"] in versions]
    shots = [shot_as_of(reviewed[row["id"]].shot, versions[row["version"]]) for row in shown]
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        target = Path(folder) / "film.mp4"
        with target.open("w+b") as out:
            write_reel(shots, exporter, values, out, report)
        with transaction.atomic():
            link.film.name = keep_file(target, ".mp4")
            link.save(update_fields=["film"])
            show(shown)


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The links of the production."""
    return reverse("reviews", args=[job.production_id])


def after(job: Job) -> str:
    """The same page."""
    return home(job)
