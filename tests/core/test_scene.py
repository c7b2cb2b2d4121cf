"""The shot's picture and its grid: where everyone stands, what is drawn when, what a sheet says."""

import cmath
import json
import math
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.strategies import readings
from tests.scenes import reading_bytes
from tinfork.core.clock import STANDARD_RATES, FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats import reading_json
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.mouths.placement import Placement, Registration
from tinfork.core.mouths.starter import STARTER
from tinfork.core.scene.boil import Boil
from tinfork.core.scene.drawing import DrawnParts, segments, shown
from tinfork.core.scene.grid import grid_columns, grid_rows
from tinfork.core.scene.heads import plain_head
from tinfork.core.scene.layout import Stand, box_of, drawing_matrix, figure_matrix, in_order, side_by_side
from tinfork.core.scene.scene import Column, Face, Figure, Scene, Sprite, on_top
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.kit import with_fewer
from tinfork.core.solver.problem import NO_MOUTH, Hold

PICTURE = Picture(b"<svg/>", ".svg")
PLACE = Placement(0.5, 0.6, 0.3, 1.0)
stands = st.builds(
    Stand,
    st.floats(-1, 2),
    st.floats(-1, 2),
    st.floats(0.05, 4),
    st.floats(-180, 180),
    st.booleans(),
    st.integers(-9, 9),
)


def sprite(number, set_name=""):
    return Sprite(number, set_name, f"d{number}", Registration.centred(400, 300), PICTURE)


def column(holds, kind="mouth", name="mouth"):
    sprites = {(h.set, h.drawing): sprite(h.drawing, h.set) for h in holds if h.drawing != NO_MOUTH}
    return Column(name, PLACE, sprites, tuple(holds), kind)


def holds(*rows):
    return [Hold(a, b, d, "rest", s) for a, b, d, s in rows]


def scene(figures, frames, rate="24"):
    document = reading_json.read_document(reading_bytes())
    return Scene("P", "S", FrameRate.parse(rate), document.reading, tuple(figures), frames, 101)


def test_python_and_the_page_place_figures_alike():
    cases = json.loads((Path(__file__).parents[1] / "golden" / "stand.json").read_text())
    assert len(cases) > 50
    for case in cases:
        matrix, box = figure_matrix(Stand.from_dict(case["stand"]), case["aspect"], tuple(case["frame"]))
        assert [*matrix.at(0, 0), *matrix.at(*box), *box] == pytest.approx(case["corners"], abs=1e-6)


@given(stands, st.floats(0.2, 5), st.floats(0, 1), st.floats(0, 1))
def test_a_point_of_the_face_lies_where_complex_numbers_put_it(stand, aspect, u, v):
    matrix, (width, height) = figure_matrix(stand, aspect, (1920, 1080))
    arm = complex((u - 0.5) * width * (-1 if stand.is_mirrored else 1), (v - 0.5) * height)
    point = complex(stand.x * 1920, stand.y * 1080) + arm * cmath.exp(1j * math.radians(stand.turn))
    assert complex(*matrix.at(u * width, v * height)) == pytest.approx(point, abs=1e-6)
    assert width / height == pytest.approx(aspect)
    back = matrix.inverse.at(*matrix.at(u, v))
    assert back == pytest.approx((u, v), abs=1e-6)


@given(stands)
def test_where_a_figure_stands_is_kept(stand):
    assert Stand.from_dict(json.loads(json.dumps(stand.to_dict()))) == stand


@pytest.mark.parametrize(
    "wrong",
    [None, 3, [], {}, {"x": "1"}, Stand().to_dict() | {"x": float("nan")}, Stand().to_dict() | {"size": 0},
     Stand().to_dict() | {"depth": 1.5}, Stand().to_dict() | {"mirrored": 1}, Stand().to_dict() | {"turn": 200}],
)  # fmt: skip
def test_what_is_no_place_to_stand_is_refused(wrong):
    with pytest.raises(FormatError):
        Stand.from_dict(wrong)


@given(st.lists(st.floats(0.3, 3), min_size=2, max_size=6))
def test_figures_that_nobody_placed_stand_beside_each_other_inside_the_picture(aspects):
    boxes = []
    for stand, aspect in zip(side_by_side(aspects), aspects, strict=True):
        matrix, box = figure_matrix(stand, aspect, (1600, 900))
        boxes.append(box_of(matrix, box))
    assert all(left >= -1e-6 and right <= 1600.001 and top >= -1e-6 for left, top, right, _ in boxes)
    assert all(bottom == pytest.approx(900) for *_, bottom in boxes)
    assert all(a[2] <= b[0] + 1e-6 for a, b in pairwise(boxes))


def test_who_is_deeper_is_drawn_first():
    assert in_order([Stand(depth=2), Stand(depth=-1), Stand(depth=2), Stand()]) == [1, 3, 0, 2]


