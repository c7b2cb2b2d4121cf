"""The chart check finds planted faults, and nothing in a clean chart; proposals; placement."""

import dataclasses
import functools
import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.pictures import mouths, on_ground
from tinfork.core.errors import ChartError
from tinfork.core.mouths.chart import Drawing
from tinfork.core.mouths.check import CheckedDrawing, check_chart
from tinfork.core.mouths.placement import Placement, Registration, lay
from tinfork.core.mouths.propose import InkShape, by_shape, classes_in_name, closing_drawing, propose
from tinfork.core.mouths.starter import STARTERS
from tinfork.core.mouths.style import KINDS, MOODS, WEIGHTS, Ink, Style
from tinfork.core.pictures.measure import measure


def seen(drawing, pixels, registration=None):
    measured = measure(pixels)
    return CheckedDrawing(drawing, measured, registration or Registration.centred(measured.width, measured.height))


@functools.cache
def _chart(style, drawings):
    pixels = mouths(style, drawings)
    return tuple(seen(d, pixels[d.number]) for d in STARTERS[drawings].drawings)


def chart(style=None, drawings=14):
    return list(_chart(style, drawings))


def found(all_seen):
    return [(f.kind, f.drawings, f.mend) for f in check_chart(all_seen)]


@pytest.mark.parametrize("mood", MOODS)
@pytest.mark.parametrize("kind", KINDS)
def test_a_clean_chart_has_no_findings(kind, mood):
    assert check_chart(chart(Style(kind=kind, mood=MOODS[mood]), 22)) == []


@pytest.mark.parametrize("weight", WEIGHTS)
@pytest.mark.parametrize("kind", KINDS)
def test_the_lightest_and_the_heaviest_line_are_even_too(kind, weight):
    assert check_chart(chart(Style(Ink(weight=weight), kind))) == []


@pytest.mark.parametrize("drawings", [8, 14])
def test_charts_of_other_sizes_are_clean_too(drawings):
    assert check_chart(chart(None, drawings)) == []


def test_three_mouths_lack_the_lip_on_the_teeth_only():
    assert found(chart(None, 3)) == []
    assert "labiodental" in STARTERS[3].drawings[1].shows


def replaced(at, pixels, registration=None):
    all_seen = chart()
    all_seen[at] = seen(all_seen[at].drawing, pixels, registration)
    return all_seen


@pytest.mark.parametrize("number", [1, 5, 12, 14])
@pytest.mark.parametrize("by", [-20, 20])
def test_a_drawing_beside_the_others_centre_is_found(number, by):
    moved = np.roll(mouths()[number], by, axis=1)
    assert found(replaced(number - 1, moved)) == [("drift", (number,), "recentre")]


def test_an_offset_that_takes_the_drift_back_settles_it():
    moved = np.roll(mouths()[5], 20, axis=1)
    assert found(replaced(4, moved, Registration(400, 300, 400, 220, 150))) == []
    assert found(replaced(4, moved, Registration(400, 300, 400, 200, 150, dx=-20))) == []


@pytest.mark.parametrize("weight", [4, 13])
def test_another_line_weight_is_found_with_both_measures(weight):
    (finding,) = check_chart(replaced(13, mouths(Style(Ink(weight=weight)))[14]))
    assert (finding.kind, finding.drawings, finding.mend) == ("line", (14,), "")
    other, usual = (
        float(text.split()[0].rstrip(",")) for text in finding.measure.replace("the others ", "").split(", ")
    )
    assert other == pytest.approx(weight, abs=0.7)
    assert usual == pytest.approx(8, abs=0.7)


def test_an_opaque_ground_is_found_and_says_whether_it_can_be_cleared():
    assert ("ground", (3,), "clear") in found(replaced(2, on_ground(mouths()[3])))
    noise = np.random.default_rng(1).integers(0, 255, (300, 400, 4)).astype(np.uint8)
    noise[:, :, 3] = 255
    assert ("ground", (3,), "") in found(replaced(2, noise))


def test_canvases_of_several_sizes_are_found():
    larger = np.pad(mouths()[7], ((50, 50), (100, 100), (0, 0)))
    assert found(replaced(6, larger, Registration(600, 400, 400, 300, 200))) == [("canvas", (7,), "pad")]


def test_drawings_that_are_the_same_are_found():
    assert ("same", (5, 9), "hide") in found(replaced(8, mouths()[5]))


def test_an_empty_drawing_is_found():
    assert ("empty", (4,), "") in found(replaced(3, np.zeros((300, 400, 4), dtype=np.uint8)))


def test_mostly_empty_canvases_are_found():
    wide = [np.pad(p, ((600, 600), (800, 800), (0, 0))) for p in mouths().values()]
    all_seen = [seen(d, p) for d, p in zip(STARTERS[14].drawings, wide, strict=True)]
    assert [f.mend for f in check_chart(all_seen)] == ["trim"]


def without(*classes):
    """The chart with some classes on no drawing."""
    out = []
    for one in chart():
        shows = tuple(c for c in one.drawing.shows if c not in classes)
        out.append(dataclasses.replace(one, drawing=dataclasses.replace(one.drawing, shows=shows)))
    return out


def test_missing_closures_are_found_and_a_closed_drawing_is_offered():
    (finding,) = check_chart(without("bilabial"))
    assert (finding.kind, finding.mend, finding.sounds) == ("closure", "lay", ("bilabial",))
    assert finding.drawings in ((1,), (2,))
    (finding,) = check_chart(without("labiodental"))
    assert (finding.kind, finding.mend, finding.drawings) == ("closure", "", ())


