"""What people send, at the door: texts, numbers, JSON."""

import json
import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.apps.common.sanitising import MOST, clean_text, read_json, whole_number
from tinfork.core.errors import FormatError

#: Any text, halves of characters too.
anything = st.text(st.characters(), max_size=60)


@given(anything)
def test_a_cleaned_text_can_be_kept_and_hides_nothing(text):
    clean = clean_text(text)
    clean.encode()
    assert "\0" not in clean
    assert not any(
        unicodedata.bidirectional(c) in ("LRE", "RLE", "LRO", "RLO", "PDF", "LRI", "RLI", "FSI", "PDI") for c in clean
    )
    assert not any(unicodedata.category(c) == "Cc" and c not in "\t\r\n" for c in clean)
    assert clean_text(clean) == clean


@pytest.mark.parametrize("text", ["Odalys", "Пим", "فرن‌ها", "क्‍ष", "שלום\u200f!", "a\tb\r\nc", "💋👩‍🎤", "é"])
def test_what_scripts_need_stays(text):
    assert clean_text(text) == text


@given(st.integers(-(10**20), 10**20), st.integers(-(10**6), 10**6), st.integers(0, 10**7))
def test_a_number_is_itself_within_its_bounds_and_nothing_outside(number, low, span):
    found = whole_number(str(number), low, low + span)
    assert found == (number if low <= number <= low + span and abs(number) < 10**16 else None)


@pytest.mark.parametrize(
    "text", ["", "²", "٣", "１", "--5", "+5", "5.0", "1e3", " 5", "5\n", "1_0", "0x5", "9" * 5000, None, 5]
)
def test_what_is_no_plain_number_is_none(text):
    assert whole_number(text, -MOST, MOST) is None


@pytest.mark.parametrize(
    "data",
    [b"", b"{", b"NaN", b"[Infinity]", b"[-Infinity]", b"1e999", b"\xff", b"[" * 100_000, b"[" * 40 + b"]" * 40,
     b"9" * 5000, b'{"a":' * 40 + b"1" + b"}" * 40],
)  # fmt: skip
def test_what_is_no_json_or_too_deep_is_refused(data):
    with pytest.raises(FormatError):
        read_json(data)


def test_json_that_is_too_long_is_refused_before_it_is_read():
    with pytest.raises(FormatError, match="too much"):
        read_json(b"[" + b"1," * 600 + b"1]", most_bytes=1000)


values = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(2**60), 2**60)
    | st.floats(allow_nan=False, allow_infinity=False)
    | anything,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(anything, inner, max_size=4),
    max_leaves=12,
)


@given(values)
def test_json_comes_through_with_its_texts_cleaned(value):
    found = read_json(json.dumps(value))
    assert json.loads(json.dumps(found)) == found
    json.dumps(found, ensure_ascii=False).encode()


@pytest.mark.usefixtures("db")
def test_forms_names_of_files_and_queries_arrive_clean(client, studio, production):
    from tests.apps.conftest import upload
    from tinfork.apps.sound.models import Take

    client.post("/cast/new", {"name": "Pi\0m\u202e", "ink": 1})
    assert studio.characters.filter(name="Pim").exists()
    client.post(f"/productions/{production.pk}/takes/upload", {"sound": upload("a\u202evaw.wav")})
    assert Take.objects.get().name == "avaw.wav"
    assert client.get("/cast/", {"q": "pi\0m"}).status_code == 200


@pytest.mark.parametrize("revision", [-1, -(10**15), 10**15, 2**31, True, 1.5, "1", None])
def test_a_revision_out_of_bounds_does_no_work(client, read_shot, monkeypatch, revision):
    from tinfork.apps.reading.actions import soundtracks

    looked = []
    monkeypatch.setattr(soundtracks, "locked", lambda shot: looked.append(shot))
    body = {"revision": revision, "shown": revision, "name": "note", "parameters": {"frame": 1, "text": "x"}}
    answer = client.post(f"/shots/{read_shot.pk}/mouths", json.dumps(body), content_type="application/json")
    assert answer.status_code == 422
    assert not looked


@pytest.mark.parametrize("since", ["-1", "-99999999999", "99999999999999", "²", "1e5"])
def test_changes_since_nonsense_are_refused(client, read_shot, since):
    assert client.get(f"/shots/{read_shot.pk}/changes", {"since": since}).status_code == 422


def test_touched_since_a_revision_that_never_was_is_unknown_and_costs_nothing(read_shot):
    from tinfork.apps.reading.actions.soundtracks import touched_since

    row = read_shot.soundtrack
    for revision in (-(10**12), row.revision + 10**12):
        assert touched_since(row, revision) is None
