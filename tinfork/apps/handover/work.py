"""The picture sequence job."""

import re
import tempfile
from collections.abc import Callable
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path

from django.urls import reverse

from tinfork.apps.cast.models import Part
from tinfork.apps.common.storage import keep_file, local_copy
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.solving import drawings_of, other_parts, part_holds, solve_character
from tinfork.core.mouths.placement import lay
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.engines.drawings import picture_apart
from tinfork.engines.mixing import write_mix
from tinfork.engines.pictures import MouthColumn, draw_mouth, empty_picture, write_sequence


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """A ZIP with a transparent picture per frame of each mouth and each other part, and the sound cut to match."""
    shot = job.shot
    assert shot is not None
    shown = _shown(shot)
    columns = [_column(shot, *one, _again(report, 0.5 * at / len(shown))) for at, one in enumerate(shown)]
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        wav, target = Path(folder) / "sound.wav", Path(folder) / "pictures.zip"
        report("Mixing the sound", 0.5)
        _write_sound(shot, wav, lambda: report("Mixing the sound", 0.5))
        write_sequence(
            target,
            columns=columns,
            sound=(f"{_name(shot.name)}.wav", wav),
            first_frame=shot.first_frame,
            progress=lambda done: report("Laying out the frames", 0.6 + 0.4 * done),
        )
        job.result.name = keep_file(target, ".zip")
    _forget_older(job)


def _name(text: str) -> str:
    return re.sub(r"[^\w-]+", "_", text).strip("_") or "shot"


def _again(report: Callable[[str, float], None], share: float) -> Callable[[], None]:
    """Says again how far the drawing is."""
    return lambda: report("Drawing the mouths", share)


def _shown(shot: Shot) -> list[tuple[str, Part, tuple[Hold, ...]]]:
    """The parts that have a column of pictures: what its files are called, its drawings, its holds. Where there is more
    than one, each has a folder.
    """
    name, cast, others = _name(shot.name), shot.characters, other_parts(shot)
    has_folder = len(cast) + len(others) > 1
    out = []
    for character in cast:
        file = f"{_name(character.name)}_{character.pk}/{name}" if has_folder else name
        out.append((file, character.mouth, solve_character(shot, character, shot.soundtrack.reading)))
    for part in others:
        folder = f"{_name(part.character.name)}_{part.character_id}_{_name(part.name)}"
        out.append((f"{folder}/{name}", part, part_holds(shot, part)))
    return out


def _column(shot: Shot, name: str, part: Part, holds: tuple[Hold, ...], beat: Callable[[], None]) -> MouthColumn:
    """The pictures of a part that its holds show."""
    size = (shot.production.width, shot.production.height)
    pictures: dict[tuple[str, int], bytes] = {}
    for key, drawing in drawings_of(part, {(hold.set, hold.drawing) for hold in holds}).items():
        laid = lay(drawing.chart.part.placement, drawing.registration, size)
        with drawing.picture.open("rb") as file:
            data = file.read()
        pictures[key] = picture_apart(
            draw_mouth,
            data,
            drawing.suffix,
            drawing.name,
            laid,
            size,
            progress=lambda _, done: beat(),
            name=str(drawing),
            reports=False,
        )
    pictures["", NO_MOUTH] = empty_picture(size)
    return MouthColumn(name, holds, pictures)


def _write_sound(shot: Shot, wav: Path, beat: Callable[[], None]) -> None:
    """The shot's sound as it is, not evened out, exactly as long as its frames."""
    soundtrack = shot.soundtrack
    rate = shot.production.rate
    whole = replace(soundtrack.content, length_us=rate.first_us(rate.frames_in(soundtrack.duration_us)))
    with ExitStack() as stack:
        paths = {t.pk: stack.enter_context(local_copy(t.listening)) for t in soundtrack.takes.all()}
        write_mix(whole, paths, wav, beat=beat)


def _forget_older(job: Job) -> None:
    """A shot keeps one picture sequence: the newest."""
    for older in Job.objects.filter(shot=job.shot, kind=job.kind).exclude(pk=job.pk).exclude(result=""):
        Job.objects.filter(pk=older.pk).update(result="")


def undo(job: Job, ending: Ending) -> None:
    """Nothing is kept before the last step."""


def home(job: Job) -> str:
    """The shot's hand-over page."""
    return reverse("handover", args=[job.shot_id])


after = home
