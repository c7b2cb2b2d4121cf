"""Which lines of a script are said where: expectations are what the recording was put together from."""

import random

from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.speech.matching import LineMatch, by_line, match_lines

_SOUNDS = [
    "p",
    "b",
    "t",
    "d",
    "k",
    "ɡ",
    "f",
    "v",
    "s",
    "z",
    "ʃ",
    "m",
    "n",
    "l",
    "ɹ",
    "j",
    "w",
    "i",
    "ɪ",
    "ɛ",
    "æ",
    "ɑ",
    "ɔ",
    "ʊ",
    "u",
    "ə",
]


def _line(pick: random.Random, length: int) -> tuple[str, ...]:
    return tuple(pick.choice(_SOUNDS) for _ in range(length))


def _words(pick: random.Random, sounds: tuple[str, ...]) -> list[tuple[str, ...]]:
    """Cut into words of one to five sounds."""
    out = []
    while sounds:
        length = pick.randint(1, 5)
        out.append(sounds[:length])
        sounds = sounds[length:]
    return out


def _soiled(pick: random.Random, sounds: tuple[str, ...], share: float) -> tuple[str, ...]:
    """Some of the sounds heard as others, left out, or doubled."""
    out: list[str] = []
    for sound in sounds:
        what = pick.random()
        if what < share / 3:
            continue
        out.append(pick.choice(_SOUNDS) if what < 2 * share / 3 else sound)
        if what > 1 - share / 3:
            out.append(pick.choice(_SOUNDS))
    return tuple(out) or sounds


def _said(places: list[LineMatch]) -> list[int]:
    return [place.line for place in places]


def _row(parts: list[list[tuple[str, ...]]]) -> tuple[list[tuple[str, ...]], list[tuple[int, int]]]:
    """The words of some parts one after another, and where each part lies."""
    words: list[tuple[str, ...]] = []
    spans = []
    for part in parts:
        spans.append((len(words), len(words) + len(part)))
        words += part
    return words, spans


SIT, NEVER, LOAF = tuple("sɪtdaʊn"), tuple("nɛvəbɪfɔmɪdnaɪt"), tuple("ðəlofɪzrɛdi")
SCRIPT = [SIT, NEVER, LOAF]


def test_lines_said_once_in_order_are_found_word_for_word() -> None:
    words = [tuple(word) for word in ["sɪt", "daʊn", "nɛvə", "bɪfɔ", "mɪdnaɪt", "ðə", "lofɪzrɛdi"]]
    assert match_lines(SCRIPT, words) == [
        LineMatch(0, 0, 2, 0.0, True),
        LineMatch(1, 2, 5, 0.0, True),
        LineMatch(2, 5, 7, 0.0, True),
    ]


def test_a_line_said_again_is_two_places_and_one_left_out_is_none() -> None:
    words = [SIT, SIT, LOAF]
    found = match_lines(SCRIPT, words)
    assert _said(found) == [0, 0, 2]
    assert [place.first for place in by_line(found)[0]] == [0, 1]
    assert 1 not in by_line(found)


def test_a_line_gone_back_to_is_found_after_later_ones() -> None:
    assert _said(match_lines(SCRIPT, [SIT, NEVER, LOAF, NEVER])) == [0, 1, 2, 1]


def test_a_line_broken_off_and_begun_again_is_a_place_that_is_not_whole() -> None:
    found = match_lines(SCRIPT, [SIT, tuple("nɛvəbɪf"), *_words(random.Random(1), NEVER)])
    assert [(place.line, place.is_whole) for place in found] == [(0, True), (1, False), (1, True)]


def test_speech_that_no_line_has_is_in_no_place() -> None:
    other = [tuple("kɑmɔɔn"), tuple("wʌnmɔ"), tuple("tʃuz")]
    found = match_lines(SCRIPT, [SIT, *other, NEVER])
    assert [(place.line, place.first, place.last) for place in found] == [(0, 0, 1), (1, 4, 5)]


def test_nothing_in_common_is_no_place() -> None:
    assert match_lines([tuple("aaaaaaa")], [tuple("ssssss")]) == []


def test_nothing_to_match_is_no_place() -> None:
    assert match_lines([], [SIT]) == match_lines(SCRIPT, []) == match_lines([(), ()], [SIT]) == []


def test_a_line_without_sounds_is_never_said() -> None:
    assert _said(match_lines([SIT, (), LOAF], [SIT, LOAF])) == [0, 2]


@given(st.integers(0, 10**9))
def test_whatever_is_said_again_skipped_or_made_up_is_found_where_it_is(seed: int) -> None:
    pick = random.Random(seed)
    lines = [_line(pick, pick.randint(16, 40)) for _ in range(pick.randint(2, 9))]
    parts: list[list[tuple[str, ...]]] = []
    expected: list[int | None] = []
    for number, line in enumerate(lines):
        for _ in range(pick.choice((0, 1, 1, 1, 2, 3))):
            parts.append(_words(pick, _soiled(pick, line, 0.03)))
            expected.append(number)
        if pick.random() < 0.2:
            parts.append(_words(pick, _line(pick, pick.randint(15, 30))))
            expected.append(None)
    words, spans = _row(parts)
    found = match_lines(lines, words)
    # By the middle of each part: the words at its edges may fall to either side.
    for number, (first, last) in zip(expected, spans, strict=True):
        middle = (first + last) // 2
        assert [place.line for place in found if place.first <= middle < place.last] == [number] * (number is not None)
    # What nobody wrote may by chance sound like a piece of some line: not more often than it is said.
    middles = [(first + last) // 2 for first, last in spans]
    hits = [place for place in found if any(place.first <= middle < place.last for middle in middles)]
    assert _said(hits) == [number for number in expected if number is not None]
    assert len(found) - len(hits) <= expected.count(None)


@given(st.lists(st.lists(st.sampled_from(_SOUNDS[:4]), max_size=5).map(tuple), max_size=5), st.integers(0, 10**9))
def test_places_are_in_order_and_never_overlap(lines: list[tuple[str, ...]], seed: int) -> None:
    pick = random.Random(seed)
    words = [_line(pick, pick.randint(0, 4)) for _ in range(pick.randint(0, 12))]
    found = match_lines(lines, words)
    at = 0
    for place in found:
        assert at <= place.first < place.last <= len(words)
        assert lines[place.line]
        assert place.unlike >= 0
        at = place.last
