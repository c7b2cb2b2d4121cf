"""Jobs on charts: pictures are opened, measured and redrawn in a separate process; rows are written at the end."""

from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from typing import TypeVar

from django.db import transaction
from django.urls import reverse

from tinfork.apps.cast.actions.archive import unpack, unpack_set
from tinfork.apps.cast.actions.characters import set_face, trace_face
from tinfork.apps.cast.actions.charts import give_face_to_set, keep_repainted, repaint, trace_face_of_set
from tinfork.apps.cast.actions.drawings import add_drawings, add_tracing
from tinfork.apps.cast.models import Character, Chart, Drawing, Page
from tinfork.apps.common.storage import keep_bytes, local_copy, local_copy_of
from tinfork.apps.jobs.models import Ending, Job
from tinfork.core.errors import ChartError, FormatError
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import MAX_DRAWINGS
from tinfork.core.pictures.cutting import find_boxes, usual_gap
from tinfork.core.pictures.regions import Box
from tinfork.engines.characters import (
    PreparedCharacter,
    PreparedFace,
    PreparedSet,
    open_face,
    prepare_character,
    prepare_set,
)
from tinfork.engines.drawings import measure_kept, picture_apart, prepare_files
from tinfork.engines.limits import ARCHIVE_TIMEOUT_S
from tinfork.engines.redraw import cut_page, find_on_page

Report = Callable[[str, float], None]
Prepared = TypeVar("Prepared", PreparedCharacter, PreparedSet)


def run(job: Job, report: Report) -> None:
    """Run a job of a chart or of a character."""
    if job.options.get("kept"):
        return
    if job.kind == Job.Kind.IMPORT:
        _unpack(job, report)
        return
    chart = Chart.objects.select_related("part__character").filter(pk=job.options["chart"]).first()
    if chart is None:
        raise ChartError("The set was removed meanwhile.")
    _KINDS[Job.Kind(job.kind)](job, chart, report)


@contextmanager
def _once(job: Job) -> Iterator[None]:
    """A transaction that also marks the job as written, so that a second attempt does not write again."""
    with transaction.atomic():
        yield
        job.options = {**job.options, "kept": True}
        job.save(update_fields=["options", "notes"])


def _import_drawings(job: Job, chart: Chart, report: Report) -> None:
    """Import uploaded files as drawings; a bad file does not stop the others."""
    files = job.options["files"]
    with ExitStack() as stack:
        paths = [(stack.enter_context(local_copy_of(file["key"])), file["name"]) for file in files]
        prepared, troubles = prepare_files(paths, lambda _, done: report(Message("Opening the drawings"), 0.9 * done))
    if not prepared:
        raise FormatError(" ".join(troubles))
    report(Message("Saving the drawings"), 0.95)
    if job.options.get("first_only"):
        # One drawing is replaced: take the first frame of a file with many.
        prepared = [replace(prepared[0], name=files[0]["name"])]
    if job.options.get("tracing_of"):
        drawing = Drawing.objects.select_related("chart__part__character").filter(pk=job.options["tracing_of"]).first()
        if drawing is None:
            raise ChartError("That drawing was removed meanwhile.")
        with _once(job):
            for one in prepared:
                add_tracing(drawing, one)
            job.notes = troubles + [p.note for p in prepared if p.note]
        return
    with _once(job):
        added, replaced = add_drawings(chart, prepared, replace=bool(job.options.get("replace")))
        job.notes = troubles + [p.note for p in prepared if p.note]
        if job.options.get("replace") and added:
            job.notes.append(
                Message(
                    "Replaced drawings: {replaced}. Added, with new numbers: {added}.",
                    replaced=replaced,
                    added=added,
                )
            )


def _look_at_page(job: Job, chart: Chart, report: Report) -> None:
    page = Page.objects.get(pk=job.options["page"])
    with local_copy(page.original) as path:
        data, size, parts = picture_apart(
            find_on_page,
            path,
            page.name,
            progress=lambda _, done: report(Message("Looking for drawings"), done),
            name=page.name,
        )
    page.picture.name = keep_bytes(data, ".png")
    page.width, page.height = size
    page.parts, page.gap = [part.sides for part in parts], usual_gap(parts)
    page.boxes = [box.sides for box in find_boxes(parts, page.gap)[:MAX_DRAWINGS]]
    page.save()


def _cut(job: Job, chart: Chart, report: Report) -> None:
    page = Page.objects.filter(pk=job.options["page"]).first()
    if page is None:
        raise ChartError("The sheet was removed meanwhile.")
    boxes = [Box(*box) for box in job.options["boxes"]]
    with local_copy(page.picture) as path:
        prepared = picture_apart(
            cut_page, path, boxes, progress=lambda _, done: report(Message("Cutting"), 0.9 * done), name=page.name
        )
    with _once(job):
        add_drawings(chart, prepared)


def _mend(job: Job, chart: Chart, report: Report) -> None:
    kind, numbers = job.options["mend"], job.options["numbers"]
    repainted = repaint(
        chart, kind=kind, numbers=numbers, progress=lambda done: report(Message("Repairing drawings"), 0.9 * done)
    )
    keep_repainted(chart, repainted)


