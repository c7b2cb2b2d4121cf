"""What was taken down, as lines."""

import string

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.speech.transcript import PAUSE_US, HeardLine, HeardWord, lines_heard


def said(*words, gap_us=60_000, start_us=0, length_us=200_000, **more):
    """Words one after another; a number among them is a pause of so many milliseconds."""
    out, at = [], start_us
    for word in words:
        if isinstance(word, int):
            at += word * 1000 - gap_us
            continue
        out.append(HeardWord(word, at, at + length_us, 0.9, **more))
        at += length_us + gap_us
    return out


def texts(words):
    return [line.text for line in lines_heard(words)]


def test_a_line_ends_at_a_pause():
    assert texts(said("The", "last", "tram", 600, "leaves")) == ["The last tram", "leaves"]
    assert texts(said("The", "last", "tram", 400, "leaves")) == ["The last tram leaves"]


@pytest.mark.parametrize("mark", [".", "?", "!", "…", ".”", '?"', "。"])
def test_after_a_sentence_a_short_pause_is_enough(mark):
    assert texts(said("Sit", f"down{mark}", 200, "Both", "of", "us")) == [f"Sit down{mark}", "Both of us"]
    # Without any, as in "Dr. Brindle", the line goes on.
    assert len(texts(said("Dr.", "Brindle"))) == 1


def test_where_the_language_changes_a_line_ends():
    words = [*said("Is", "it", "ready?"), *said("Está", "listo.", start_us=800_000, language="es")]
    assert [(line.text, line.language) for line in lines_heard(words)] == [
        ("Is it ready?", "en-us"), ("Está listo.", "es"),
    ]  # fmt: skip


def test_who_never_pauses_is_cut_at_a_comma_then_anywhere():
    speech = [f"word{n}{',' if n % 10 == 9 else ''}" for n in range(100)]
    lines = lines_heard(said(*speech, gap_us=0, length_us=300_000))
    assert all(line.text.endswith((",", "word99,")) for line in lines)
    assert all(line.end_us - line.start_us <= 13_000_000 for line in lines)
    endless = lines_heard(said(*[f"word{n}" for n in range(200)], gap_us=0, length_us=300_000))
    assert all(line.end_us - line.start_us <= 18_300_000 for line in endless)


def test_words_without_spaces_are_written_so():
    words = said("かえる", "は", "パン", gap_us=0, language="ja", is_joined=True)
    assert texts(words) == ["かえるはパン"]


def test_a_word_that_is_read_is_known_by_where_it_stands():
    line = HeardLine(tuple(said("Well,", "well:", "the", "peut-être", "“don’t”", "said.")))
    found = line.word_of(["Well", "well", "the", "peut", "être", "don't", "never", "said"])
    assert [word and word.text for word in found] == [
        "Well,", "well:", "the", "peut-être", "peut-être", "“don’t”", None, "said.",
    ]  # fmt: skip


WORDS = st.lists(
    st.tuples(
        st.text(string.ascii_letters, min_size=1, max_size=6), st.integers(0, 900), st.sampled_from(["en-us", "es"])
    ),
    min_size=1,
    max_size=40,
)


@given(WORDS)
def test_no_word_is_lost_and_none_moves(rows):
    words, at = [], 0
    for text, pause_ms, language in rows:
        at += pause_ms * 1000
        words.append(HeardWord(text, at, at + 250_000, 0.5, language=language))
        at += 250_000
    lines = lines_heard(words)
    assert [word for line in lines for word in line.words] == words
    assert all(len({word.language for word in line.words}) == 1 for line in lines)
    for line in lines:
        gaps = [b.start_us - a.end_us for a, b in zip(line.words, line.words[1:], strict=False)]
        assert all(gap < PAUSE_US for gap in gaps)
        # Each word of the text is the one that stands there.
        assert line.word_of(line.text.split()) == list(line.words)
