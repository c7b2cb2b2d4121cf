"""Edges between sounds moved by what is near them: the spectrum, the network's sums, the limits."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.ear.edges import BANDS, REACH, EdgeNetwork, MetEdge, edge_bands, lengths_of, windows_at
from tinfork.core.ear.phones import HEARD

HZ = 16_000
SEEN, WIDTH = (2 * REACH + 1) * BANDS, 3


def weights(seed=None, **own):
    """Zeros, or random numbers of a seed, with some weights given."""
    pick = np.random.default_rng(seed)
    shapes = {
        "seen": (SEEN, WIDTH), "lengths": (2, WIDTH), "bias": (WIDTH,), "before": (len(HEARD), WIDTH),
        "after": (len(HEARD), WIDTH), "hidden": (WIDTH, WIDTH), "hidden_bias": (WIDTH,), "last": (WIDTH,),
        "last_bias": (1,),
    }  # fmt: skip
    made = {name: np.zeros(shape) if seed is None else pick.normal(size=shape) for name, shape in shapes.items()}
    return made | {name: np.asarray(values, dtype=float) for name, values in own.items()}


def met(at_s, before="m", after="s", before_s=0.05, after_s=0.05):
    return MetEdge(at_s, before, after, before_s, after_s)


def test_the_spectrum_of_a_step_is_of_what_sounds_around_it():
    time = np.arange(HZ) / HZ
    # From low to high at 0.5 s, which is step 100.
    samples = np.where(time < 0.5, np.sin(2 * np.pi * 300 * time), np.sin(2 * np.pi * 2500 * time)).astype(np.float32)
    bands = edge_bands(samples)
    assert bands.shape == (201, BANDS)
    low, high = bands[80].argmax(), bands[120].argmax()
    assert low < high
    assert bands[97, low] > bands[97, high]
    assert bands[103, high] > bands[103, low]
    # Windows are 16 ms long: two steps away nothing is seen of the other tone.
    assert np.allclose(bands[97], bands[80], atol=0.2)
    assert not np.allclose(bands[100], bands[80], atol=0.2)


def test_a_spectrum_says_how_sounds_differ_and_not_how_loud_the_recording_is():
    samples = np.random.default_rng(2).normal(scale=0.1, size=HZ // 2).astype(np.float32)
    assert np.allclose(edge_bands(samples), edge_bands(samples * 0.5), atol=1e-2)
    assert edge_bands(np.zeros(10, np.float32)).shape == (1, BANDS)


def test_windows_go_on_beyond_the_ends():
    bands = np.repeat(np.arange(5.0, dtype=np.float32)[:, None], BANDS, axis=1)
    first, last = windows_at(bands, [0, 4]).reshape(2, 2 * REACH + 1, BANDS)[:, :, 0]
    assert first.tolist() == [0.0] * REACH + [0, 1, 2, 3, 4, 4, 4, 4, 4]
    assert last.tolist() == [0, 0, 0, 0, 0, 1, 2, 3, 4] + [4.0] * REACH


def test_lengths_are_in_the_logarithm_of_50_ms():
    assert np.allclose(lengths_of([met(1.0, before_s=0.1, after_s=0.0)]), [[math.log(2), math.log(0.1)]])


def test_an_edge_moves_by_what_the_network_says_from_the_step_next_to_it():
    network = EdgeNetwork(weights(last_bias=[1.0]))
    bands = np.zeros((200, BANDS), np.float32)
    # 0.5012 s is nearest to step 100; one step on, bent by the limit of six: 6 tanh(1/6) steps of 5 ms.
    expected = 0.5 + 0.005 * 6 * math.tanh(1 / 6)
    assert network.moved(bands, [met(0.5012)]) == [pytest.approx(expected)]
    assert network.moved(bands, []) == []


def test_a_symbol_without_sound_moves_nothing():
    network = EdgeNetwork(weights(last_bias=[1.0]))
    bands = np.zeros((200, BANDS), np.float32)
    moved = network.moved(bands, [met(0.3, before="ˈ"), met(0.4, after=""), met(0.5)])
    assert moved[:2] == [0.3, 0.4]
    assert moved[2] > 0.5


@given(st.integers(0, 2**32 - 1), st.floats(0, 1), st.sampled_from(HEARD[1:-1]), st.sampled_from(HEARD[1:-1]))
def test_the_network_is_two_layers_and_a_limit(seed, at_s, before, after):
    own = weights(seed)
    bands = np.random.default_rng(seed).normal(size=(201, BANDS)).astype(np.float32)
    edge = met(at_s, before, after, before_s=0.08, after_s=0.03)
    # The same, worked out one number at a time.
    step = round(at_s * 200)
    seen = [float(bands[min(max(step + t, 0), 200), b]) for t in range(-REACH, REACH + 1) for b in range(BANDS)]
    long = [math.log(0.08 / 0.05), math.log(0.03 / 0.05)]
    first = []
    for k in range(WIDTH):
        total = own["bias"][k] + own["before"][HEARD.index(before), k] + own["after"][HEARD.index(after), k]
        total += sum(x * own["seen"][i, k] for i, x in enumerate(seen))
        total += sum(x * own["lengths"][i, k] for i, x in enumerate(long))
        first.append(max(0.0, total))
    second = [
        max(0.0, own["hidden_bias"][k] + sum(x * own["hidden"][i, k] for i, x in enumerate(first)))
        for k in range(WIDTH)
    ]
    out = own["last_bias"][0] + sum(x * own["last"][k] for k, x in enumerate(second))
    expected = max(0.0, (step + 6 * math.tanh(out / 6)) * 0.005)
    (moved,) = EdgeNetwork(own).moved(bands, [edge])
    assert moved == pytest.approx(expected, abs=1e-4)
    assert abs(moved - at_s) <= 0.0326


def test_weights_that_are_missing_or_of_other_sounds_are_refused():
    with pytest.raises(ValueError, match="no weights"):
        EdgeNetwork({})
    with pytest.raises(ValueError, match="another set of sounds"):
        EdgeNetwork(weights(before=np.zeros((4, WIDTH))))
