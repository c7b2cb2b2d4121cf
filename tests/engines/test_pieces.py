import numpy as np
import pytest
import soxr
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.ear.edges import EdgeNetwork
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.mending import Mender
from tinfork.engines.reading.reader import _PIECE_S, _pieces
from tinfork.engines.synthesiser import speak

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
    st.lists(
        st.tuples(st.sampled_from("masˈ"), st.integers(10_000, 200_000), st.sampled_from([0, 0, 5_000, 120_000])),
        min_size=1,
        max_size=14,
    )
)
def test_mended_edges_keep_their_order_and_stay_in_the_sound(sounds):
    spans, at = [], 20_000
    for ipa, length, pause in sounds:
        spans.append((ipa, at, at + length))
        at += length + pause
    samples = NOISE[: READING_HZ * (at + 100_000) // 1_000_000]
    mended = Mender(samples).edges(spans)
    assert len(mended) == len(spans)
    end = len(samples) * 1_000_000 // READING_HZ
    for (start, stop), (after, _) in zip(mended, [*mended[1:], (end, end)], strict=True):
        assert 0 <= start < stop <= max(after, stop)
        assert start <= after
        assert stop <= end


def test_after_a_pause_a_sound_begins_where_it_rises():
    time = np.arange(READING_HZ) / READING_HZ
    hum = np.sin(2 * np.pi * 300 * time)
    hum[(time < 0.15) | ((time > 0.71) & (time < 0.77))] *= 0.0005
    spans = [("m", 200_000, 492_000), ("a", 492_000, 700_000), ("m", 793_000, 900_000)]
    first, second, third = Mender(hum.astype(np.float32)).edges(spans)
    assert (first[0], third[0]) == (150_000, 770_000)
    assert first[1] == second[0]


@pytest.mark.parametrize(
    ("last", "most_us"), [("s", 140_000), ("p", 90_000), ("a", 150_000), ("m", 110_000), ("ts", 140_000)]
)
def test_a_last_sound_that_noise_drowns_is_not_cut_off_where_the_noise_begins(last, most_us):
    time = np.arange(READING_HZ) / READING_HZ
    hum = np.sin(2 * np.pi * 300 * time) * (time < 0.4)
    spans = [("a", 200_000, 390_000), (last, 390_000, 430_000)]
    quiet, drowned = (
        Mender((hum + level * NOISE[: len(hum)]).astype(np.float32)).edges(spans)[1] for level in (0.01, 2.5)
    )
    assert quiet[1] <= 440_000
    assert quiet[1] < drowned[1] <= 390_000 + most_us


def test_inside_speech_an_edge_comes_nearer_to_where_one_sound_becomes_the_next():
    before, after = [], []
    for number, text in enumerate(("The last tram leaves the depot.", "Seven small buns lie on the table.")):
        spoken = speak(text)
        samples = soxr.resample(spoken.samples, spoken.rate_hz, READING_HZ).astype(np.float32)
        true = [(p.ipa, p.start_us, p.end_us) for p in spoken.phonemes]
        # Each edge is up to 20 ms off, as the ear may hear it.
        off = np.random.default_rng(number).integers(-20_000, 20_001, len(true) + 1)
        moved = [(ipa, max(0, a + off[n]), max(b + off[n + 1], a + off[n] + 1)) for n, (ipa, a, b) in enumerate(true)]
        mended = Mender(samples).edges([(ipa, int(a), int(b)) for ipa, a, b in moved])
        met = [n for n in range(1, len(true)) if true[n][1] == true[n - 1][2]]
        before += [abs(moved[n][1] - true[n][1]) for n in met]
        after += [abs(mended[n][0] - true[n][1]) for n in met]
    assert len(met) > 12
    assert np.mean(after) < 0.85 * np.mean(before)


@pytest.mark.parametrize("edge_s", [0.27, 0.38])
def test_the_end_of_a_fade_does_not_move_with_the_edge_before_it(edge_s, monkeypatch):
    time = np.arange(READING_HZ) / READING_HZ
    # Level until 0.3 s, from there on 60 dB less a second.
    voice = np.sin(2 * np.pi * 300 * time) * np.where(time < 0.3, 0.5, 0.5 * 10 ** (-3 * (time - 0.3)))
    voice[time < 0.05] = 0
    monkeypatch.setattr(EdgeNetwork, "moved", lambda *_: [edge_s])
    first, second = Mender(voice.astype(np.float32)).edges([("m", 50_000, 300_000), ("a", 300_000, 500_000)])
    assert first[1] == second[0] == edge_s * 1e6
    # 27 dB under its loudest, which it has at 0.3 s: 0.45 s later.
    assert abs(second[1] - 750_000) <= 20_000
