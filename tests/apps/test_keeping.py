"""How a soundtrack is kept: what is heard apart from the rows that edits are mostly about; both of one moment."""

from dataclasses import replace
from importlib import import_module

import pytest
from django.db import connection, transaction
from django.db.migrations.executor import MigrationExecutor
from django.test.utils import CaptureQueriesContext

from tinfork.apps.reading import models
from tinfork.apps.reading.actions import soundtracks
from tinfork.apps.reading.models import ReadLine, Soundtrack
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.words import Slide
from tinfork.core.formats.soundtrack_json import ANNOTATIONS
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word


@pytest.fixture
def pin(read_shot, edit):
    def do(first, last, drawing=3):
        answer = edit("pin", speaker=str(read_shot.character.pk), first=first, last=last, drawing=drawing)
        assert answer["status"] == 200

    return do


@pytest.fixture
def two_lines(read_shot):
    """The shot with two lines of two words each."""

    def word(text, start_us):
        return Word(text, start_us, start_us + 300_000, (Phoneme("æ", start_us, start_us + 300_000),))

    row = soundtracks.locked(read_shot)
    voice = row.content.voices[0]
    speaker = str(read_shot.character.pk)
    lines = (
        Line(speaker, "pan cat", "en-us", (word("pan", 100_000), word("cat", 500_000))),
        Line(speaker, "hat man", "en-us", (word("hat", 1_300_000), word("man", 1_900_000))),
    )
    reading = Reading(voice.reading.duration_us, lines)
    after = replace(row.content, voices=(replace(voice, reading=reading),))
    soundtracks.record_edit(row, after, name="read", by=None)
    return type(read_shot).objects.get(pk=read_shot.pk)


def test_an_edit_of_a_mouth_neither_fetches_nor_writes_what_is_heard(read_shot, pin):
    pin(10, 12)
    with CaptureQueriesContext(connection) as asked:
        pin(20, 22)
    written = [q["sql"] for q in asked if q["sql"].startswith('UPDATE "reading_soundtrack"')]
    assert len(written) == 1
    assert '"annotations"' in written[0]
    assert not [q["sql"] for q in asked if '"timeline"' in q["sql"]]
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
    assert row.document["voices"][0]["reading"]["lines"]
    assert row.settled == ["a look"]


def stored_lines():
    return dict(ReadLine.objects.values_list("number", "mark"))


def test_an_edit_of_a_word_writes_its_line_alone(two_lines, edit):
    before = stored_lines()
    word = two_lines.soundtrack.reading.lines[1].words[0]
    assert edit("slide", word=word.id, by_us=20_000)["status"] == 200
    after = stored_lines()
    assert len(before) == 2
    assert [number for number in before if before[number] != after[number]] == [
        two_lines.soundtrack.reading.lines[1].id
    ]
    assert edit("undo")["status"] == 200
    assert len(stored_lines()) == 2


def test_lines_that_go_and_come_back_are_rows_that_go_and_come_back(two_lines, edit):
    words = [word.id for word in two_lines.soundtrack.reading.lines[1].words]
    before = Soundtrack.objects.get().document
    for word in words:
        edit("word_remove", word=word)
    assert len(stored_lines()) == 1
    for _ in words:
        edit("undo")
    assert len(stored_lines()) == 2
    assert Soundtrack.objects.get().document == before


def test_another_process_reads_only_the_lines_that_changed(two_lines, edit):
    """What one process knows is put aside while another one edits, and taken up again."""
    known = dict(models._KNOWN._values)
    kept_line = Soundtrack.objects.get().content.voices[0].reading.lines[0]
    word = two_lines.soundtrack.reading.lines[1].words[0]
    edit("slide", word=word.id, by_us=20_000)
    there = Soundtrack.objects.get()
    then = there.document
    models._KNOWN._values.clear()
    models._KNOWN._values.update(known)
    with CaptureQueriesContext(connection) as asked:
        now = Soundtrack.objects.get()
        assert now.document == then
    assert now.content.voices[0].reading.lines[0] is kept_line
    (read,) = [q["sql"] for q in asked if '"content"' in q["sql"] and "readline" in q["sql"]]
    assert "IN (" in read
    # Nothing known: all of it is read, and is the same.
    models._KNOWN._values.clear()
    assert Soundtrack.objects.get().document == then


def migrated(name):
    """The tables and models of an app as they were after a migration of it."""
    with connection.cursor() as cursor:
        # A table with checks that wait cannot be altered.
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
    return MigrationExecutor(connection).migrate([("reading", name)]).apps


@pytest.mark.parametrize("has_numbers", [True, False])
def test_lines_of_before_they_had_rows_get_them(two_lines, has_numbers):
    row = Soundtrack.objects.get()
    before = row.document
    whole = {key: part for key, part in before.items() if key not in ANNOTATIONS}
    if not has_numbers:
        for line in (line for voice in whole["voices"] for line in voice["reading"]["lines"]):
            line.pop("id")
            for word in line["words"]:
                word.pop("id")
    Soundtrack.objects.filter(pk=row.pk).update(timeline=whole)
    row.lines.all().delete()
    then = migrated("0016_lines_of_their_own")
    migration = import_module("tinfork.apps.reading.migrations.0016_lines_of_their_own")
    migration.part(then, None)
    migrated("0017_timeline_and_annotations")
    models._KNOWN._values.clear()
    after = Soundtrack.objects.get()
    assert [line.text for line in after.reading.lines] == ["pan cat", "hat man"]
    assert {line.id for line in after.reading.lines} == set(after.lines.values_list("number", flat=True))
    assert all(word.id for word in after.reading.words())
    assert after.document == before or not has_numbers
    migration.join(migrated("0016_lines_of_their_own"), None)
    migrated("0017_timeline_and_annotations")
    (voice,) = Soundtrack.objects.values_list("timeline", flat=True).get()["voices"]
    assert [line["text"] for line in voice["reading"]["lines"]] == ["pan cat", "hat man"]


def test_what_is_only_shown_cannot_be_saved(two_lines):
    row = Soundtrack.objects.get()
    row.show(row.content)
    with pytest.raises(RuntimeError):
        row.save()
    assert len(stored_lines()) == 2


def test_what_was_rolled_back_is_believed_by_nobody(two_lines, edit):
    before = Soundtrack.objects.get().document
    word = two_lines.soundtrack.reading.lines[1].words[0]
    row = Soundtrack.objects.get()
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        mine = soundtracks.locked(two_lines)
        soundtracks.record_edit(mine, _slid(mine, word.id), name="slide", by=None)
        raise ZeroDivisionError
    assert Soundtrack.objects.get().document == before
    assert row.content == Soundtrack.objects.get().content
    edit("slide", word=word.id, by_us=10_000)
    models._KNOWN._values.clear()
    (now,) = [w for w in Soundtrack.objects.get().reading.words() if w.id == word.id]
    assert now.start_us == word.start_us + 10_000


def _slid(row, word):
    context = EditContext(row.shot.production.rate, {}, frozenset())
    return Slide(word=word, by_us=30_000).apply(row.content, context)


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
