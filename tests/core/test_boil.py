"""Line boil: a smooth field, the same at every size, as strong as it is said to be, another one for each variant."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import FormatError
from tinfork.core.mouths.placement import Placement, Registration
from tinfork.core.scene.boil import VARIANTS, Boil, Variant, displacement, drawing_width

variants = st.builds(Variant, st.integers(1, 100), st.integers(0, VARIANTS - 1), st.floats(0.05, 4))
#: Several pixels to each wave.
sizes = st.tuples(st.integers(80, 160), st.integers(80, 160))
seeds = st.integers(0, 2**32 - 1)


@given(st.builds(Variant, st.integers(1, 100), st.integers(0, VARIANTS - 1), st.floats(0.05, 1.5)), seeds, sizes)
def test_lines_are_displaced_as_far_on_average_as_the_strength_says(variant, seed, size):
    right, down = displacement(variant, seed, size)
    assert right.shape == down.shape == (size[1], size[0])
    # 1.2 hundredths of the face's height at full strength; the picture is `wide` of these wide.
    pixels_a_height = size[0] / variant.wide
    meant = 0.012 * variant.strength / 100 * pixels_a_height
    assert np.sqrt((right**2 + down**2).mean()) == pytest.approx(meant, rel=0.05)
    again = displacement(variant, seed, size)
    assert (again[0] == right).all() and (again[1] == down).all()


@given(variants, seeds)
def test_a_picture_of_twice_the_size_is_displaced_twice_as_far_at_the_same_places(variant, seed):
    small = displacement(variant, seed, (40, 30))
    large = displacement(variant, seed, (120, 90))
    # The middle of each small pixel is that of the middle one of nine large ones.
    assert np.allclose(large[:, 1::3, 1::3] / 3, small, atol=1e-4 * np.abs(small).max() + 1e-6)
    # A pixel more or less, as where a size is rounded, changes next to nothing.
    rounded = displacement(variant, seed, (120, 91))[:, :90]
    assert np.abs(rounded - large).max() < 0.1 * np.abs(large).max() + 1e-6


@given(variants, seeds)
def test_it_is_smooth(variant, seed):
    field = displacement(variant, seed, (200, 200))
    # A wave is 0.09 heights of the face long, and never shorter than the picture.
    long = min(200.0, 0.09 / variant.wide * 200)
    steps = np.abs(np.diff(field, axis=2))
    assert steps.max() < 8 * np.abs(field).max() / long


def test_each_variant_and_each_picture_has_a_field_of_its_own():
    fields = [displacement(Variant(50, n, 1.5), seed, (60, 40)) for n in range(VARIANTS) for seed in (1, 2)]
    for n, one in enumerate(fields):
        for other in fields[n + 1 :]:
            alike = np.corrcoef(one.ravel(), other.ravel())[0, 1]
            assert abs(alike) < 0.5


@given(st.integers(1, 12), st.integers(0, 10_000))
def test_variants_take_turns(rhythm, frame):
    boil = Boil(30, rhythm)
    assert boil.variant_on(frame) == boil.variant_on(frame + VARIANTS * rhythm)
    seen = [boil.variant_on(n) for n in range(VARIANTS * rhythm)]
    assert seen == [n for n in range(VARIANTS) for _ in range(rhythm)]


def test_boil_is_kept_as_plain_values():
    assert Boil.from_dict(Boil(40, 3).to_dict()) == Boil(40, 3)
    assert Boil(0, 3).to_dict() == {"strength": 0, "rhythm": 3}
    assert Boil().to_dict() == {}
    assert Boil.from_dict({}) == Boil()
    for wrong in ({"strength": 101}, {"strength": -1}, {"strength": 5, "rhythm": 0}, {"strength": 5, "rhythm": 13}):
        with pytest.raises(FormatError):
            Boil.from_dict(wrong)


def test_a_drawing_is_as_wide_as_its_place_says_and_its_canvas():
    # A third of a face of 3:2 is half its height; the drawing is twice as wide as the usual canvas.
    assert drawing_width(Placement(0.5, 0.5, 1 / 3, 1.5), Registration(200, 80, 100, 50, 50)) == 1.0
