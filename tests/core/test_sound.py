import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays

from tinfork.core.sound.peaks import LEVELS, peak_pyramid
from tinfork.core.sound.voice import end_by_level, faded, has_voice, level_db, risen

HZ = 16_000


@given(arrays.arrays(np.float32, st.integers(0, 5000), elements=st.floats(-1, 1, width=32)))
def test_each_level_of_peaks_reaches_as_far_as_the_sound(samples):
    levels = peak_pyramid(samples, HZ)
    assert len(levels) == LEVELS
    top = np.rint(127 * max(float(samples.max(initial=0)), 0)) if len(samples) else 0
    for level in levels:
        assert level.dtype == np.int8
        assert max(int(level[:, 1].max()), 0) == top


def test_a_millisecond_is_one_bin_of_the_finest_level():
    samples = np.zeros(HZ, np.float32)
    samples[8000] = 1.0
    finest = peak_pyramid(samples, HZ)[0]
    assert len(finest) == 1000
    assert np.flatnonzero(finest[:, 1]).tolist() == [500]


def test_silence_has_no_voice_and_a_tone_of_a_tenth_second_could_be_one():
    tone = np.sin(np.arange(HZ // 10) * 0.3).astype(np.float32) * 0.1
    quiet = np.zeros(HZ, np.float32)
    assert not has_voice(level_db(quiet, HZ))
    assert has_voice(level_db(np.concatenate([quiet, tone]), HZ))


def burst(start_s, end_s, total_s=1.0):
    samples = np.random.default_rng(1).normal(scale=1e-4, size=int(total_s * HZ))
    samples[int(start_s * HZ) : int(end_s * HZ)] += np.random.default_rng(2).normal(
        scale=0.2, size=int(end_s * HZ) - int(start_s * HZ)
    )
    return samples.astype(np.float32)


def test_an_end_before_a_pause_moves_to_where_the_level_falls():
    levels = level_db(burst(0.30, 0.60), HZ)
    assert abs(end_by_level(560_000, levels) - 600_000) <= 10_000
    assert abs(end_by_level(640_000, levels) - 600_000) <= 10_000


def test_an_end_far_from_any_fall_stays():
    levels = level_db(burst(0.30, 0.60), HZ)
    assert end_by_level(450_000, levels) == 450_000
    assert end_by_level(320_000, levels) == 320_000


def test_a_sound_lasts_while_it_fades_and_not_into_the_pause():
    #: 20 dB in 100 ms, from 0.3 s on, over a pause at -70.
    levels = np.full(100, -70.0)
    levels[10:30] = -20.0
    levels[30:60] = np.maximum(-20.0 - 2.0 * np.arange(30), -70.0)
    # 27 dB under its loudest.
    assert faded(100_000, 300_000, 1_000_000, levels) == 440_000
    # Never earlier than it was, and not into what follows.
    assert faded(100_000, 700_000, 1_000_000, levels) == 700_000
    assert faded(100_000, 300_000, 320_000, levels) == 320_000
    # A louder room hides the end of the fade.
    assert faded(100_000, 300_000, 1_000_000, np.maximum(levels, -45.0)) == 380_000
    levels[30:] = -20.0
    assert faded(100_000, 300_000, 1_000_000, levels) == 650_000


def test_what_the_room_hides_of_a_fade_is_as_long_as_such_sounds_usually_are():
    # 25 dB above the room: of the 27 dB of its fade, 11 are hidden.
    levels = np.full(100, -60.0)
    levels[10:20] = -35.0
    # It falls by 1 dB in 10 ms until it is hidden, 9 dB above the room, and on by 2.5: for 4 hops.
    levels[20:45] = -35.0 - np.arange(25)
    assert faded(100_000, 200_000, 1_000_000, levels) == 360_000
    assert faded(100_000, 200_000, 1_000_000, levels, usual_us=400_000) == 400_000
    # No longer than usual, and no shorter than it is heard.
    assert faded(100_000, 200_000, 1_000_000, levels, usual_us=280_000) == 380_000
    assert faded(100_000, 200_000, 1_000_000, levels, usual_us=100_000) == 360_000
    # What ends sharply ends there, however much is hidden.
    levels[20:] = -60.0
    assert faded(100_000, 200_000, 1_000_000, levels, usual_us=400_000) == 200_000


def test_a_stop_whose_release_the_room_hides_lasts_as_usual():
    # Its closure is silent at once. A room 16 dB lower hides 20 dB, 8 hops at 2.5 dB; the same fall of another sound is
    # its end.
    levels = np.full(100, -36.0)
    levels[:12] = -20.0
    assert faded(100_000, 120_000, 1_000_000, levels, usual_us=120_000, is_stop=True) == 200_000
    assert faded(100_000, 120_000, 1_000_000, levels, usual_us=90_000, is_stop=True) == 190_000
    assert faded(100_000, 120_000, 1_000_000, levels, usual_us=120_000) == 130_000
    # One 30 dB lower hides 6: a release would be heard.
    levels[12:] = -50.0
    assert faded(100_000, 120_000, 1_000_000, levels, usual_us=120_000, is_stop=True) == 120_000


def test_a_sound_begins_where_it_rises_out_of_the_room():
    levels = np.full(100, -70.0)
    levels[20:40] = np.linspace(-60.0, -20.0, 20)
    levels[40:60] = -20.0
    # 22 dB under its loudest.
    assert risen(400_000, 600_000, 0, levels) == 290_000
    # Never later than it was, and not into what comes before.
    assert risen(250_000, 600_000, 0, levels) == 250_000
    assert risen(400_000, 600_000, 350_000, levels) == 350_000
    # What has sounded for long before it is something else.
    levels[:40] = -20.0
    assert risen(400_000, 600_000, 0, levels) == 200_000


@given(
    st.integers(0, 60),
    st.integers(1, 40),
    st.integers(0, 60),
    st.integers(0, 40),
    st.booleans(),
    st.integers(0, 2**32 - 1),
)
def test_fading_never_shortens_and_never_reaches_what_follows(start, length, room, usual, is_stop, seed):
    levels = np.random.default_rng(seed).uniform(-90, 0, 120)
    start_us, end_us = start * 10_000, (start + length) * 10_000
    ends = faded(start_us, end_us, end_us + room * 10_000, levels, usual_us=usual * 10_000, is_stop=is_stop)
    assert end_us <= ends <= end_us + min(room, 35) * 10_000
    begins = risen(start_us, end_us, start_us - room * 10_000, levels)
    assert start_us - min(room, 20) * 10_000 <= begins <= start_us
