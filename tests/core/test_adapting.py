"""The ear adapts to how somebody makes their sounds."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_ear import evidence
from tinfork.core.ear.adapting import SoundGains
from tinfork.core.ear.path import find
from tinfork.core.ear.phones import BREATH, HEARD, SILENCE

OPEN_O, OPEN_A, HISS = (HEARD.index(sound) for sound in ("o", "a", "s"))


def learnt(run, *words):
    gains = SoundGains()
    gains.add(find(run, words), words, run)
    return gains


def test_nothing_is_adapted_to_nobody():
    assert not SoundGains().gains().any()


def test_a_sound_that_is_always_badly_heard_counts_more():
    run = evidence(("", 10), ("s", 40), ("a", 40), ("", 10))
    # This speaker's "a" sounds half like "o".
    heard = np.exp(run.heard)
    heard[50:90, OPEN_O] = heard[50:90, OPEN_A] = heard[50:90, [OPEN_O, OPEN_A]].mean(axis=1)
    run = type(run)(np.log(heard), run.edge)
    gains = learnt(run, ["s", "a"]).gains()
    assert gains[OPEN_A] > 0 > gains[HISS]
    adapted = run.with_gains(gains)
    assert (adapted.heard[50:90, OPEN_A] > run.heard[50:90, OPEN_A]).all()
    assert np.exp(adapted.heard).sum(axis=1) == pytest.approx(1, abs=1e-4)


def test_the_more_was_heard_the_surer_it_is():
    def gain(frames):
        run = evidence(("s", 40), ("a", frames), sure=0.9)
        heard = run.heard.copy()
        heard[40:, OPEN_A] -= 2.0
        return learnt(type(run)(heard, run.edge), ["s", "a"]).gains()[OPEN_A]

    assert 0 < gain(6) < gain(40)


@given(st.integers(0, 2**31), st.lists(st.sampled_from(["b", "a", "t", "s", "o"]), min_size=1, max_size=4))
def test_gains_are_small_and_never_of_silence(seed, word):
    pick = np.random.default_rng(seed)
    run = evidence(("a", 60))
    heard = pick.normal(size=run.heard.shape) * 3
    heard -= np.log(np.exp(heard).sum(axis=1, keepdims=True))
    gains = learnt(type(run)(heard.astype(np.float32), run.edge), word).gains()
    assert (gains >= -0.5).all()
    assert (gains <= 1.5).all()
    assert gains[HEARD.index(SILENCE)] == gains[HEARD.index(BREATH)] == 0