def test_a_face_of_a_set_is_shown_with_that_sets_mouth_in_its_place():
    mouth = column(holds((0, 4, 1, ""), (4, 9, 1, "left"), (9, 12, NO_MOUTH, "")))
    profile = Face(Picture(b"<svg id='p'/>", ".svg"), 1.0, Placement(0.2, 0.7, 0.2, 1.0))
    figure = Figure("Odalys", 1, Face(PICTURE, 1.0, PLACE), (mouth,), faces={"left": profile})
    stretches = list(segments(scene([figure], 12), (900, 900)))
    assert [(a, b) for a, b, _ in stretches] == [(0, 4), (4, 9), (9, 12)]
    first, second, third = (drawn for *_, drawn in stretches)
    assert first[0].picture == PICTURE and second[0].picture == profile.picture and len(third) == 1
    matrix, size = second[1].matrix, second[1].size
    assert size == pytest.approx((180, 135)) and matrix.at(90, 67.5) == pytest.approx((180, 630))


def test_parts_are_where_the_face_of_a_set_has_them_or_not_seen_on_it():
    mouth = column(holds((0, 4, 1, ""), (4, 8, 1, "left"), (8, 12, 1, "back")))
    eyes = column(holds((0, 12, 1, "")), "eyes", "eyes")
    there = Face(PICTURE, 2.0, PLACE, {"eyes": Placement(0.25, 0.5, 0.1, 2.0)})
    unseen = Face(PICTURE, 1.0, PLACE, {"eyes": None})
    figure = Figure("Odalys", 1, Face(PICTURE, 1.0, PLACE), (mouth, eyes), faces={"left": there, "back": unseen})
    usual, left, back = (drawn for *_, drawn in segments(scene([figure], 12), (800, 800)))
    assert [p.key[1] for p in usual] == [p.key[1] for p in left] == ["", "eyes", "mouth"]
    assert [p.key[1] for p in back] == ["", "mouth"]
    matrix, size = left[1].matrix, left[1].size
    # The face is 800 by 400 pixels, in the middle of the frame.
    assert size == pytest.approx((80, 60)) and matrix.at(40, 30) == pytest.approx((200, 400))


def test_tracings_of_a_drawing_are_seen_in_turn_and_others_stand_still():
    traced = [Picture(bytes([n]), ".png") for n in range(2)]
    mouth, eyes = column(holds((0, 12, 3, ""))), column(holds((0, 12, 1, "")), "eyes", "eyes")
    sprite = replace(mouth.sprites["", 3], tracings=tuple(traced))
    mouth = replace(mouth, sprites={**mouth.sprites, ("", 3): sprite})
    figure = Figure("Odalys", 1, Face(PICTURE, 1.0, PLACE), (mouth, eyes))
    shot = replace(scene([figure], 12), boil=Boil(0, 2))
    seen = {
        start: {placed.key[1]: placed.picture for placed in drawn}
        for start, _, drawn in segments(shot, (90, 90), boils=True)
    }
    assert sorted(seen) == [0, 2, 4, 6, 8, 10]
    turns = [sprite.picture, *traced]
    assert [seen[start]["mouth"] for start in sorted(seen)] == turns * 2
    assert len({id(one["eyes"]) for one in seen.values()}) == 1
    # In vectors it is as it was drawn first.
    assert [(start, drawn[-1].picture) for start, _, drawn in segments(shot, (90, 90))] == [(0, sprite.picture)]


def test_pupils_lie_on_the_eyes_and_the_mouth_on_everything():
    kinds = ["brows", "eyes", "other", "mouth", "pupils"]
    columns = sorted((Column(kind, PLACE, {}, (), kind) for kind in kinds), key=on_top)
    # Drawn from the last to the first.
    drawn = [column.kind for column in reversed(columns)]
    assert drawn.index("pupils") > drawn.index("eyes")
    assert drawn[-1] == "mouth"


def test_parts_lie_under_the_mouth_and_only_what_is_asked_for_is_drawn():
    mouth, eyes = column(holds((0, 12, 3, ""))), column(holds((0, 5, 1, ""), (5, 12, 2, "")), "eyes", "eyes")
    front = Figure("Odalys", 1, Face(PICTURE, 1.0, PLACE), (mouth, eyes), Stand(depth=1))
    behind = Figure("Brindle", 2, Face(PICTURE, 1.0, PLACE), (column(holds((0, 12, 4, ""))),))
    whole = scene([front, behind], 12)
    first = next(segments(whole, (90, 90)))[2]
    keys = [p.key[:2] for p in first]
    assert keys == [("Brindle", ""), ("Brindle", "mouth"), ("Odalys", ""), ("Odalys", "eyes"), ("Odalys", "mouth")]
    assert [p.key[1] for p in next(segments(whole, (90, 90), DrawnParts.MOUTHS))[2]] == ["mouth", "mouth"]
    assert [p.key[1] for p in next(segments(whole, (90, 90), DrawnParts.FACES))[2]] == ["", ""]
    assert [p.key[1] for p in next(segments(whole, (90, 90), DrawnParts.PARTS, "Odalys"))[2]] == ["eyes", "mouth"]
    spans = {one.placed.key[1:]: one.spans for one in shown(whole, (90, 90), DrawnParts.PARTS, "Odalys")}
    assert spans == {("eyes", "", 1): ((0, 5),), ("eyes", "", 2): ((5, 12),), ("mouth", "", 3): ((0, 12),)}


