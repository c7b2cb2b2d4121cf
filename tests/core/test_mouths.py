import re
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from tinfork.core.errors import ChartError
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.draw import HEIGHT, WIDTH
from tinfork.core.mouths.starter import STARTER, starter_pictures
from tinfork.core.mouths.style import Ink, Style
from tinfork.core.speech.visemes import VISEMES


def test_the_starter_chart_claims_every_class_of_sounds():
    assert STARTER.unclaimed() == ()
    assert all(viseme in STARTER.drawing_for(viseme).shows for viseme in VISEMES)


@pytest.mark.parametrize(
    ("viseme", "number"), [("rest", 1), ("bilabial", 1), ("mid", 2), ("sibilant", 2), ("open", 3), ("close-spread", 2)]
)
def test_a_chart_of_three_mouths_shows_every_class_by_the_nearest(viseme, number):
    three = Chart(
        (Drawing(1, "closed", ("rest", "bilabial")), Drawing(2, "half", ("alveolar",)), Drawing(3, "open", ("open",)))
    )
    assert three.drawing_for(viseme).number == number


def test_drawings_without_sounds_are_left_to_the_hand():
    chart = Chart((Drawing(1, "closed", ("rest",)), Drawing(9, "whistle", ())))
    assert {chart.drawing_for(v).number for v in VISEMES} == {1}


def test_a_chart_that_shows_nothing_is_refused():
    with pytest.raises(ChartError, match="No drawing"):
        Chart((Drawing(1, "whistle", ()),))


def test_two_drawings_of_one_number_are_refused():
    with pytest.raises(ChartError, match="same number"):
        Chart((Drawing(1, "a", ("rest",)), Drawing(1, "b", ("open",))))


@pytest.mark.parametrize("number", [d.number for d in STARTER.drawings])
def test_each_starter_mouth_is_plain_svg_on_one_canvas_with_one_line_weight(number):
    svg = starter_pictures(Style(Ink(weight=9)))[number]
    root = ET.fromstring(svg)
    assert (root.get("width"), root.get("height")) == (str(WIDTH), str(HEIGHT))
    lips = [e for e in root if e.tag.endswith("path") and e.get("stroke")]
    assert lips
    assert {e.get("stroke-width") for e in lips} == {"9"}
    assert not re.search(r"script|href|foreignObject|<image|on\w+=", svg)


def test_the_demo_ships_the_chart_as_pictures():
    folder = Path(__file__).parents[2] / "demo" / "chart"
    shipped = {int(path.name[:2]): path.read_text() for path in folder.glob("*.svg")}
    assert shipped == starter_pictures()
