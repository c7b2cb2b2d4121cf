"""How a soundtrack is kept: what is heard apart from the rows that edits are mostly about; both of one moment."""

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tinfork.apps.reading.actions import soundtracks
from tinfork.apps.reading.models import Soundtrack


@pytest.fixture
def pin(read_shot, edit):
    def do(first, last, drawing=3):
        answer = edit("pin", speaker=str(read_shot.character.pk), first=first, last=last, drawing=drawing)
        assert answer["status"] == 200

    return do


def test_an_edit_of_a_mouth_neither_fetches_nor_writes_what_is_heard(read_shot, pin):
    pin(10, 12)
    with CaptureQueriesContext(connection) as asked:
        pin(20, 22)
    written = [q["sql"] for q in asked if q["sql"].startswith('UPDATE "reading_soundtrack"')]
    assert len(written) == 1
    assert '"rows"' in written[0]
    assert not [q["sql"] for q in asked if '"heard"' in q["sql"]]
    assert len(Soundtrack.objects.get().content.pins) == 2


def test_a_row_that_others_changed_since_is_all_of_one_moment(read_shot, edit, pin):
    mine = Soundtrack.objects.get()
    edit("move", clip=1, frame=54)
    pin(20, 22)
    # Asked for what it had not fetched, it is what it is now as a whole.
    now = Soundtrack.objects.get()
    assert mine.document["clips"][0]["start"] == 2_250_000
    assert mine.revision == now.revision
    assert mine.content == now.content
    assert len(mine.document["pins"]) == 1


def test_a_row_keeps_what_is_set_on_it_while_what_is_heard_is_fetched(read_shot):
    row = Soundtrack.objects.get()
    row.settled = ["a look"]
    assert row.heard["voices"]
    assert row.settled == ["a look"]


def test_a_refreshed_row_knows_what_others_changed(read_shot, edit):
    row = Soundtrack.objects.get()
    assert row.content.clips[0].start_us == 0
    edit("move", clip=1, frame=54)
    row.refresh_from_db()
    assert row.content.clips[0].start_us == 2_250_000
    assert row.document["clips"][0]["start"] == 2_250_000


def test_undoing_rows_and_what_is_heard_in_turn_comes_back_to_the_start(read_shot, edit, pin):
    states = [Soundtrack.objects.get().document]
    pin(10, 12)
    states.append(Soundtrack.objects.get().document)
    edit("move", clip=1, frame=24)
    states.append(Soundtrack.objects.get().document)
    pin(40, 44)
    for state in reversed(states):
        edit("undo")
        assert Soundtrack.objects.get().document == state


def test_the_oldest_edits_go_when_there_are_too_many(read_shot, pin, monkeypatch):
    monkeypatch.setattr(soundtracks, "MAX_EDITS", 5)
    monkeypatch.setattr(soundtracks, "_TRIM_EVERY", 1)
    for frame in range(10, 40, 3):
        pin(frame, frame + 1)
    edits = list(read_shot.soundtrack.edits.all())
    assert len(edits) == 6
    assert edits[-1].parameters["first"] == 37
    assert edits[0].parameters["first"] == 22
