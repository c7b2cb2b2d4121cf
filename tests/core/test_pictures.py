"""Regions, distances, grounds, measures and cutting up pages, on pictures with known answers."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.pictures import ink_box, mouths, on_ground, page
from tinfork.core.mouths.style import Ink, Style
from tinfork.core.pictures.cutting import cut, find_boxes, find_parts, usual_gap
from tinfork.core.pictures.ground import clear_ground, drawn_mask, ground_colour
from tinfork.core.pictures.measure import Measures, looks_apart, measure
from tinfork.core.pictures.regions import Box, find_regions, inner_distance

masks = st.integers(1, 9).flatmap(
    lambda w: st.lists(st.lists(st.booleans(), min_size=w, max_size=w), min_size=1, max_size=9)
).map(lambda rows: np.array(rows, dtype=bool))  # fmt: skip


def flooded(mask):
    """Region numbers by plain flood filling."""
    numbers = np.full(mask.shape, -1)
    count = 0
    for start in zip(*np.nonzero(mask), strict=True):
        if numbers[start] >= 0:
            continue
        todo = [start]
        while todo:
            y, x = todo.pop()
            if 0 <= y < mask.shape[0] and 0 <= x < mask.shape[1] and mask[y, x] and numbers[y, x] < 0:
                numbers[y, x] = count
                todo += [(y + dy, x + dx) for dy in (-1, 0, 1) for dx in (-1, 0, 1)]
        count += 1
    return numbers, count


@settings(max_examples=200)
@given(masks)
def test_regions_are_those_of_a_flood_fill(mask):
    numbers, count = flooded(mask)
    regions = find_regions(mask)
    assert regions.count == count
    seen = set()
    for n in range(count):
        ours = regions.mask_of(np.arange(count) == n)
        (theirs,) = set(numbers[ours].tolist())
        assert (ours == (numbers == theirs)).all()
        seen.add(theirs)
        box = regions.boxes()[n]
        rows, columns = np.nonzero(ours)
        assert (box.left, box.top) == (columns.min(), rows.min())
        assert (box.right, box.bottom) == (columns.max() + 1, rows.max() + 1)
    assert len(seen) == count


@settings(max_examples=120)
@given(masks, st.integers(1, 6))
def test_the_distance_inside_is_that_to_the_nearest_pixel_outside(mask, most):
    found = inner_distance(mask, most)
    padded = np.pad(mask, 1)
    outside = np.argwhere(~padded)
    for y in range(mask.shape[0]):
        for x in range(mask.shape[1]):
            away = np.sqrt(((outside - (y + 1, x + 1)) ** 2).sum(axis=1)).min() if mask[y, x] else 0
            assert found[y, x] == pytest.approx(min(away, most), abs=1e-5)


def test_boxes_know_their_gap():
    box = Box(0, 0, 10, 10)
    assert box.gap(Box(10, 0, 20, 10)) == 0
    assert box.gap(Box(14, 3, 20, 5)) == 4
    assert box.gap(Box(12, 17, 20, 20)) == 7


@pytest.mark.parametrize("colour", [(255, 255, 255), (250, 240, 220), (40, 160, 60), (12, 12, 40)])
def test_a_plain_ground_is_found_and_taken_out(colour):
    clean = mouths(Style(Ink(line="#c8102e", teeth="#f4f4f4")))[14]
    covered = on_ground(clean, colour)
    assert np.abs(np.array(ground_colour(covered)) - colour).max() <= 1
    freed = clear_ground(covered)
    assert ink_box(freed) == pytest.approx(ink_box(clean), abs=2)
    assert np.abs(freed[:, :, 3].astype(int) - clean[:, :, 3]).mean() < 2
    solid = clean[:, :, 3] > 250
    assert np.abs(freed[solid][:, :3].astype(int) - clean[solid][:, :3]).mean() < 3


def test_teeth_as_white_as_the_paper_stay():
    clean = mouths(Style(Ink(teeth="#ffffff")))[6]
    freed = clear_ground(on_ground(clean, (255, 255, 255)))
    assert freed[150, 200].tolist() == clean[150, 200].tolist()
    assert freed[150, 200, 3] == 255


@pytest.mark.parametrize("number", [1, 5, 14])
def test_a_transparent_picture_has_no_ground_and_stays_as_it_is(number):
    clean = mouths()[number]
    assert ground_colour(clean) is None
    assert clear_ground(clean) is clean


def test_a_ground_of_many_colours_is_not_plain():
    noise = np.random.default_rng(3).integers(0, 255, (80, 80, 4)).astype(np.uint8)
    noise[:, :, 3] = 255
    assert ground_colour(noise) is None
    assert measure(noise).opaque
    assert not measure(noise).plain_ground


@pytest.mark.parametrize("width", [3, 7, 12, 20, 31])
@pytest.mark.parametrize("slope", [0, 0.4, 1.3])
def test_the_line_weight_of_a_stroke_is_its_width(width, slope):
    y, x = np.mgrid[0:300, 0:400]
    away = np.abs(slope * (x - 200) - (y - 150)) / np.hypot(slope, 1)
    picture = np.zeros((300, 400, 4), dtype=np.uint8)
    picture[:, :, 3] = np.clip(255 * (width / 2 + 0.5 - away), 0, 255)
    assert measure(picture).line == pytest.approx(width, abs=1.1)


def test_measures_survive_being_kept():
    for pixels in (mouths()[3], np.zeros((20, 30, 4), dtype=np.uint8)):
        measured = measure(pixels)
        assert Measures.from_dict(measured.to_dict()).to_dict() == measured.to_dict()


def test_how_far_apart_looks_are():
    drawn = {n: measure(p) for n, p in mouths().items()}
    assert looks_apart(drawn[14], drawn[14]) == 0
    assert looks_apart(drawn[1], drawn[14]) > 0.8
    shifted = measure(np.roll(mouths()[14], 1, axis=1))
    assert looks_apart(drawn[14], shifted) < 0.1


def grid(style, columns, cell, colour=(255, 253, 248, 255)):
    """A page of the fourteen in a grid, and their boxes."""
    drawn = list(mouths(style).values())
    places = [(20 + (i % columns) * cell[0], 20 + (i // columns) * cell[1]) for i in range(14)]
    rows = -(-14 // columns)
    sheet = page(drawn, places, (140 + columns * cell[0], 160 + rows * cell[1]), colour)
    boxes = [
        (x + box[0], y + box[1], x + box[2], y + box[3])
        for (x, y), box in ((place, ink_box(p)) for place, p in zip(places, drawn, strict=True))
    ]
    return sheet, boxes


@pytest.mark.parametrize("colour", [(255, 253, 248, 255), (0, 0, 0, 0), (70, 110, 140, 255)])
@pytest.mark.parametrize("columns", [3, 5, 7])
@pytest.mark.parametrize("kind", ["soft", "square", "beak"])
def test_the_drawings_of_a_page_are_found_where_they_are(kind, columns, colour):
    sheet, boxes = grid(Style(kind=kind), columns, (320, 220), colour)
    found = find_boxes(find_parts(sheet))
    assert len(found) == 14
    for box, known in zip(found, boxes, strict=True):
        assert (box.left, box.top, box.right, box.bottom) == pytest.approx(known, abs=2)


def test_an_empty_page_has_no_boxes_and_specks_are_none():
    blank = np.full((300, 300, 4), 255, dtype=np.uint8)
    assert find_boxes(find_parts(blank)) == []
    sheet, boxes = grid(Style(), 5, (320, 220))
    sheet[5:8, 5:8] = (0, 0, 0, 255)
    assert len(find_boxes(find_parts(sheet))) == len(boxes)


def test_a_wider_gap_joins_and_a_narrow_one_parts():
    sheet, _ = grid(Style(), 5, (320, 220))
    assert len(find_boxes(find_parts(sheet), 2000)) == 1
    assert len(find_boxes(find_parts(sheet), 1)) > 14
    assert 1 < usual_gap(find_parts(sheet)) < 60


def test_pieces_share_a_canvas_and_are_centred_in_it():
    sheet, _ = grid(Style(), 5, (320, 220))
    pieces = cut(clear_ground(sheet), find_boxes(find_parts(sheet)), margin=10)
    assert len({p.shape for p in pieces}) == 1
    for piece in pieces:
        left, top, right, bottom = ink_box(piece)
        assert abs(left + right - piece.shape[1]) <= 4
        assert abs(top + bottom - piece.shape[0]) <= 4
        assert piece[0, 0, 3] == 0


def test_a_frame_is_drawn_where_the_mask_says():
    assert not drawn_mask(np.zeros((4, 4, 4), dtype=np.uint8)).any()