def test_a_single_sound_is_enough_for_a_closure():
    all_seen = without("bilabial")
    all_seen[1] = dataclasses.replace(all_seen[1], drawing=Drawing(2, "m", ("m",)))
    assert found(all_seen) == []


@given(st.permutations(range(14)))
def test_the_order_of_drawings_does_not_matter(order):
    all_seen = chart()
    assert check_chart([all_seen[at] for at in order]) == []


@pytest.mark.parametrize(
    ("name", "classes"),
    [
        ("pbm", ("bilabial",)),
        ("M", ("bilabial",)),
        ("odalys_fv", ()),
        ("th", ("dental",)),
        ("oo", ("close-rounded",)),
        ("wide open", ("open",)),
        ("03 lips together", ("bilabial",)),
        ("mouth-half-open", ("mid",)),
        ("viseme_07", ("sibilant",)),
        ("viseme 14", ("close-rounded",)),
        ("viseme_99", ()),
        ("ʃ", ("postalveolar",)),
        ("close-rounded", ("close-rounded",)),
        ("pim", ()),
        ("recht", ()),
        ("рот 5", ()),
        ("口", ()),
        ("", ()),
    ],
)
def test_names_hint_at_sounds(name, classes):
    assert classes_in_name(name) == (classes if name != "odalys_fv" else ("labiodental",))


@given(st.text(max_size=30))
def test_any_name_is_read_without_trouble(name):
    assert isinstance(classes_in_name(name), tuple)


def looks(names, style=None):
    return [
        InkShape.of(Drawing(s.drawing.number, name), s.measures) for s, name in zip(chart(style), names, strict=True)
    ]


def test_a_chart_brought_back_by_number_gets_the_starters_sounds():
    proposals = propose(looks([f"{n:02d}" for n in range(1, 15)]))
    assert {p.number: p.shows for p in proposals} == {d.number: d.shows for d in STARTERS[14].drawings}
    assert "starter chart" in proposals[0].why


def test_names_go_before_shapes():
    # The hints stand on drawings whose shapes allow them, some of them not the nearest.
    names = ["rest", "pbm", *["x"] * 7, "oo", "x", "x", "fv", "ah"]
    proposals = propose(looks(names))
    assert {p.number: p.shows for p in proposals} == {
        1: ("rest",), 2: ("bilabial",), 10: ("close-rounded",), 13: ("labiodental",), 14: ("open",),
    }  # fmt: skip


@pytest.mark.parametrize("name", ["m_{:02d}", "mouth m {}", "Pim_o_{:03d}.png"])
def test_what_all_names_share_says_nothing_of_any(name):
    proposals = propose(looks([name.format(n) for n in range(1, 15)]))
    assert {p.number: p.shows for p in proposals} == {d.number: d.shows for d in STARTERS[14].drawings}


def test_numbers_and_names_that_the_shapes_contradict_are_not_believed():
    drawn = looks(["x"] * 14)
    backwards = [InkShape(15 - one.number, f"m_{15 - one.number:02d}", one.width, one.height) for one in drawn]
    shows = {viseme: p.number for p in propose(backwards) for viseme in p.shows}
    # What was the widest open mouth, number 14, is number 1 now; closed lips were 1 and 2.
    assert shows["open"] == 1 and {shows["rest"], shows["bilabial"]} <= {13, 14}
    open_most = sorted(drawn, key=lambda one: one.height)[-5:]
    wrong = [InkShape(one.number, "closed" if one in open_most else "x", one.width, one.height) for one in drawn]
    assert all("shape" in one.why for one in propose(wrong))


@pytest.mark.parametrize("kind", ["soft", "square", "muzzle"])
def test_shapes_alone_tell_closed_open_round_and_wide(kind):
    shows = {v: p.number for p in propose(looks(["x"] * 14, Style(kind=kind))) for v in p.shows}
    assert set(shows) == {v for d in STARTERS[14].drawings for v in d.shows}
    assert shows["open"] == 14
    assert shows["rest"] in (1, 2)
    assert shows["bilabial"] in (1, 2)
    assert shows["close-spread"] == 12
    assert shows["close-rounded"] == 10
    assert shows["mid-rounded"] == 11


def test_nothing_is_proposed_for_nothing():
    assert propose([]) == by_shape([]) == []
    assert propose([InkShape(1, "x", 0.0, 0.0)]) == []
    assert closing_drawing([InkShape(1, "x", 0.5, 0.3)]) is None


def test_the_golden_places_shared_with_the_browser():
    cases = json.loads((Path(__file__).parents[1] / "golden" / "lay.json").read_text())
    assert len(cases) > 20
    for case in cases:
        p, d = case["place"], case["drawing"]
        placement = Placement(p["x"], p["y"], p["width"], p["aspect"], p["angle"])
        registration = Registration(d["width"], d["height"], d["canvas"], *d["point"], *d["offset"])
        laid = lay(placement, registration, tuple(case["frame"]))
        assert [laid.x, laid.y, laid.width, laid.height, laid.angle] == pytest.approx(case["laid"], abs=1e-6)


@pytest.mark.parametrize("wrong", [{"x": 9}, {"width": 0}, {"width": 7}, {"angle": 400}, {"aspect": 0}])
def test_a_place_outside_the_picture_is_refused(wrong):
    with pytest.raises(ChartError, match="outside the picture"):
        Placement(**{"x": 0.5, "y": 0.5, "width": 0.3} | wrong)
