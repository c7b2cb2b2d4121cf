"""The starter chart's geometry, measured on its own rasters."""

import itertools
import re

import pytest

from tests.pictures import ink_box, mouths
from tinfork.core.errors import ChartError
from tinfork.core.mouths.articulation import VECTORS, vector
from tinfork.core.mouths.shape import shape_of
from tinfork.core.mouths.starter import STARTER, STARTERS, starter_chart, starter_pictures
from tinfork.core.mouths.style import KINDS, MOODS, Ink, Mood, Style
from tinfork.core.pictures.measure import measure

LOOKS = list(itertools.product(KINDS, ("calm", "glad", "shouting")))


@pytest.mark.parametrize(("kind", "mood"), LOOKS)
def test_all_mouths_share_one_centre_and_one_line_weight(kind, mood):
    drawn = mouths(Style(kind=kind, mood=MOODS[mood]), 22)
    for number, pixels in drawn.items():
        left, _, right, _ = ink_box(pixels)
        assert abs((left + right) / 2 - 200) <= 1, number
        assert measure(pixels).line == pytest.approx(8, abs=0.8), number


@pytest.mark.parametrize("weight", [3, 6, 12, 16])
def test_the_line_is_as_heavy_as_asked(weight):
    style = Style(Ink(weight=weight))
    lines = [measure(p).line for p in mouths(style, 3, 1200).values()]
    assert lines == pytest.approx([3 * weight] * 3, rel=0.1)


@pytest.mark.parametrize("kind", KINDS)
def test_open_mouths_are_the_highest_and_closed_ones_the_flattest(kind):
    height = {n: ink_box(p)[3] - ink_box(p)[1] for n, p in mouths(Style(kind=kind)).items()}
    wide_open, rest = 14, 1
    assert height[wide_open] == max(height.values())
    assert height[rest] < 0.7 * height[wide_open]


def test_shapes_follow_the_articulation():
    shapes = {name: shape_of(vector(name)) for name in VECTORS}
    assert shapes["close-rounded"].half_width == min(s.half_width for s in shapes.values())
    assert shapes["close-spread"].half_width == max(s.half_width for s in shapes.values())
    assert shapes["open"].down == max(s.down for s in shapes.values())
    assert [name for name, s in shapes.items() if s.closed] == ["rest", "bilabial"]
    assert [name for name, s in shapes.items() if s.lip_bite] == ["labiodental"]
    assert {name for name, s in shapes.items() if s.tip} == {"dental", "lateral"}


def test_moods_bend_the_corners_and_shouting_opens():
    glad, calm, sad = (shape_of(vector("mid"), MOODS[m]).corners for m in ("glad", "calm", "sad"))
    assert glad > calm > sad
    assert shape_of(vector("open"), MOODS["shouting"]).down > shape_of(vector("open")).down


def test_no_lines_but_the_inks_colours():
    ink = Ink("#010203", "#040506", "#070809", "#0a0b0c", "#0d0e0f", 5)
    for svg in starter_pictures(Style(ink, "muzzle"), 22).values():
        assert set(re.findall(r"#[0-9a-f]{6}", svg)) <= {ink.line, ink.inside, ink.tongue, ink.teeth, ink.lip}


def test_big_and_small_drawings_are_bigger_and_smaller():
    drawn = mouths(Style(), 22)
    by_shows = {}
    for drawing in STARTERS[22].drawings:
        _, top, _, bottom = ink_box(drawn[drawing.number])
        by_shows.setdefault(drawing.shows, {})[drawing.size] = bottom - top
    sized = [sizes for sizes in by_shows.values() if len(sizes) == 3]
    assert len(sized) == 4
    assert all(sizes[-1] < sizes[0] < sizes[1] for sizes in sized)


@pytest.mark.parametrize("drawings", STARTERS)
def test_the_same_style_gives_the_same_pictures(drawings):
    style = Style(Ink(weight=5), "beak", MOODS["sly"])
    assert starter_pictures(style, drawings) == starter_pictures(style, drawings)
    assert len(set(starter_pictures(Style(), drawings).values())) == drawings


@pytest.mark.parametrize(
    "wrong",
    [
        lambda: Ink(line="red"),
        lambda: Ink(weight=40),
        lambda: Mood(lift=2),
        lambda: Mood(opening=9),
        lambda: Style(kind="robot"),
        lambda: starter_chart(5),
    ],
)
def test_a_look_that_cannot_be_drawn_is_refused(wrong):
    with pytest.raises(ChartError):
        wrong()


def test_the_chart_of_fourteen_is_the_starter():
    assert starter_chart(14) is STARTER
