from tinfork.core.clock import FrameRate
from tinfork.core.score.boundaries import score
from tinfork.core.speech.reading import Phoneme

RATE = FrameRate.parse("24")
TRUTH = tuple(Phoneme(ipa, at * 100_000, (at + 1) * 100_000) for at, ipa in enumerate(["m", "ɑ", "s", "u", "t"]))


def moved(by_us):
    return tuple(Phoneme(p.ipa, p.start_us + by_us, p.end_us + by_us) for p in TRUTH)


def test_the_truth_scores_perfectly_against_itself():
    result = score(TRUTH, TRUTH, 600_000, RATE)
    assert (result.mean_s, result.exact, result.tolerant, result.matched) == (0.0, 1.0, 1.0, 1.0)


def test_a_shift_shows_as_boundary_error_and_within_half_a_frame_is_tolerated():
    result = score(moved(15_000), TRUTH, 600_000, RATE)
    assert result.mean_s == 0.015
    assert result.exact < 1.0
    assert result.tolerant == 1.0


def test_wrong_sounds_cost_frames():
    wrong = tuple(Phoneme("ɑ", p.start_us, p.end_us) for p in TRUTH)
    assert score(wrong, TRUTH, 600_000, RATE).exact < 0.5


def test_a_vowel_and_its_r_score_alike_written_as_one_symbol_or_as_two():
    one = (Phoneme("ɛɹ", 100_000, 200_000),)
    two = (Phoneme("ɛ", 100_000, 160_000), Phoneme("ɹ", 160_000, 200_000))
    assert score(two, one, 300_000, FrameRate.parse("100")).exact == 1.0
    assert score((Phoneme("ɛ", 100_000, 200_000),), one, 300_000, FrameRate.parse("100")).exact < 1.0
