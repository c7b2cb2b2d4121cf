"""What stays of a line that is read again."""

import itertools
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.speech.keeping import difference, keep_words
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.rereading import with_unworded
from tinfork.core.speech.unworded import BY_EAR

MS = 1_000


def word(text, start_ms, end_ms, ipa="a t", pinned=False):
    symbols = ipa.split()
    cuts = [start_ms + (end_ms - start_ms) * n // len(symbols) for n in range(len(symbols) + 1)]
    sounds = tuple(Phoneme(s, a * MS, b * MS) for s, a, b in zip(symbols, cuts, cuts[1:], strict=False))
    return Word(text, start_ms * MS, end_ms * MS, sounds, 0.9, pinned)


def line(*words):
    return Line("1", " ".join(w.text for w in words), "en-us", tuple(words))


OLD = line(
    word("the", 0, 100), word("last", 100, 300), word("tram", 320, 600), word("leaves", 610, 900), word("now", 950, 990)
)
MOVED = line(
    word("the", 10, 110),
    word("last", 110, 310),
    word("tram", 330, 610),
    word("leaves", 620, 910),
    word("now", 960, 999),
)


def spans(read):
    return [(w.text, w.start_us // MS, w.end_us // MS) for w in read.words]


def test_words_that_nothing_happened_to_stay_to_the_microsecond():
    assert keep_words(OLD, MOVED).words == OLD.words


def test_a_changed_word_and_its_neighbours_are_new():
    changed = line(*(word("bus", 330, 610, "b ʌ s") if w.text == "tram" else w for w in MOVED.words))
    kept = keep_words(OLD, changed)
    assert spans(kept)[0] == ("the", 0, 100)
    assert spans(kept)[1:4] == [("last", 110, 310), ("bus", 330, 610), ("leaves", 620, 910)]
    assert spans(kept)[4] == ("now", 950, 990)


def test_other_sounds_for_a_word_count_as_a_change():
    other = line(*(word("tram", 330, 610, "t ɹ u m") if w.text == "tram" else w for w in MOVED.words))
    kept = keep_words(OLD, other)
    assert [p.ipa for p in kept.words[2].phonemes] == ["t", "ɹ", "u", "m"]
    assert (kept.words[0], kept.words[4]) == (OLD.words[0], OLD.words[4])


def test_a_pinned_word_stays_and_the_others_make_room():
    pinned = Line(
        "1", OLD.text, "en-us", tuple(word("tram", 200, 400, pinned=True) if w.text == "tram" else w for w in OLD.words)
    )
    pinned = Line("1", OLD.text, "en-us", (OLD.words[0], word("last", 100, 200), *pinned.words[2:]))
    kept = keep_words(pinned, MOVED, is_free=lambda w: True)
    assert spans(kept)[2] == ("tram", 200, 400)
    assert spans(kept)[1] == ("last", 110, 200)
    assert spans(kept)[3] == ("leaves", 620, 910)


def test_a_stretch_is_read_anew_and_the_rest_stays():
    kept = keep_words(OLD, MOVED, is_free=lambda w: w.start_us < 600 * MS and w.end_us > 320 * MS)
    assert spans(kept) == [
        ("the", 0, 100),
        ("last", 100, 300),
        ("tram", 330, 610),
        ("leaves", 610, 900),
        ("now", 950, 990),
    ]


texts = st.lists(st.sampled_from(["a", "b", "c", "d"]), min_size=1, max_size=8)


@st.composite
def lines(draw):
    at, words = 0, []
    for text in draw(texts):
        at += draw(st.integers(0, 50))
        length = draw(st.integers(20, 300))
        words.append(word(text, at, at + length, draw(st.sampled_from(["a t", "o", "b a t"])), draw(st.booleans())))
        at += length
    return line(*words)


@given(lines(), lines(), st.booleans())
def test_what_comes_out_is_a_line_in_order_with_every_pinned_word_that_was_found(old, new, everything):
    kept = keep_words(old, new, is_free=(lambda w: True) if everything else None)
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(kept.words))
    assert all(p.start_us >= w.start_us and p.end_us <= w.end_us for w in kept.words for p in w.phonemes)
    assert len(kept.words) <= len(new.words)


@given(lines())
def test_the_same_line_read_again_is_the_same(same):
    assert keep_words(same, same).words == same.words


def test_what_changed_is_said_in_words():
    before = Reading(2_000 * MS, (OLD,))
    assert difference(before, before).text == ""
    moved = Reading(2_000 * MS, (MOVED,))
    assert difference(before, moved).text == "5 words moved"
    other = Reading(2_000 * MS, (line(*OLD.words[:2], word("bus", 320, 600), *OLD.words[3:4]),))
    assert difference(before, other).text == "1 word added, 2 words removed"


def test_a_laugh_by_ear_stays_between_words_that_are_read_again_and_goes_where_words_are_said():
    laugh = replace(line(word("hɑ", 1000, 1200), word("hɑ", 1200, 1400)), text="", method=BY_EAR)
    hum = replace(line(word("m", 3000, 3400)), text="", method=BY_EAR)
    old = Reading(9_000_000, (OLD, laugh, hum))
    new = Reading(9_000_000, (MOVED, line(), line(word("then", 3200, 3600))))
    assert with_unworded(old, new).lines == (MOVED, line(), laugh, new.lines[2])
    assert with_unworded(old, Reading(9_000_000, (MOVED,))).lines == (MOVED, laugh, hum)
    # All of it was by ear: now there are words.
    assert with_unworded(Reading(9_000_000, (laugh, hum)), Reading(9_000_000, (MOVED,))).lines == (MOVED,)
    assert with_unworded(Reading(9_000_000, (OLD,)), new) == new
