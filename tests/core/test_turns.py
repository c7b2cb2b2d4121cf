import itertools
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from tests.core.soundtracks import S, read
from tinfork.core.speech.reading import WORDS_AMISS, Extra, Reading, Turn
from tinfork.core.speech.rereading import Plan, apply_plan, plan_rereading, shifted, text_time_map, whole_plan, widened
from tinfork.core.speech.turns import (
    JOIN_US,
    REACTION_US,
    apply_turns,
    renew_turns,
    tap_turns,
    turns_from_lines,
    turns_of,
    with_turns,
)


def talk(*spans):
    """A reading of take 3, 30 s long, with a line per (speaker, text, start, end) in seconds."""
    lines = tuple(read(3, (text, round(a * S), round(b * S)), speaker=who).lines[0] for who, text, a, b in spans)
    return Reading(30 * S, lines)


TALK = talk(("1", "hello there", 1, 2), ("2", "who is it", 3, 4.5), ("1", "only me", 5, 6), ("1", "again", 6.5, 7))


def test_lines_of_one_speaker_that_are_close_are_one_turn():
    assert [(t.speaker, t.start_us, t.end_us) for t in turns_from_lines(TALK.lines)] == [
        ("1", S, 2 * S),
        ("2", 3 * S, 4_500_000),
        ("1", 5 * S, 7 * S),
    ]
    far = talk(("1", "a", 0, 1), ("1", "b", 1 + (JOIN_US + 1) / S, 3))
    assert len(turns_from_lines(far.lines)) == 2


def test_without_turns_lines_stay_whose_they_are():
    assert apply_turns(TALK) == TALK


def test_a_turn_given_to_another_takes_its_words_along_and_cuts_the_line():
    turns = [Turn("1", 0, 3_500_000), Turn("2", 3_500_000, 5 * S), Turn("1", 5 * S, 8 * S)]
    settled = apply_turns(with_turns(TALK, turns))
    assert [(line.speaker, line.text) for line in settled.lines][:3] == [
        ("1", "hello there"),
        ("1", "who"),
        ("2", "is it"),
    ]


def test_a_line_that_is_cut_keeps_what_is_amiss_in_it():
    extras = (Extra(3 * S + 100_000, 3 * S + 200_000, "then"), Extra(4 * S, 4 * S + 100_000))
    line = replace(TALK.lines[1], missing_words=("now",), extras=extras, method=WORDS_AMISS)
    amiss = replace(TALK, lines=(TALK.lines[0], line, *TALK.lines[2:]))
    turns = [Turn("1", 0, 3_500_000), Turn("2", 3_500_000, 5 * S), Turn("1", 5 * S, 8 * S)]
    cut = [line for line in apply_turns(with_turns(amiss, turns)).lines if line.method == WORDS_AMISS]
    assert [(line.missing_words, line.extras) for line in cut] == [(("now",), extras[:1]), ((), extras[1:])]


def test_a_word_that_no_turn_covers_moves_no_mouth():
    settled = apply_turns(with_turns(TALK, [Turn("1", 0, 2 * S)]))
    assert [w.text for w in settled.words()] == ["hello", "there"]


def test_one_who_talks_over_another_with_words_of_their_own_mouths_only_these():
    both = talk(("1", "hello there you", 1, 3), ("2", "who", 2, 3))
    settled = apply_turns(with_turns(both, [Turn("1", S, 3 * S), Turn("2", 1_500_000, 3 * S)]))
    assert all(not line.co_speakers for line in settled.lines)
    assert [line.speaker for line in settled.lines] == ["1", "2"]


SPANS = st.lists(
    st.tuples(st.sampled_from("12"), st.integers(0, 25 * S), st.integers(40_000, 4 * S)), min_size=1, max_size=8
)


