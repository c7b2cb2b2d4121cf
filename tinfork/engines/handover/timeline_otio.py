"""OpenTimelineIO: a track for each column with a clip for each hold, the sound, and a marker for each line."""

from fractions import Fraction

import opentimelineio as otio

from tinfork.core.scene.choices import RATE, SHOWN, as_chosen, shown_as
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Column, Figure, Scene
from tinfork.core.solver.problem import NO_MOUTH


def _span(start: int, frames: int, fps: float) -> otio.opentime.TimeRange:
    return otio.opentime.TimeRange(otio.opentime.RationalTime(start, fps), otio.opentime.RationalTime(frames, fps))


def _track(figure: Figure, column: Column, fps: float, drawings: str) -> otio.schema.Track:
    track = otio.schema.Track(f"{figure.name} {column.name}", kind=otio.schema.TrackKind.Video)
    call = shown_as(column, drawings)
    for hold in column.holds:
        frames = hold.end - hold.start
        if hold.drawing == NO_MOUTH:
            track.append(otio.schema.Gap(source_range=_span(0, frames, fps)))
            continue
        values = {"number": hold.drawing, "set": hold.set, "viseme": hold.viseme}
        clip = otio.schema.Clip(str(call(hold)), source_range=_span(0, frames, fps), metadata={"tin_fork": values})
        track.append(clip)
    return track


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    fps = float(Fraction(scene.rate.value))
    timeline = otio.schema.Timeline(f"{scene.production} {scene.name}".strip())
    timeline.global_start_time = otio.opentime.RationalTime(scene.first_frame, fps)
    for figure in scene.figures:
        timeline.tracks.extend(_track(figure, column, fps, values["drawings"]) for column in figure.columns)
    sound = otio.schema.Track("Sound", kind=otio.schema.TrackKind.Audio)
    whole = _span(0, scene.frames, fps)
    media = otio.schema.ExternalReference(f"{scene.name}.wav", whole) if scene.sound else None
    sound.append(otio.schema.Clip(scene.name, media_reference=media, source_range=whole))
    timeline.tracks.append(sound)
    for line in scene.reading.lines:
        if line.words:
            start = scene.rate.frame_at(line.start_us)
            length = max(1, scene.rate.frame_at(line.end_us - 1) + 1 - start)
            marker = otio.schema.Marker(f"{line.speaker}: {line.text}", _span(start, length, fps))
            timeline.tracks.markers.append(marker)
    return str(otio.adapters.write_to_string(timeline, "otio_json")).encode()


EXPORTER = Exporter(
    "otio",
    "Timeline (OpenTimelineIO)",
    Purpose.ANIMATE,
    ".otio",
    "application/json",
    of_bytes(_of_scene),
    (SHOWN, RATE),
    "a track for each column, a clip for each hold, a marker for each line; for editing programs",
)
