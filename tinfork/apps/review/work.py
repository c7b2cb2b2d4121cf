"""The job that makes the film of a review link."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.urls import reverse

from tinfork.apps.common.storage import keep_file
from tinfork.apps.handover.work import write_reel
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.review.models import ReviewLink
from tinfork.engines.handover.table import exporter_of

#: As wide as a film is on a phone or in a window, in pixels: it is small enough to begin at once on a slow line.
_SIZE = "854"


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Make the film of all shots of the link, one after another."""
    link = ReviewLink.objects.get(pk=job.options["link"])
    exporter = exporter_of("movie")
    values = exporter.chosen({"size": _SIZE})
    shots = [one.shot for one in link.reviewed.select_related("shot__production")]
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        target = Path(folder) / "film.mp4"
        with target.open("w+b") as out:
            write_reel(shots, exporter, values, out, report)
        link.film.name = keep_file(target, ".mp4")
        link.save(update_fields=["film"])


def undo(job: Job, ending: Ending) -> None:
    """Nothing is kept before the last step."""


def home(job: Job) -> str:
    """The links of the production."""
    return reverse("reviews", args=[job.production_id])


def after(job: Job) -> str:
    """The same page."""
    return home(job)