@given(SPANS)
def test_turns_of_one_speaker_never_overlap_and_stay_in_order(spans):
    turns = turns_of(with_turns(TALK, [Turn(who, a, min(a + b, 30 * S)) for who, a, b in spans]))
    assert list(turns) == sorted(turns, key=lambda t: (t.start_us, t.end_us, t.speaker))
    for who in "12":
        own = [t for t in turns if t.speaker == who]
        assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(own))
        covered = {u for a, b in ((t.start_us, t.end_us) for t in own) for u in range(a // S, b // S)}
        assert covered >= {u for w, a, b in spans if w == who for u in range(-(-a // S), min(a + b, 30 * S) // S)}


@given(SPANS)
def test_no_word_is_invented_or_said_twice_by_one_mouth(spans):
    settled = apply_turns(with_turns(TALK, [Turn(who, a, min(a + b, 30 * S)) for who, a, b in spans]))
    said = [(w.text, w.start_us) for w in settled.words()]
    assert len(said) == len(set(said))
    assert set(said) <= {(w.text, w.start_us) for w in TALK.words()}


def test_taps_replace_the_turns_they_span_and_leave_the_others():
    tapped = tap_turns(TALK, [Turn("2", 5 * S + 200_000, 6 * S + 200_000, by_hand=True)], 1)
    assert [(t.speaker, t.start_us, t.end_us) for t in tapped.turns] == [
        ("1", S, 2 * S),
        ("2", 3 * S, 4_500_000),
        ("2", 5 * S, 6 * S),
        ("1", 6 * S, 7 * S),
    ]


def test_a_slower_sound_goes_on_less_while_one_reacts():
    late = REACTION_US // 4
    (tapped,) = tap_turns(
        talk(("1", "hello", 1, 2)), [Turn("1", 5 * S + late, 6 * S + late, by_hand=True)], 0.25
    ).turns[1:]
    assert (tapped.start_us, tapped.end_us) == (5 * S, 6 * S)


def test_a_new_reading_keeps_turns_by_hand_and_renews_the_others():
    old = with_turns(TALK, [Turn("2", 0, 2 * S, by_hand=True), Turn("1", 3 * S, 4 * S)])
    new = renew_turns(old, talk(("1", "hello there", 1, 2), ("1", "more", 8, 9)))
    assert [(t.speaker, t.start_us, t.end_us, t.by_hand) for t in new.turns] == [
        ("2", 0, 2 * S, True),
        ("1", 8 * S, 9 * S, False),
    ]
    assert renew_turns(TALK, TALK).turns == ()


def keys(reading):
    return [(line.speaker, line.text, line.language) for line in reading.lines]


def test_a_changed_line_alone_is_read_again_between_its_neighbours():
    new = keys(TALK)
    new[1] = ("2", "who was it", "en-us")
    plan = plan_rereading(TALK, new)
    assert plan.kept == (0, None, 2, 3)
    assert [(c.first, c.last, c.start_us, c.end_us) for c in plan.changes] == [(1, 2, 2 * S, 5 * S)]
    lines = apply_plan(TALK, new, plan, lambda change: [shifted(TALK.lines[1], 10)])
    assert lines[0] == TALK.lines[0]
    # Its words say the same where they were: they stay.
    assert lines[1].start_us == 3 * S


def test_another_speaker_of_the_same_words_needs_no_reading():
    new = [("9", text, language) for _, text, language in keys(TALK)]
    plan = plan_rereading(TALK, new)
    assert not plan.changes
    assert [line.speaker for line in apply_plan(TALK, new, plan, lambda change: [])] == ["9"] * 4


def test_lines_that_are_gone_or_new_leave_the_others_alone():
    new = [keys(TALK)[0], ("1", "quite new", "en-us"), keys(TALK)[3]]
    plan = plan_rereading(TALK, new)
    assert plan.kept == (0, None, 3)
    assert plan.changes[0].start_us == 2 * S
    assert plan.changes[0].end_us == 6_500_000


def test_a_plan_widens_line_by_line_until_everything_is_read():
    plan = Plan((0, 1, None, 3), ())
    wider = widened(TALK, plan)
    assert wider.kept == (0, None, None, None)
    assert widened(TALK, widened(TALK, wider)) is None
    assert whole_plan(TALK, keys(TALK)).changes[0].end_us == 30 * S


@given(st.lists(st.integers(1, 900_000), min_size=2, max_size=6), st.integers(0, 30 * S))
def test_carrying_by_word_keeps_the_order_of_times_and_hits_the_words(pauses, at):
    texts = [f"w{n}" for n in range(len(pauses))]
    spans, now = [], 0.0
    for text, pause in zip(texts, pauses, strict=True):
        now += pause / S
        spans.append(("1", text, now, now + 0.5))
        now += 0.5
    old = talk(*[("1", text, n * 2.0, n * 2.0 + 1) for n, text in enumerate(texts)])
    new = talk(*spans)
    carry = text_time_map(old, new)
    assert [carry(w.start_us) for w in old.words()] == [w.start_us for w in new.words()]
    assert carry(at) <= carry(min(at + 10_000, 30 * S))


def test_times_are_carried_from_take_to_take_word_by_word():
    old = talk(("1", "loaf", 1, 2), ("1", "tram", 4, 5), ("1", "night", 8, 9))
    new = talk(("1", "loaf", 2, 4), ("1", "oh", 5, 6), ("1", "tram", 10, 11), ("1", "night", 12, 16))
    carry = text_time_map(old, new)
    # Before the first word and after the last with it; inside a word, and between two, in proportion.
    for was, now in (
        (0.5, 1.5),
        (1, 2),
        (1.5, 3),
        (2, 4),
        (3, 7),
        (4, 10),
        (4.25, 10.25),
        (8.5, 14),
        (9, 16),
        (10, 17),
    ):
        assert carry(round(was * S)) == round(now * S), was
    assert carry(0) == S
    assert carry(29 * S) == 30 * S
    assert text_time_map(talk(("1", "loaf", 5, 6)), talk(("1", "loaf", 2, 3)))(S) == 0
    assert text_time_map(talk(("1", "loaf", 1, 2)), talk(("1", "tram", 4, 5)))(7 * S) == 7 * S
