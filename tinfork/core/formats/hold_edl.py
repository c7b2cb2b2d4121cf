"""A CMX 3600 edit decision list of one column: an event for each hold.

The source of an event is its drawing, counted from 00:00:00:00; its name is the clip's. CMX 3600 has reel names of up
to eight letters and figures; the whole name of the drawing is in the comment under its event.
"""

from tinfork.core.clock import timecode
from tinfork.core.errors import FormatError
from tinfork.core.scene.choices import CHARACTER, RATE, as_chosen
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene
from tinfork.core.solver.problem import NO_MOUTH

#: A list has numbers of three figures.
MOST_EVENTS = 999


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    figure = scene.figure(values["character"])
    rate, drop = scene.rate, scene.drop
    shown = [hold for hold in figure.mouth.holds if hold.drawing != NO_MOUTH]
    if len(shown) > MOST_EVENTS:
        raise FormatError("edl.too_many_events", most_events=MOST_EVENTS, count=len(shown))

    def code(frame: int) -> str:
        return timecode(frame, rate, drop=drop)

    rows = [f"TITLE: {_line(f'{scene.production} {scene.name} {figure.name}')}"]
    rows.append("FCM: DROP FRAME" if drop else "FCM: NON-DROP FRAME")
    for number, hold in enumerate(shown, start=1):
        sprite = figure.mouth.sprite(hold)
        name = f"{hold.drawing:02d} {sprite.name}" if sprite else f"{hold.drawing:02d}"
        reel = f"M{hold.drawing:04d}"
        times = f"{code(0)} {code(hold.end - hold.start)} {code(hold.start)} {code(hold.end)}"
        rows.append(f"{number:03d}  {reel:<8} V     C        {times}")
        rows.append(f"* FROM CLIP NAME: {_line(f'{hold.set} {name}'.strip())}")
    return ("\r\n".join(rows) + "\r\n").encode()


def _line(text: str) -> str:
    """One line of an edit list."""
    return " ".join(text.split())[:70]


EXPORTER = Exporter(
    "edl",
    "Edit list of holds (CMX 3600)",
    Purpose.ANIMATE,
    ".edl",
    "text/plain; charset=utf-8",
    of_bytes(_of_scene),
    (CHARACTER, RATE),
    "an event for each hold, named after its drawing",
)
