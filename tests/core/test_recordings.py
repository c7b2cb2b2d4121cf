"""What a recording is found to be: its measures, what is wrong with it, where it can be cut."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.sound.checks import check_sound
from tinfork.core.sound.loudness import listening_gain_db
from tinfork.core.sound.meter import Meter
from tinfork.core.sound.peaks import peak_pyramid
from tinfork.core.sound.silence import SoundSpan, pieces_around, quiet_cuts, speech_stretches
from tinfork.core.sound.speakers import propose_speakers

RATE = 16_000
RANDOM = np.random.default_rng(3)


def speechlike(seconds=12.0, level=0.3, room=0.0005):
    """Syllables of noise through moving bands, with pauses, in a room."""
    at = np.arange(round(seconds * RATE)) / RATE
    voice = np.sin(2 * np.pi * (140 + 12 * np.sin(at * 2)) * at) + 0.4 * np.sin(2 * np.pi * 900 * at) * np.sin(at * 31)
    syllables = np.clip(np.sin(2 * np.pi * 3.1 * at), 0, None) ** 0.7
    phrases = (at % 3.0 < 2.0).astype(float)
    noise = np.random.default_rng(8).normal(scale=room, size=len(at))
    return (voice * syllables * phrases * level + noise).astype(np.float32)


def kinds(samples, channels=None):
    meter = Meter(RATE)
    block = samples[:, None] if channels is None else channels
    for first in range(0, len(block), 4_001):
        meter.feed(block[first : first + 4_001])
    return [f.kind for f in check_sound(meter.finish(), samples, RATE)]


def test_a_clean_recording_has_nothing_wrong():
    assert kinds(speechlike()) == []


@pytest.mark.parametrize(
    ("change", "kind"),
    [
        (lambda s: np.clip(s * 8, -0.99, 0.99), "clipped"),
        (lambda s: s * 0.004, "quiet"),
        (lambda s: s + RANDOM.normal(scale=0.05, size=len(s)), "noise"),
        (lambda s: s + 0.02 * np.sin(2 * np.pi * 50 * T) + 0.012 * np.sin(2 * np.pi * 100 * T), "hum"),
        (lambda s: s + 0.02 * np.sin(2 * np.pi * 60 * T) + 0.012 * np.sin(2 * np.pi * 120 * T), "hum"),
        (lambda s: s + 0.05 * sum(np.sin(2 * np.pi * hz * T) for hz in (261.6, 329.6, 392.0, 523.3)), "music"),
        (lambda s: s * 0, "silent"),
    ],
    ids=["clipped", "quiet", "noise", "hum-50", "hum-60", "music", "silent"],
)
def test_each_fault_is_found_and_no_other(change, kind):
    assert kinds(change(speechlike()).astype(np.float32)) == [kind]


T = np.arange(12 * RATE) / RATE


def test_an_empty_channel_is_pointed_out():
    sound = speechlike()
    assert kinds(sound, np.stack([sound, sound * 0], axis=1)) == ["one-sided"]


@given(st.lists(st.integers(1, 9_000), min_size=1, max_size=12), st.integers(1, 2))
def test_measuring_in_blocks_is_measuring_at_once(sizes, channels):
    samples = np.random.default_rng(sum(sizes)).uniform(-1, 1, (sum(sizes), channels)).astype(np.float32)
    meter, at = Meter(RATE), 0
    for size in sizes:
        meter.feed(samples[at : at + size])
        at += size
    measured = meter.finish()
    assert measured.frames == len(samples)
    due = peak_pyramid(samples.mean(axis=1), RATE)
    assert all(np.abs(a.astype(int) - b).max() <= 1 for a, b in zip(measured.peaks, due, strict=True))
    assert abs(measured.peak - np.abs(samples).max()) < 1e-3


def test_stretches_of_speech_end_at_silences():
    levels = np.full(1000, -60.0)
    levels[100:200] = levels[230:300] = levels[400:500] = -20
    levels[700:703] = -20
    assert speech_stretches(levels) == [SoundSpan(1_000_000, 3_000_000), SoundSpan(4_000_000, 5_000_000)]
    assert len(speech_stretches(levels, pause_us=200_000)) == 3


@given(st.lists(st.tuples(st.integers(0, 3_000_000), st.integers(80_000, 4_000_000)), min_size=1, max_size=8))
def test_pieces_have_handles_and_never_share_sound(gaps):
    spans, at = [], 0
    for gap, length in gaps:
        spans.append(SoundSpan(at + gap, at + gap + length))
        at += gap + length
    pieces = pieces_around(spans, at + 300_000)
    for piece, span in zip(pieces, spans, strict=True):
        assert piece.start_us <= span.start_us
        assert span.end_us <= piece.end_us
        assert span.start_us - piece.start_us <= 500_000
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(pieces))


def test_long_sound_is_cut_where_it_is_quiet():
    levels = np.full(10_000, -20.0)
    levels[[*range(4_500, 4_520), *range(8_000, 8_006)]] = -60
    first, middle, later, end = (
        quiet_cuts(levels, 0, 100_000_000, most_us=60_000_000)[:2]
        + quiet_cuts(levels, 50_000_000, 100_000_000, most_us=40_000_000)[1:]
    )
    assert (first, end) == (0, 100_000_000)
    assert 45_000_000 <= middle <= 45_200_000
    assert 79_900_000 <= later <= 80_100_000


@given(st.integers(0, 40_000_000), st.integers(1, 400_000_000), st.integers(1_000_000, 60_000_000))
def test_cuts_go_from_start_to_end_and_leave_no_scraps(start, length, most):
    levels = np.random.default_rng(length).normal(-30, 10, max(1, (start + length) // 10_000))
    cuts = quiet_cuts(levels, start, start + length, most_us=most)
    assert (cuts[0], cuts[-1]) == (start, start + length)
    parts = [b - a for a, b in itertools.pairwise(cuts)]
    assert max(parts) <= most
    assert len(parts) == 1 or min(parts) >= most // 4 - 10_000


@given(st.floats(-70, 0), st.floats(-60, 3))
def test_takes_are_evened_out_for_listening_and_never_pushed_into_clipping(loudness, peak):
    gain = listening_gain_db(loudness, peak)
    assert gain <= max(0.0, -1.0 - peak) + 0.06
    assert loudness + gain <= max(loudness, -18.0) + 0.06
    assert listening_gain_db(None, peak) == 0.0


def voice(pitch, colour, seconds):
    at = np.arange(round(seconds * RATE)) / RATE
    pulse = sum(np.sin(2 * np.pi * pitch * h * at) * np.exp(-(((pitch * h - colour) / 500) ** 2)) for h in range(1, 30))
    syllables = np.clip(np.sin(2 * np.pi * 4 * at), 0.05, None)
    return pulse * syllables * 0.2


def test_two_voices_are_told_apart_and_silence_has_none():
    pause = np.zeros(RATE // 2)
    parts = []
    for _ in range(4):
        parts += [voice(110, 600, 2.5), pause, voice(220, 1600, 2.5), pause]
    sound = np.concatenate(parts).astype(np.float32) + RANDOM.normal(scale=0.0005, size=12 * RATE * 2).astype(
        np.float32
    )
    spans = propose_speakers(sound, RATE, 2)
    for span in spans:
        middle = (span.start_us + span.end_us) / 2e6
        assert span.voice == int(middle // 3) % 2
    assert {s.voice for s in propose_speakers(sound, RATE)} == {0, 1}
    assert propose_speakers(np.zeros(RATE * 3, np.float32), RATE) == []
