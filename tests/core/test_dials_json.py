"""Named dials as a file."""

import contextlib
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import FormatError
from tinfork.core.formats import dials_json
from tinfork.core.solver.dials import DIALS, Dials

ANY = st.builds(
    Dials, **{name: st.integers(dial.low, dial.high) for name, dial in DIALS.items()}, by_loudness=st.booleans()
)
NAMES = st.text("abc Äжマ.-'", min_size=1, max_size=40).map(lambda name: " ".join(name.split())).filter(bool)


@given(st.dictionaries(NAMES, ANY, max_size=5))
def test_dials_come_back_as_they_went(named):
    assert dials_json.read(dials_json.write(named)) == named


def test_a_file_is_plain_json_that_says_what_it_is():
    document = json.loads(dials_json.write({"snappy": Dials(lead=2)}))
    assert document["format"] == "tin-fork-dials" and document["version"] == 1
    assert document["dials"]["snappy"]["lead"] == 2


@pytest.mark.parametrize(
    "wrong",
    [
        b"",
        b"\xff\xfe",
        b"[]",
        b"[" * 100_000,
        b'{"format": "tin-fork-dials", "version": 2, "dials": {}}',
        b'{"format": "tin-fork-dials", "version": 1, "dials": {"a": {"lead": 999999}}}',
        b'{"format": "tin-fork-dials", "version": 1, "dials": {"a": {"lead": "2"}}}',
        b'{"format": "tin-fork-dials", "version": 1, "dials": {"a": []}}',
        b'{"format": "tin-fork-dials", "version": 1, "dials": {" ": {}}}',
        json.dumps({"format": "tin-fork-dials", "version": 1, "dials": {str(n): {} for n in range(201)}}).encode(),
    ],
)
def test_what_is_no_file_of_dials_is_refused(wrong):
    with pytest.raises(FormatError):
        dials_json.read(wrong)


@given(st.binary(max_size=60), st.integers(0, 400))
def test_damaged_files_are_refused_or_read_and_nothing_else(junk, at):
    data = dials_json.write({"snappy": Dials(lead=2), "calm": Dials()})
    with contextlib.suppress(FormatError):
        dials_json.read(data[:at] + junk + data[at:])