def _measure(job: Job, chart: Chart, report: Report) -> None:
    """Make thumbnails and measures of generated drawings."""
    waiting = list(chart.drawings.filter(measures__isnull=True))
    for at, drawing in enumerate(waiting):
        report(Message("Measuring"), at / len(waiting))
        with drawing.picture.open("rb") as file:
            data = file.read()
        thumb, measures = picture_apart(
            measure_kept,
            data,
            drawing.suffix,
            progress=lambda _, done, at=at: report(Message("Measuring"), at / len(waiting)),  # type: ignore[misc]
            name=str(drawing),
            reports=False,
        )
        # Unless it got another picture meanwhile.
        Drawing.objects.filter(pk=drawing.pk, picture=drawing.picture.name).update(
            measures=measures.to_dict(), thumb=keep_bytes(thumb, ".png")
        )


def _prepared(job: Job, prepare: Callable[..., Prepared], report: Report) -> Prepared:
    """Prepare an uploaded archive."""
    file = job.options["files"][0]
    with local_copy_of(file["key"]) as path:
        return picture_apart(
            prepare,
            path,
            progress=lambda _, done: report(Message("Opening the drawings"), 0.9 * done),
            name=file["name"],
            limit_s=ARCHIVE_TIMEOUT_S,
        )


def _unpack(job: Job, report: Report) -> None:
    """Import a character's archive."""
    prepared = _prepared(job, prepare_character, report)
    report(Message("Saving the character"), 0.95)
    with _once(job):
        character = unpack(job.studio, job.options["name"], prepared)
        job.options["made"] = character.pk
        job.notes = [
            Message(
                "{name} was imported with {count} drawing.",
                many="{name} was imported with {count} drawings.",
                name=character.name,
                count=len(prepared.drawings),
            )
        ]


def _unpack_set(job: Job, chart: Chart, report: Report) -> None:
    """Import a set's archive into the part of a chart."""
    prepared = _prepared(job, prepare_set, report)
    report(Message("Saving the set"), 0.95)
    with _once(job):
        made = unpack_set(chart.part, prepared)
        # The job now belongs to the new set, so that its page shows the notes.
        job.options["chart"] = made.pk
        job.notes = [
            Message(
                "The set “{name}” was imported with {count} drawing.",
                many="The set “{name}” was imported with {count} drawings.",
                name=made.name,
                count=len(prepared.drawings),
            )
        ]


def _open_face(job: Job, chart: Chart, report: Report) -> None:
    """Set an uploaded picture as the face of a character or of a set of mouths, or add uploaded tracings to it."""
    faces = [_face_of(file, report) for file in job.options["files"]]
    of_set, traces = job.options.get("of_set"), job.options.get("traces")
    with _once(job):
        if traces and of_set:
            trace_face_of_set(chart, faces)
        elif traces:
            trace_face(chart.character, faces)
        elif of_set:
            give_face_to_set(chart, *faces[0])
        else:
            set_face(chart.character, *faces[0])


def _face_of(file: dict[str, str], report: Report) -> PreparedFace:
    """Prepare an uploaded face picture: its bytes, suffix and aspect ratio."""
    with local_copy_of(file["key"]) as path:
        return picture_apart(
            open_face,
            path,
            file["name"],
            progress=lambda _, done: report(Message("Opening the face"), 0.5),
            name=file["name"],
            reports=False,
        )


_KINDS: dict[Job.Kind, Callable[[Job, Chart, Report], None]] = {
    Job.Kind.DRAWINGS: _import_drawings,
    Job.Kind.PAGE: _look_at_page,
    Job.Kind.CUT: _cut,
    Job.Kind.MEND: _mend,
    Job.Kind.MEASURE: _measure,
    Job.Kind.SET: _unpack_set,
    Job.Kind.FACE: _open_face,
}


def undo(job: Job, ending: Ending) -> None:
    """Delete a page whose drawings were not found, unless the failure was on our side.

    Then the job can be repeated.
    """
    if job.kind == Job.Kind.PAGE and ending is not Ending.BROKE:
        Page.objects.filter(pk=job.options["page"], picture="").delete()


def home(job: Job) -> str:
    """The chart, or its character if the chart is gone; the cast for the import of a character."""
    if job.kind == Job.Kind.IMPORT:
        return reverse("cast")
    has_chart = Chart.objects.filter(pk=job.options["chart"]).exists()
    if job.options.get("of_set") and has_chart:
        return reverse("chart_place", args=[job.options["chart"]])
    if job.kind == Job.Kind.FACE:
        return reverse("character_edit", args=[job.character_id])
    if has_chart:
        return reverse("chart", args=[job.options["chart"]])
    return reverse("character", args=[job.character_id])


def after(job: Job) -> str:
    """The page to cut up, the check that a mend came from, the character or the set that was imported, or the chart."""
    made = job.options.get("made")
    if made and Character.objects.filter(pk=made).exists():
        return reverse("character", args=[made])
    if job.kind == Job.Kind.FACE and not job.options.get("of_set"):
        return reverse("character", args=[job.character_id])
    if job.kind == Job.Kind.PAGE:
        return reverse("page", args=[job.options["page"]])
    if job.kind == Job.Kind.MEND:
        return reverse("chart_check", args=[job.options["chart"]])
    return home(job)
