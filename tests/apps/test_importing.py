"""A file is looked at, laid over the shot as one edit, and one undo takes it back."""

import csv
import io
import json
import re

from tests.apps.conftest import upload
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import solve_character


def look(client, shot, name, data):
    return client.post(f"/shots/{shot.pk}/import", {"file": upload(name, data)})


def do_import(client, shot, page):
    looked = re.search(r'name="looked" value="([^"]+)"', page.content.decode())[1]
    return client.post(f"/shots/{shot.pk}/import", {"looked": looked}, follow=True)


def undo(client, shot):
    body = {"revision": Soundtrack.objects.get(shot=shot).revision, "name": "undo"}
    return client.post(f"/shots/{shot.pk}/mouths", body, content_type="application/json")


def test_an_edited_sheet_comes_back_as_pins_and_one_undo_takes_it_back(client, read_shot):
    before = Soundtrack.objects.get(shot=read_shot).document
    rows = list(csv.reader(io.StringIO(client.get(f"/shots/{read_shot.pk}/handover/csv").getvalue().decode())))
    drawing = rows[0].index("drawing")
    for row in rows[11:15]:
        row[drawing] = "14" if row[drawing] != "14" else "13"
    out = io.StringIO()
    csv.writer(out).writerows(rows)
    page = look(client, read_shot, "edited.csv", out.getvalue().encode())
    assert page.status_code == 200 and "<strong>4</strong> frames will show another drawing" in page.content.decode()
    assert Soundtrack.objects.get(shot=read_shot).document == before
    done = do_import(client, read_shot, page)
    assert "4 frames with a new drawing" in done.content.decode()
    shot = type(read_shot).objects.get(pk=read_shot.pk)
    holds = solve_character(shot, shot.character, shot.soundtrack.reading)
    for frame, row in enumerate(rows[11:15], start=10):
        assert str(next(h.drawing for h in holds if h.start <= frame < h.end)) == row[drawing]
    assert undo(client, read_shot).status_code == 200
    assert Soundtrack.objects.get(shot=read_shot).document == before


def test_words_of_our_json_move_and_are_pinned(client, read_shot):
    document = json.loads(client.get(f"/shots/{read_shot.pk}/handover/json").getvalue())
    word = document["lines"][-1]["words"][-1]
    was, end = word["end"], round(word["phonemes"][-1]["start"] + 0.02, 6)
    word["end"] = word["phonemes"][-1]["end"] = end
    assert end < was
    page = look(client, read_shot, "edited.json", json.dumps(document).encode())
    assert "<strong>1</strong> word will move" in page.content.decode()
    do_import(client, read_shot, page)
    shot = type(read_shot).objects.get(pk=read_shot.pk)
    new = [w for line in shot.soundtrack.reading.lines for w in line.words][-1]
    assert (new.text, new.end_us, new.is_pinned) == (word["text"], round(end * 1e6), True)


def test_a_wrong_file_changes_nothing_and_a_stale_or_foreign_look_is_refused(client, read_shot, stranger):
    page = look(client, read_shot, "x.csv", b"frame,drawing\n1,77\n")
    assert page.status_code == 422 and "Drawing “77” is not in this chart" in page.content.decode()
    good = look(client, read_shot, "n.csv", b"frame,drawing\n1,14\n")
    looked = re.search(r'name="looked" value="([^"]+)"', good.content.decode())[1]
    bent = client.post(f"/shots/{read_shot.pk}/import", {"looked": looked[:-2] + "xx"})
    assert bent.status_code == 422
    assert stranger.post(f"/shots/{read_shot.pk}/import", {"looked": looked}).status_code == 404
    assert not Soundtrack.objects.get(shot=read_shot).content.pins
