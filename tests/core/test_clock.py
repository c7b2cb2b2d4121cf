import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.clock import (
    STANDARD_RATES,
    FrameRate,
    feet_and_frames,
    seconds_from_us,
    timecode,
    us_from_seconds,
)
from tinfork.core.errors import TimingError

RATES = [FrameRate(value) for value in STANDARD_RATES.values()]
GOLDEN = json.loads((Path(__file__).parents[1] / "golden" / "clock.json").read_text())


@given(st.sampled_from(RATES), st.integers(0, 24 * 3600 * 60))
def test_a_frames_first_microsecond_lies_on_it_and_the_one_before_does_not(rate, frame):
    first = rate.first_us(frame)
    assert rate.frame_at(first) == frame
    assert first == 0 or rate.frame_at(first - 1) == frame - 1


@given(st.sampled_from(RATES), st.integers(0, 10**12))
def test_every_time_lies_in_exactly_one_frame(rate, time_us):
    frame = rate.frame_at(time_us)
    assert rate.first_us(frame) <= time_us < rate.first_us(frame + 1)


@given(st.sampled_from(RATES), st.lists(st.integers(0, 10**12), max_size=20))
def test_many_times_lie_in_the_frames_that_each_alone_lies_in(rate, times_us):
    assert rate.frames_at(np.array(times_us, dtype=np.int64)).tolist() == [rate.frame_at(time) for time in times_us]


@pytest.mark.parametrize("case", GOLDEN[::7], ids=lambda c: f"{c['rate']}@{c['frame']}")
def test_the_golden_values_shared_with_the_browser(case):
    rate = FrameRate(Fraction(*case["rate"]))
    assert rate.first_us(case["frame"]) == case["first_us"]
    assert timecode(case["frame"], rate) == case["timecode"]
    assert [[t, rate.frame_at(t)] for t, _ in case["at"]] == case["at"]


@pytest.mark.parametrize(
    ("frame", "code"),
    [
        (0, "00:00:00;00"),
        (1799, "00:00:59;29"),
        (1800, "00:01:00;02"),
        (17981, "00:09:59;29"),
        (17982, "00:10:00;00"),
        (107892, "01:00:00;00"),
    ],
)
def test_drop_frame_at_29_97_leaves_out_two_numbers_a_minute_but_every_tenth(frame, code):
    assert timecode(frame, FrameRate.parse("29.97"), drop=True) == code


@pytest.mark.parametrize(("frame", "code"), [(3599, "00:00:59;59"), (3600, "00:01:00;04"), (35964, "00:10:00;00")])
def test_drop_frame_at_59_94_leaves_out_four(frame, code):
    assert timecode(frame, FrameRate.parse("59.94"), drop=True) == code


def frame_from_timecode(code, rate):
    """The frame that a timecode names: SMPTE ST 12-1 leaves two numbers (four at 59.94) out of every minute but each
    tenth.
    """
    hh, mm, ss, ff = map(int, code.replace(";", ":").split(":"))
    minutes = 60 * hh + mm
    left_out = rate.nominal // 15 * (minutes - minutes // 10) if ";" in code else 0
    return (60 * minutes + ss) * rate.nominal + ff - left_out


@given(st.sampled_from(RATES), st.integers(0, 24 * 3600 * 24), st.booleans())
def test_timecode_reads_back_as_the_frame_it_was_written_for(rate, frame, drop):
    assert frame_from_timecode(timecode(frame, rate, drop=drop and rate.can_drop), rate) == frame


def test_drop_frame_is_refused_where_it_does_not_exist():
    with pytest.raises(TimingError, match=r"29\.97 and 59\.94"):
        timecode(10, FrameRate.parse("24"), drop=True)


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("23.976", Fraction(24000, 1001)),
        ("30000/1001", Fraction(30000, 1001)),
        ("25", Fraction(25)),
        ("12.5", Fraction(25, 2)),
    ],
)
def test_rates_are_read_as_exact_fractions(text, value):
    assert FrameRate.parse(text).value == value


@pytest.mark.parametrize("text", ["", "abc", "24/0", "-24", "0", "1e3", "24/1/1", "9999", "٢٤x"])
def test_what_is_no_rate_is_refused(text):
    with pytest.raises(TimingError):
        FrameRate.parse(text)


@pytest.mark.parametrize("name", STANDARD_RATES)
def test_a_standard_rate_keeps_the_name_people_use(name):
    assert FrameRate.parse(FrameRate.parse(name).label) == FrameRate.parse(name)


def test_feet_count_sixteen_frames():
    assert [feet_and_frames(f) for f in (0, 15, 16, 100)] == ["0+00", "0+15", "1+00", "6+04"]


@given(st.integers(0, 10**12))
def test_seconds_with_six_decimals_hold_a_time_exactly(time_us):
    assert us_from_seconds(seconds_from_us(time_us)) == time_us


@given(st.sampled_from(RATES), st.integers(1, 10**10))
def test_a_sound_has_as_many_frames_as_begin_in_it(rate, duration_us):
    frames = rate.frames_in(duration_us)
    assert rate.first_us(frames - 1) < duration_us <= rate.first_us(frames)
