"""What is declared of edits, against a validator of JSON Schema of somebody else's."""

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.commands.schema import files, json_schema
from tinfork.core.commands.table import ALL, parse_command
from tinfork.core.errors import FormatError

SCHEMA = json_schema()
VALIDATOR = jsonschema.Draft202012Validator(SCHEMA)
VALUES = (
    st.none()
    | st.booleans()
    | st.integers(-5, 5)
    | st.sampled_from(
        [10**6, 10**6 + 1, 7_200_000_000, 7_200_000_001, 2**31, "start", "word", "both", "voice", "", " ", "mo"]
    )
    | st.floats(-30, 30, allow_nan=False)
    | st.lists(st.fixed_dictionaries({"frames": st.integers(0, 3), "drawing": st.integers(-2, 3)}), max_size=3)
    | st.dictionaries(st.sampled_from(["lead", "detail"]), st.integers(0, 3) | st.booleans(), max_size=2)
)


@pytest.mark.parametrize(("path", "content"), list(files()), ids=lambda value: getattr(value, "name", ""))
def test_what_is_written_of_edits_is_what_is_declared(path, content):
    assert path.read_text(encoding="utf-8") == content, "Run python -m tinfork.core.commands.schema."


def test_the_schema_is_one_and_has_every_edit():
    jsonschema.Draft202012Validator.check_schema(SCHEMA)
    assert [edit["properties"]["name"]["const"] for edit in SCHEMA["oneOf"]] == list(ALL)
    assert VALIDATOR.is_valid({"name": "gap", "parameters": {"frame": 4, "frames": 2}})
    assert not VALIDATOR.is_valid({"name": "gap", "parameters": {"frame": 4, "frames": 0}})
    assert not VALIDATOR.is_valid({"name": "gape", "parameters": {"frame": 4, "frames": 2}})


@st.composite
def edits(draw):
    """An edit's name, and values for most of its parameters, perhaps with one that it does not know."""
    name = draw(st.sampled_from(list(ALL)))
    known = ALL[name].__struct_fields__
    values = {field: draw(VALUES) for field in known if draw(st.integers(0, 9))}
    return name, values | ({"paint": 1} if draw(st.integers(0, 9)) == 0 else {})


@given(edits())
def test_what_is_taken_is_what_the_schema_allows(edit):
    name, values = edit
    try:
        parse_command(name, values)
    except FormatError as error:
        is_taken = False
        assert "`" not in str(error)
        assert "$" not in str(error)
    else:
        is_taken = True
    is_allowed = VALIDATOR.is_valid({"name": name, "parameters": values})
    # A number without a fraction is whole to JSON Schema, however it is written.
    has_such = any(isinstance(value, float) and value.is_integer() for value in values.values())
    assert is_taken == is_allowed or has_such


@pytest.mark.parametrize(
    ("name", "values", "says"),
    [
        ("gap", {"frame": 1}, "“frames” must be a whole number from 1 to 1,000,000."),
        ("gap", {"frame": [], "frames": 1}, "“frame” must be a whole number from 0 to 1,000,000."),
        ("turn_give", {"clip": 1, "turn": 2, "speaker": []}, "“speaker” must be a text of up to 20 characters."),
        ("slide", {"word": 1, "by_us": 0, "what": "all"}, "“what” must be one of: line, word."),
        ("mute_track", {"track": 1, "muted": 1}, "“muted” must be true or false."),
        ("paste", {"speaker": "1", "at": 0, "holds": [{"frames": 0, "drawing": 1}]}, "“frames” must be a whole number"),
        ("paste", {"speaker": "1", "at": 0, "holds": [5]}, "“holds” must be a list of up to 20,000."),
        ("dials", {"speaker": "1", "values": 3}, "“values” must be up to 20 values by name"),
        ("note", {"frame": 1, "text": "a", "colour": 1}, "This edit does not know “colour”."),
    ],
)
def test_what_is_wrong_is_named_in_words(name, values, says):
    with pytest.raises(FormatError, match=f"^{says[:60].replace('.', '[.]')}"):
        parse_command(name, values)
