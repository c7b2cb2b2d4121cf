"""What the network that moves edges learns from: which edges, and how far off they are."""

import numpy as np
import pytest

from tinfork.core.ear.edges import BANDS, REACH
from tinfork.core.ear.phones import HEARD
from tools.ear.edges import rows_of

BAND = np.repeat(np.arange(400.0, dtype=np.float32)[:, None], BANDS, axis=1) / 100
TRUTH = (("m", 0.1, 0.2), ("a", 0.2, 0.3), ("s", 0.3, 0.4), ("o", 0.6, 0.7), ("l", 0.7, 0.8))


def test_an_edge_between_two_sounds_that_are_neighbours_in_truth_is_learnt_with_how_far_off_it_is():
    found = [("m", 0.1, 0.21), ("a", 0.21, 0.29), ("s", 0.29, 0.4), ("o", 0.6, 0.7), ("l", 0.7, 0.8)]
    rows = rows_of(BAND, found, TRUTH)
    # Not from s to o: there is a pause between them.
    assert [HEARD[n] for n in rows.before] == ["m", "a", "o"]
    assert [HEARD[n] for n in rows.after] == ["a", "s", "l"]
    # Two steps of 5 ms too late, two too early, right.
    assert rows.off.tolist() == pytest.approx([-2, 2, 0], abs=1e-4)
    middles = rows.windows.reshape(3, 2 * REACH + 1, BANDS)[:, REACH, 0]
    assert middles.tolist() == pytest.approx([0.42, 0.58, 1.4], abs=1e-2)
    assert rows.lengths[0].tolist() == pytest.approx([np.log(0.11 / 0.05), np.log(0.08 / 0.05)], abs=1e-5)


def test_sounds_that_were_not_said_and_edges_that_are_far_off_are_not_learnt():
    assert rows_of(BAND, [("m", 0.1, 0.2), ("u", 0.2, 0.3), ("s", 0.3, 0.4)], TRUTH) is None
    assert rows_of(BAND, [("m", 0.1, 0.26), ("a", 0.26, 0.3)], TRUTH) is None
