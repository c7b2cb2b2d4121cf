import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.mending import Mender
from tinfork.engines.reading.reader import _PIECE_S, _pieces

NOISE = np.random.default_rng(8).normal(scale=0.1, size=READING_HZ * 4).astype(np.float32)


@given(st.lists(st.tuples(st.floats(0.1, 0.9), st.sampled_from([0.0, 0.0, 0.3, 2.0])), min_size=1, max_size=150))
def test_pieces_hold_every_word_once_and_are_short_enough(words):
    spans, at = [], 0.0
    for length, pause in words:
        spans.append((at, at + length))
        at += length + pause
    pieces = _pieces(spans)
    assert [n for first, last in pieces for n in range(first, last)] == list(range(len(spans)))
    assert all(spans[last - 1][1] - spans[first][0] <= _PIECE_S for first, last in pieces)


def test_a_piece_ends_at_the_widest_pause_of_its_second_half():
    spans = [(float(n) + (3.0 if n >= 15 else 0.0), n + 0.9 + (3.0 if n >= 15 else 0.0)) for n in range(30)]
    assert _pieces(spans)[0] == (0, 15)


@given(
    st.lists(st.tuples(st.integers(10_000, 200_000), st.sampled_from([0, 0, 5_000, 120_000])), min_size=1, max_size=14)
)
def test_mended_edges_keep_their_order_and_stay_in_the_sound(sounds):
    spans, at = [], 20_000
    for length, pause in sounds:
        spans.append((at, at + length))
        at += length + pause
    samples = NOISE[: READING_HZ * (at + 100_000) // 1_000_000]
    mended = Mender(samples).edges(spans)
    assert len(mended) == len(spans)
    end = len(samples) * 1_000_000 // READING_HZ
    for (start, stop), (after, _) in zip(mended, [*mended[1:], (end, end)], strict=True):
        assert 0 <= start < stop <= max(after, stop)
        assert start <= after
        assert stop <= end


def test_after_a_pause_a_sound_begins_where_it_rises_and_inside_speech_an_edge_goes_to_the_change():
    time = np.arange(READING_HZ) / READING_HZ
    hum = np.where(time < 0.5, np.sin(2 * np.pi * 300 * time), np.sin(2 * np.pi * 2500 * time))
    hum[(time < 0.15) | ((time > 0.71) & (time < 0.77))] *= 0.0005
    spans = [(200_000, 492_000), (492_000, 700_000), (793_000, 900_000)]
    first, second, third = Mender(hum.astype(np.float32)).edges(spans)
    assert (first[0], third[0]) == (150_000, 770_000)
    assert first[1] == second[0]
    assert abs(second[0] - 500_000) <= 5_000
