import itertools

import numpy as np
import pytest

from tinfork.core.mouths.articulation import PARTS, VECTORS, distance, vector
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.speech.visemes import CLOSURES, SOUNDS, VISEMES


@pytest.mark.parametrize("viseme", VISEMES)
def test_each_class_has_a_vector_of_shares(viseme):
    assert len(VECTORS[viseme]) == len(PARTS)
    assert all(0 <= part <= 1 for part in VECTORS[viseme])


def test_distance_is_a_metric_over_the_classes():
    for a, b, c in itertools.product(VISEMES, repeat=3):
        ab = float(distance(vector(a), vector(b)))
        assert ab == float(distance(vector(b), vector(a)))
        assert (ab == 0) == (a == b)
        assert ab <= float(distance(vector(a), vector(c)) + distance(vector(c), vector(b))) + 1e-12


@pytest.mark.parametrize("closure", sorted(CLOSURES))
def test_a_closure_is_far_from_every_open_mouth(closure):
    open_ones = [v for v in VISEMES if v not in CLOSURES | {"rest"}]
    assert min(float(distance(vector(closure), vector(v))) for v in open_ones) > 1.0


def test_rest_is_nearest_to_lips_together():
    others = [v for v in VISEMES if v != "rest"]
    assert min(others, key=lambda v: float(distance(vector("rest"), vector(v)))) == "bilabial"


def test_a_drawing_of_several_classes_lies_between_them_and_claims_each_at_no_distance():
    drawing = Drawing(1, "both", ("open", "close-spread"))
    assert np.allclose(drawing.articulation, (vector("open") + vector("close-spread")) / 2)
    table = Chart((drawing, Drawing(2, "mid", ("mid",)))).distances
    assert table[0, SOUNDS.index("ɑ")] == table[0, SOUNDS.index("i")] == 0
    assert (table[1] >= 0).all()
