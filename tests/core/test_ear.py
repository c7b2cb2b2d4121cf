"""The ear: its search against every way there is, its loop, its spectra, its network."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tinfork.core.ear.hearing import BANDS, log_mel, log_mels, normalised
from tinfork.core.ear.loop import sounds_in
from tinfork.core.ear.network import Evidence, Network
from tinfork.core.ear.path import SHORTEST, Freedom, Variants, emissions, find, fits
from tinfork.core.ear.phones import HEARD, heard_as

SILENCE = ""
#: Words may be missing, others may be said.
LOOSE = Freedom(skip=18.0, enter_other=8.0)


def evidence(*runs, sure=0.9):
    """What the ear would make of (sound, frames), one after another."""
    marks = np.array([0 if sound == SILENCE else heard_as(sound)[0] for sound, frames in runs for _ in range(frames)])
    heard = np.full((len(marks), len(HEARD)), (1 - sure) / (len(HEARD) - 1))
    heard[np.arange(len(marks)), marks] = sure
    edge = np.full(len(marks), 0.05)
    edge[np.flatnonzero(np.diff(marks)) + 1] = 0.9
    return Evidence(np.log(heard).astype(np.float32), edge.astype(np.float32))


def spans(found):
    return [[(s.first, s.last) for s in word if s] for word in found.words]


BAKED = evidence((SILENCE, 20), ("b", 8), ("a", 12), ("t", 6), (SILENCE, 10), ("s", 10), ("o", 12), (SILENCE, 15))


def test_words_are_found_where_they_are_with_silence_between():
    assert spans(find(BAKED, [["b", "a", "t"], ["s", "o"]])) == [
        [(20, 28), (28, 40), (40, 46)],
        [(56, 66), (66, 78)],
    ]


def test_words_may_follow_each_other_without_silence():
    run = evidence(("b", 8), ("a", 12), ("s", 10), ("o", 12))
    assert spans(find(run, [["b", "a"], ["s", "o"]])) == [[(0, 8), (8, 20)], [(20, 30), (30, 42)]]


def test_a_word_that_is_not_said_is_left_out_and_moves_nothing():
    found = find(BAKED, [["b", "a", "t"], ["m", "i", "k", "u"], ["s", "o"]], LOOSE)
    assert spans(found) == [[(20, 28), (28, 40), (40, 46)], [], [(56, 66), (66, 78)]]
    assert found.others == []


def test_speech_that_no_word_has_is_passed_over_and_told():
    found = find(BAKED, [["s", "o"]], LOOSE)
    assert spans(found) == [[(56, 66), (66, 78)]]
    ((first, last),) = found.others
    assert (abs(first - 20), abs(last - 46)) <= (2, 2)


def test_the_last_words_may_lie_beyond_the_end():
    freedom = Freedom(skip=6.0, enter_other=8.0, may_break_off=True)
    found = find(BAKED, [["b", "a", "t"], ["s", "o"], ["l", "i", "l", "i"], ["f", "u"]], freedom)
    assert spans(found)[:2] == [[(20, 28), (28, 40), (40, 46)], [(56, 66), (66, 78)]]
    assert spans(found)[2:] == [[], []]


def test_a_diphthong_that_is_two_sounds_is_one_phoneme():
    run = evidence(("u", 10), ("ə", 10), (SILENCE, 5))
    assert spans(find(run, [["uə"]])) == [[(0, 20)]]


def test_too_short_a_sound_has_no_way():
    assert find(evidence(("a", 5)), [["b", "a", "t"]]) is None
    assert find(BAKED, [[], ["?"]]) is None


def every_way(run, word):
    """The best score of one word with silence around it, by trying every cut."""
    frames = len(run.heard)
    emission = emissions(run).astype(float)
    change = 0.6 * np.log(np.maximum(run.edge, 1e-3)).astype(float)
    stay = 0.6 * np.log(np.maximum(1 - run.edge, 1e-3)).astype(float)
    sounds = [heard_as(symbol)[0] for symbol in word]
    best = -np.inf
    for cuts in itertools.combinations_with_replacement(range(frames + 1), len(sounds) + 1):
        lengths = np.diff(cuts)
        if (lengths < SHORTEST).any():
            continue
        marks = np.zeros(frames, dtype=int)
        for sound, a, b in zip(sounds, cuts, cuts[1:], strict=False):
            marks[a:b] = sound
        begins = {c for c in cuts if 0 < c < frames}
        total = emission[np.arange(frames), marks].sum()
        for t in range(1, frames):
            edge = max(change[t], change[t - 1])
            # Silence may begin anew: a noise in it is no edge that is missed.
            is_silent = t >= cuts[-1] + 1 or t < cuts[0]
            total += edge if t in begins else max(stay[t], edge) if is_silent else stay[t]
        best = max(best, float(total))
    return best


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from(["b", "a", "t", "s"]), min_size=1, max_size=3), st.integers(0, 2**31))
def test_the_search_finds_the_best_of_all_ways(word, seed):
    pick = np.random.default_rng(seed)
    heard = pick.normal(size=(14, len(HEARD))) * 2
    heard -= np.log(np.exp(heard).sum(axis=1, keepdims=True))
    run = Evidence(heard.astype(np.float32), pick.uniform(0.02, 0.98, 14).astype(np.float32))
    found = find(run, [word])
    assert found is not None
    assert found.score == pytest.approx(every_way(run, word), abs=1e-4)


SOUNDS = st.lists(st.sampled_from(["b", "a", "t", "s", "o"]), min_size=1, max_size=3)


@settings(max_examples=30, deadline=None)
@given(
    st.lists(st.lists(st.tuples(SOUNDS, st.floats(0, 4)), min_size=1, max_size=3), min_size=1, max_size=3),
    st.integers(0, 2**31),
)
def test_of_all_ways_to_pronounce_the_words_the_likeliest_is_taken(words, seed):
    pick = np.random.default_rng(seed)
    heard = pick.normal(size=(60, len(HEARD))) * 2
    heard -= np.log(np.exp(heard).sum(axis=1, keepdims=True))
    run = Evidence(heard.astype(np.float32), pick.uniform(0.02, 0.98, 60).astype(np.float32))
    found = find(run, [Variants(tuple(tuple(w) for w, _ in word), tuple(c for _, c in word)) for word in words])
    each = {
        way: find(run, [word[n][0] for n, word in zip(way, words, strict=True)]).score
        - sum(word[n][1] for n, word in zip(way, words, strict=True))
        for way in itertools.product(*(range(len(word)) for word in words))
    }
    assert found.score == pytest.approx(max(each.values()), abs=1e-4)
    assert each[tuple(found.taken)] == pytest.approx(found.score, abs=1e-4)
    for spans_found, word, n in zip(found.words, words, found.taken, strict=True):
        assert len([s for s in spans_found if s]) == len(word[n][0])


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.lists(st.sampled_from(["b", "a", "t", "s", "o", "m"]), min_size=1, max_size=4), min_size=1, max_size=6),
    st.integers(0, 2**31),
    st.booleans(),
)
def test_spans_are_in_order_inside_the_sound_and_long_enough(words, seed, is_loose):
    pick = np.random.default_rng(seed)
    heard = pick.normal(size=(120, len(HEARD)))
    heard -= np.log(np.exp(heard).sum(axis=1, keepdims=True))
    run = Evidence(heard.astype(np.float32), pick.uniform(0.02, 0.98, 120).astype(np.float32))
    found = find(run, words, LOOSE if is_loose else Freedom())
    assert found is not None
    said = [s for word in found.words for s in word if s]
    assert all(s.last - s.first >= SHORTEST for s in said)
    assert all(a.last <= b.first for a, b in itertools.pairwise(said))
    assert all(s.first >= 0 and s.last <= 120 for s in said)
    assert is_loose or all(
        len([s for s in w if s]) == len(symbols) for w, symbols in zip(found.words, words, strict=True)
    )


def test_how_well_sounds_fit_is_the_mean_over_where_they_are():
    emission = emissions(BAKED)
    shares = [(heard_as("a")[0], 28, 40), (heard_as("b")[0], 3, 4)]
    assert fits(emission, shares) == pytest.approx([emission[a:b, part].mean() for part, a, b in shares], abs=1e-6)


def test_without_words_the_likeliest_sounds_are_heard():
    usual = np.full((len(HEARD), len(HEARD)), np.log(1 / len(HEARD)), dtype=np.float32)
    heard = sounds_in(BAKED, usual)
    assert [(HEARD[h.sound], h.first, h.last) for h in heard] == [
        (SILENCE, 0, 20), ("b", 20, 28), ("a", 28, 40), ("t", 40, 46), (SILENCE, 46, 56), ("s", 56, 66), ("o", 66, 78),
        (SILENCE, 78, 93),
    ]  # fmt: skip


def test_sounds_by_ear_cover_the_sound_without_gaps():
    pick = np.random.default_rng(4)
    heard = pick.normal(size=(200, len(HEARD)))
    heard -= np.log(np.exp(heard).sum(axis=1, keepdims=True))
    run = Evidence(heard.astype(np.float32), np.full(200, 0.3, dtype=np.float32))
    found = sounds_in(run, np.zeros((len(HEARD), len(HEARD)), dtype=np.float32))
    assert (found[0].first, found[-1].last) == (0, 200)
    assert all(a.last == b.first for a, b in itertools.pairwise(found))


def tone(hz, seconds, gain=0.1):
    return (gain * np.sin(2 * np.pi * hz * np.arange(round(16_000 * seconds)) / 16_000)).astype(np.float32)


def test_a_spectrum_has_a_row_per_hop_and_its_peak_at_the_tone():
    bands = log_mel(tone(1000, 1.0))
    assert bands.shape == (100, BANDS)
    low, high = log_mel(tone(400, 0.5)), log_mel(tone(3000, 0.5))
    assert low[20].argmax() < bands[50].argmax() < high[20].argmax()
    assert log_mel(np.zeros(3, dtype=np.float32)).shape == (1, BANDS)


def test_level_and_microphone_do_not_matter():
    pick = np.random.default_rng(1)
    voice = (pick.normal(size=32_000) * np.repeat(pick.uniform(0.02, 0.2, 20), 1600)).astype(np.float32)
    quiet = normalised(log_mel(voice * np.float32(0.2)))
    assert np.abs(normalised(log_mel(voice)) - quiet).mean() < 0.02


def test_a_long_sound_is_normalised_about_each_moment():
    bands = log_mel(np.concatenate([tone(500, 40.0, 0.3), tone(500, 40.0, 0.003)]))
    out = normalised(bands)
    assert out.shape == bands.shape
    assert abs(float(out[500].mean()) - float(out[-500].mean())) < 0.3


@pytest.mark.parametrize("higher", [2 ** (-5 / 12), 2 ** (5 / 12)])
def test_a_voice_that_is_so_much_higher_is_read_as_if_it_were_not(higher):
    plain, moved = log_mel(tone(700, 0.5)), log_mel(tone(700 * higher, 0.5), higher=higher)
    assert moved.shape == plain.shape
    assert moved[20].argmax() == plain[20].argmax()


def test_one_spectrum_serves_several_heights():
    noise = np.random.default_rng(5).normal(scale=0.05, size=8_000).astype(np.float32)
    ratios = (1.0, 0.75, 1.4)
    for ratio, bands in zip(ratios, log_mels(noise, ratios), strict=True):
        assert bands == pytest.approx(log_mel(noise, higher=ratio), abs=1e-3)


def test_beyond_the_sound_the_highest_band_goes_on():
    noise = np.random.default_rng(2).normal(0, 0.1, 16_000).astype(np.float32)
    bands = log_mel(noise, higher=1.5)
    assert (bands[:, -10:] == bands[:, -10:-9]).all()
    assert bands[:, -12:].std() > 0
    assert (log_mel(noise)[:, -1] != log_mel(noise)[:, -2]).all()


def made_up_weights(pick, channels=8):
    return {
        "dilations": np.array([1, 2]),
        "kernel_0": pick.normal(size=(5, BANDS, channels)) * 0.1,
        "bias_0": pick.normal(size=channels),
        "kernel_1": pick.normal(size=(3, channels, channels)) * 0.1,
        "bias_1": pick.normal(size=channels),
        "kernel_2": pick.normal(size=(3, channels, channels)) * 0.1,
        "bias_2": pick.normal(size=channels),
        "last_kernel": pick.normal(size=(channels, len(HEARD) + 1)),
        "last_bias": pick.normal(size=len(HEARD) + 1),
    }


def test_the_network_gives_probabilities_and_the_same_in_blocks():
    network = Network(made_up_weights(np.random.default_rng(2)))
    bands = np.random.default_rng(3).normal(size=(7000, BANDS)).astype(np.float32)
    whole = network.listen_to_bands(bands)
    assert np.allclose(np.exp(whole.heard).sum(axis=1), 1, atol=1e-4)
    assert ((whole.edge >= 0) & (whole.edge <= 1)).all()
    part = network.listen_to_bands(bands[2000:5000])
    assert np.allclose(whole.heard[2500:4500], part.heard[500:2500], atol=1e-3)


def test_weights_for_other_sounds_are_refused():
    weights = made_up_weights(np.random.default_rng(2))
    weights["last_kernel"] = weights["last_kernel"][:, :-3]
    with pytest.raises(ValueError, match="another set of sounds"):
        Network(weights)
    with pytest.raises(ValueError, match="no weights"):
        Network({})