def test_a_drawing_on_a_mirrored_turned_figure():
    figure, box = figure_matrix(Stand(0.5, 0.5, 1, 90, True), 1.0, (800, 800))
    matrix, size = drawing_matrix(PLACE, Registration.centred(400, 300), figure, box)
    # 0.1 of the face under its middle; turned a quarter clockwise that is to the left, mirrored or not.
    assert matrix.at(size[0] / 2, size[1] / 2) == pytest.approx((400 - 80, 400))


rates = st.sampled_from(sorted(STANDARD_RATES))


@given(st.lists(st.integers(1, 9), min_size=1, max_size=12), rates, rates)
def test_at_another_rate_each_frame_shows_what_was_seen_as_it_begins(lengths, rate, other):
    rows, at = [], 0
    for n, length in enumerate(lengths):
        rows.append((at, at + length, n + 1, ""))
        at += length
    was = scene([Figure("O", 1, Face(PICTURE, 1.0, PLACE), (column(holds(*rows)),))], at, rate)
    new = was.at_rate(FrameRate.parse(other))
    got = new.figures[0].mouth.holds
    assert [h.start for h in got] == [0, *(h.end for h in got[:-1])] and got[-1].end == new.frames
    for frame in range(new.frames):
        before = was.rate.frame_at(new.rate.first_us(frame))
        due = next(d for a, b, d, _ in rows if a <= min(before, at - 1) < b)
        assert next(h.drawing for h in got if h.start <= frame < h.end) == due


def test_the_grid_says_heads_and_stems():
    document = reading_json.read_document(reading_bytes())
    figure = Figure("Odalys", 1, Face(PICTURE, 1.0, PLACE), (column(document.tracks["Odalys", ""]),))
    whole = replace(scene([figure], 48), notes={12: "look"})
    columns = grid_columns(whole)
    assert [c.heading for c in columns] == ["words", "sounds", "mouth", "notes"]
    rows = list(grid_rows(whole, columns))
    assert rows[0] == ([101, "00:00:00:00", "0+00"], ["", "", "1", ""])
    assert rows[6] == ([107, "00:00:00:06", "0+06"], ["Bread", "b", "2", ""])
    assert rows[12][1] == ["Brindle", "b", "7", "look"] and rows[13][1] == ["│", "│", "│", ""]
    assert rows[24][1][2] == "×" and rows[30][1][2] == "1"


@given(readings(), st.data())
def test_fewer_mouths_are_part_of_the_chart_and_all_of_them_cost_nothing(reading, data):
    rows = list(with_fewer(reading, STARTER, FrameRate.parse("24"), "Odalys", Dials(), [3, 8, 14, 30]))
    assert [len(row.numbers) for row in rows] == [8, 3]
    assert set(rows[1].numbers) < set(rows[0].numbers) <= {d.number for d in STARTER.drawings}
    assert all(0 <= row.frames_off <= row.frames for row in rows)


def test_a_plain_head_is_round_its_mouth():
    svg = plain_head(2, Placement(0.3, 0.6, 0.4, 1.5))
    assert 'viewBox="0 0 1350.0 900"' in svg and 'cx="405.0"' in svg and "#7b4a74" in svg
    assert svg.count("#24282d") == 2 and "#24282d" not in plain_head(2, PLACE, with_eyes=False)


@given(st.integers(0, len(reading_bytes()) - 1), st.binary(min_size=1, max_size=3))
def test_a_damaged_file_is_refused_or_read_and_nothing_else(at, new):
    data = reading_bytes()
    for wrong in (data[:at], data[:at] + new + data[at + len(new) :], data[at:]):
        try:
            reading_json.read_document(wrong)
        except FormatError as error:
            assert str(error)


holes = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner, max_size=3),
    max_leaves=6,
)


@given(st.data())
def test_any_part_may_be_nonsense(data):
    document = json.loads(reading_bytes())
    where = document
    while isinstance(where, dict | list) and where:
        key = data.draw(st.sampled_from(sorted(where) if isinstance(where, dict) else range(len(where))))
        if not isinstance(where[key], dict | list) or data.draw(st.booleans()):
            where[key] = data.draw(holes)
            break
        where = where[key]
    try:
        reading_json.read_document(json.dumps(document).encode())
    except FormatError as error:
        assert str(error)
