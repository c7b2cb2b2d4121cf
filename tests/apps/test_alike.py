"""A name that was heard oddly, put right in all of its production."""

import pytest

from tests import sounds
from tinfork.apps.produce.actions import add_shot
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.reading.models import Soundtrack
from tinfork.core.soundtrack.edits import set_reading


@pytest.fixture
def two_shots(read_shot, production):
    """A shot that was read, and another that has the same sound and reading."""
    other = add_shot(production=production, name="030 The oven", character=read_shot.character)
    Shot.objects.filter(pk=other.pk).update(words=sounds.SENTENCE)
    row = locked(other)
    record_edit(row, Soundtrack.objects.get(shot=read_shot).content, name="read", by=None)
    return read_shot, other


def texts(shot):
    return [word.text for word in Soundtrack.objects.get(shot=shot).reading.words()]


def test_it_is_asked_for_names_and_odd_words_only(client, two_shots):
    address = f"/shots/{two_shots[0].pk}/alike"
    assert client.get(address, {"was": "tram", "now": "Trammel"}).json() == {"places": 2, "shots": 2}
    assert client.get(address, {"was": "tram", "now": "trammmel"}).json()["places"] == 2
    for was, now in (
        ("tram", "train"),
        ("tram", "Tram"),
        ("the", "Pim"),
        ("nowhere", "Odalys"),
        ("", "Odalys"),
        ("tram", ""),
    ):
        assert client.get(address, {"was": was, "now": now}).json()["places"] == 0


def test_it_is_put_right_in_each_shot_and_each_can_be_undone(client, two_shots):
    one, other = two_shots
    answer = client.post(f"/shots/{one.pk}/alike", {"was": "tram", "now": "Trammel"})
    assert answer.json() == {"said": "“tram” is now “Trammel” in 2 more places."}
    for shot in two_shots:
        assert "Trammel" in texts(shot)
        assert "tram" not in texts(shot)
        assert "last Trammel leaves" in Shot.objects.get(pk=shot.pk).words
    row = Soundtrack.objects.get(shot=other)
    client.post(
        f"/shots/{other.pk}/mouths", {"name": "undo", "revision": row.revision}, content_type="application/json"
    )
    assert "tram" in texts(other)
    assert "Trammel" in texts(one)


def test_what_is_no_word_is_refused_and_nobody_else_may(client, stranger, viewer, two_shots):
    address = f"/shots/{two_shots[0].pk}/alike"
    for given in ({"was": "tram", "now": "…"}, {"was": "tram", "now": "x" * 5000}, {}):
        assert client.post(address, given).status_code == 422
    assert stranger.get(address).status_code == 404
    assert stranger.post(address, {"was": "tram", "now": "Trammel"}).status_code == 404
    assert viewer.post(address, {"was": "tram", "now": "Trammel"}).status_code == 403
    assert "tram" in texts(two_shots[1])


def test_a_reading_without_voices_is_left_alone(client, two_shots):
    row = locked(two_shots[1])
    st = row.content
    empty = st.voices[0].reading.__class__(st.voices[0].reading.duration_us)
    record_edit(row, set_reading(st, st.voices[0].id, empty), name="read", by=None)
    assert client.post(f"/shots/{two_shots[0].pk}/alike", {"was": "tram", "now": "Trammel"}).status_code == 200
    assert texts(two_shots[1]) == []
