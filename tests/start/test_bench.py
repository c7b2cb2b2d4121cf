"""Wrong words are counted as any word error rate is."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tools.bench.listening import wrong_words

SAID = "The dough does not care what time it is."


@pytest.mark.parametrize(
    ("heard", "wrong"),
    [
        ("the dough, does not care; what time it is", 0),
        ("The dow does not care what time it is", 1),
        ("Dough does not care what time it is", 1),
        ("The dough does not care at all what time it is", 2),
        ("The dough not does care what time it is", 2),
        ("", 9),
    ],
)
def test_a_word_replaced_left_out_or_put_in_is_wrong(heard, wrong):
    assert wrong_words(SAID, heard) == (wrong, 9)


@given(st.lists(st.sampled_from("abc"), max_size=12), st.lists(st.integers(0, 12), max_size=5))
def test_as_many_are_wrong_as_were_put_in_and_the_other_way_round(words, places):
    more = list(words)
    for place in places:
        more.insert(place, "x")
    assert wrong_words(" ".join(words), " ".join(more)) == (len(places), len(words))
    assert wrong_words(" ".join(more), " ".join(words)) == (len(places), len(more))
