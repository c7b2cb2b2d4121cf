"""Words and sounds put right by hand."""

import json
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.soundtracks import READ_1, S, one_clip, read
from tests.core.strategies import readings
from tests.golden.make_words import FILE, made
from tinfork.core.errors import TimingError, TinForkError
from tinfork.core.soundtrack import said
from tinfork.core.soundtrack.project import reading_of
from tinfork.core.speech import handwork
from tinfork.core.speech.handwork import LEAST_US, WordPlace
from tinfork.core.speech.reading import Line, Reading
from tinfork.core.speech.rewriting import follow

DOWN, NIGHT = WordPlace(0, 1), WordPlace(1, 1)


def spans(reading, line=0):
    return [(w.text, w.start_us, w.end_us) for w in reading.lines[line].words]


def test_a_words_edge_takes_its_neighbour_along_and_its_sounds_in_proportion():
    edges = [w.end_us for w in READ_1.lines[0].words]
    moved = handwork.move_edge(READ_1, DOWN, edges[0] + 200_000, at_start=True)
    sit, down, now = moved.lines[0].words
    assert sit.end_us == down.start_us == edges[0] + 200_000
    assert now == READ_1.lines[0].words[2]
    assert abs(down.phonemes[1].start_us - (down.start_us + down.end_us) // 2) <= 1
    assert (down.is_pinned, sit.is_pinned) == (True, False)


def test_a_gap_is_left_when_asked_and_never_runs_into_the_neighbour():
    edge = READ_1.lines[0].words[1].start_us
    apart = handwork.move_edge(READ_1, DOWN, edge + 100_000, at_start=True, leaves_gap=True)
    assert apart.lines[0].words[0].end_us == edge
    same = handwork.move_edge(READ_1, DOWN, edge - 100_000, at_start=True, leaves_gap=True)
    assert same.lines[0].words[1].start_us == edge


def test_a_word_slides_and_what_touches_it_follows():
    before = spans(READ_1)
    slid = spans(handwork.slide_word(READ_1, DOWN, 150_000))
    assert slid == [
        ("sit", before[0][1], before[0][2] + 150_000),
        ("down", before[1][1] + 150_000, before[1][2] + 150_000),
        ("now", before[2][1] + 150_000, before[2][2]),
    ]


def test_a_line_slides_as_one_up_to_the_next_line():
    slid = handwork.slide_line(READ_1, 0, 9 * S)
    assert slid.lines[0].end_us == READ_1.lines[1].start_us
    assert all(w.is_pinned for w in slid.lines[0].words)
    with pytest.raises(TimingError):
        handwork.slide_line(READ_1, 7, S)


def test_a_sounds_edge_moves_its_neighbour_and_at_the_end_the_word():
    word = READ_1.lines[1].words[0]
    inner = handwork.move_sound_edge(READ_1, WordPlace(1, 0), 0, word.start_us + 50_000, at_start=False)
    a, b = inner.lines[1].words[0].phonemes
    assert a.end_us == b.start_us == word.start_us + 50_000
    outer = handwork.move_sound_edge(READ_1, WordPlace(1, 0), 1, word.end_us + 90_000, at_start=False)
    good, night = outer.lines[1].words
    assert good.end_us == good.phonemes[1].end_us == night.start_us == word.end_us + 90_000
    assert good.phonemes[0] == word.phonemes[0]


def test_sounds_are_set_put_in_and_taken_out():
    two = handwork.insert_sound(READ_1, NIGHT, 1, "t")
    assert [p.ipa for p in two.lines[1].words[1].phonemes] == ["m", "t", "a"]
    last = handwork.insert_sound(READ_1, NIGHT, 2, "t")
    assert [p.ipa for p in last.lines[1].words[1].phonemes] == ["m", "a", "t"]
    other = handwork.set_sound(two, NIGHT, 0, "n")
    assert other.lines[1].words[1].phonemes[0].ipa == "n"
    back = handwork.remove_sound(two, NIGHT, 1)
    assert [p.ipa for p in back.lines[1].words[1].phonemes] == ["m", "a"]
    assert back.lines[1].words[1].phonemes[0].end_us == back.lines[1].words[1].phonemes[1].start_us
    with pytest.raises(TimingError, match="A word needs at least one sound"):
        handwork.remove_sound(handwork.remove_sound(back, NIGHT, 0), NIGHT, 0)
    with pytest.raises(TimingError, match="was removed"):
        handwork.set_sound(READ_1, NIGHT, 9, "n")


def test_a_word_is_retyped_and_the_line_says_so():
    typed = handwork.retype(READ_1, DOWN, "up", ("ʌ", "p"))
    assert typed.lines[0].text == "sit up now"
    word, old = typed.lines[0].words[1], READ_1.lines[0].words[1]
    assert (word.start_us, word.end_us) == (old.start_us, old.end_us)
    vowel, stop = word.phonemes
    assert vowel.end_us - vowel.start_us > stop.end_us - stop.start_us
    assert handwork.remove_word(typed, DOWN).lines[0].text == "sit now"
    with pytest.raises(TimingError, match="so short a word"):
        handwork.retype(READ_1, DOWN, "up", ["p"] * 100)


def test_a_word_is_added_where_there_is_room():
    inside = handwork.add_word(read(1, ("sit", S, 2 * S)), "1", "en-us", "here", (4 * S, 5 * S), ("h", "ɪ"))
    assert [line.text for line in inside.lines] == ["sit", "here"]
    with pytest.raises(TimingError, match="no room"):
        handwork.add_word(READ_1, "1", "en-us", "here", (S, 2 * S), ("h", "ɪ"))


@given(readings(), st.data())
def test_whatever_is_dragged_words_stay_in_order_and_no_sound_is_lost(reading, data):
    places = [WordPlace(n, at) for n, line in enumerate(reading.lines) for at in range(len(line.words))]
    if not places:
        return
    where = data.draw(st.sampled_from(places))
    at_us = data.draw(st.integers(-500_000, reading.duration_us + 500_000))
    word = handwork.word_at(reading, where)
    does = [
        lambda: handwork.move_edge(
            reading, where, at_us, at_start=data.draw(st.booleans()), leaves_gap=data.draw(st.booleans())
        ),
        lambda: handwork.slide_word(reading, where, at_us - word.start_us),
        lambda: handwork.slide_line(reading, where.line, at_us - word.start_us),
        lambda: handwork.move_sound_edge(
            reading,
            where,
            data.draw(st.integers(0, len(word.phonemes) - 1)),
            at_us,
            at_start=data.draw(st.booleans()),
            leaves_gap=data.draw(st.booleans()),
        ),
    ]
    new = data.draw(st.sampled_from(does))()
    assert [p.ipa for p in new.phonemes()] == [p.ipa for p in reading.phonemes()]
    words = sorted(new.words(), key=lambda w: w.start_us)
    assert [w.text for w in words] == [w.text for w in reading.words()]
    assert all(a.end_us <= b.start_us for a, b in pairwise(words))
    assert all(p.end_us - p.start_us >= 1 for p in new.phonemes())
    touched = handwork.word_at(new, where)
    assert touched.end_us - touched.start_us >= min(LEAST_US * len(touched.phonemes), word.end_us - word.start_us)


@given(readings(max_words=12), st.data())
def test_a_word_slides_up_to_its_speakers_next_word_whatever_the_order_of_the_lines(reading, data):
    words = list(reading.words())
    if not words:
        return
    # Lines of one word each or of two, in any order, some of them another speaker's.
    parts = [words[at : at + 2] for at in range(0, len(words), 2)] if data.draw(st.booleans()) else [[w] for w in words]
    parts = data.draw(st.permutations(parts))
    lines = [Line(data.draw(st.sampled_from(["1", "2"])), "…", "en-us", tuple(part)) for part in parts]
    reading = Reading(reading.duration_us, tuple(lines))
    at = data.draw(st.integers(0, len(lines) - 1))
    where = WordPlace(at, data.draw(st.integers(0, len(parts[at]) - 1)))
    word = handwork.word_at(reading, where)
    others = [w for line in lines if line.speaker == lines[at].speaker for w in line.words if w is not word]
    before = max((w for w in others if w.end_us <= word.start_us), key=lambda w: w.start_us, default=None)
    after = min((w for w in others if w.start_us >= word.end_us), key=lambda w: w.start_us, default=None)
    for by_us, beside in ((-reading.duration_us, before), (reading.duration_us, after)):
        slid = handwork.word_at(handwork.slide_word(reading, where, by_us), where)
        if beside is None:
            assert slid.start_us == 0 if by_us < 0 else slid.end_us == reading.duration_us
        elif by_us < 0:
            touches = beside.end_us == word.start_us
            least = beside.start_us + LEAST_US * len(beside.phonemes)
            assert slid.start_us == min(word.start_us, least if touches else beside.end_us)
        else:
            touches = beside.start_us == word.end_us
            least = beside.end_us - LEAST_US * len(beside.phonemes)
            assert slid.end_us == max(word.end_us, least if touches else beside.start_us)


def test_a_word_is_found_in_the_shot_by_its_number():
    soundtrack = one_clip(start=2 * S)
    down = list(reading_of(soundtrack).words())[1]
    found = said.find(soundtrack, down.id)
    assert found.where == DOWN
    assert said.take_time(soundtrack, found, down.start_us) == down.start_us - 2 * S
    with pytest.raises(TinForkError, match="was removed"):
        said.find(soundtrack, 99)


def test_the_edits_that_the_page_draws_at_once_are_what_the_core_makes_of_them():
    """Made anew by `python -m tests.golden.make_words`, which asks the core."""
    assert json.loads(FILE.read_text()) == made()


def test_the_written_words_follow_what_was_changed_by_hand():
    written = "ODALYS: sit down now\n(yawns)\nODALYS: good night"
    names = {"1": "Odalys"}
    typed = handwork.retype(READ_1, DOWN, "up", ("ʌ", "p"))
    assert follow(written, READ_1.lines, typed.lines, names) == written.replace("down", "up")
    more = handwork.add_word(READ_1, "1", "en-us", "well", (4 * S, 5 * S - 1), ("w", "ɛ"))
    assert follow(written, READ_1.lines, more.lines, names).splitlines()[1] == "Odalys: well"
    less = handwork.remove_word(handwork.remove_word(READ_1, WordPlace(1, 1)), WordPlace(1, 0))
    assert follow(written, READ_1.lines, less.lines, names) == "ODALYS: sit down now\n(yawns)"
    assert follow("something else", READ_1.lines, typed.lines, names) == "something else"
