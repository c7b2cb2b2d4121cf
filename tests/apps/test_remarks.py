"""Remarks: through a link and at the Desk, drawn, answered, settled; where they belong, and who is told."""

import io
import json
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tests.apps.reviewing import decide, made, say
from tests.apps.test_people import member
from tinfork.apps.desk.models import Presence
from tinfork.apps.reading.looks import looks_of
from tinfork.apps.reading.models import Soundtrack, Version
from tinfork.apps.review.drawings import read_drawing
from tinfork.apps.review.models import Remark
from tinfork.apps.review.remarks import remarks_document
from tinfork.core.errors import TimingError
from tinfork.core.solver.looks import REMARK

ARROW = {"kind": "arrow", "points": [[0.7, 0.2], [0.45, 0.6]]}


def test_what_is_said_of_a_frame_is_a_second_look_on_the_desk_until_it_is_settled(client, read_shot):
    link = made(client, read_shot)
    visitor = Client()
    told = say(visitor, link, shot=read_shot.pk, frame=12, name="  Ms   Kettle ", text="Wider <b>here</b>").json()
    (remark,) = told["remarks"]
    assert (remark["frame"], remark["name"], remark["settled"]) == (12, "Ms Kettle", False)
    (look,) = (one for one in looks_of(read_shot) if one.kind == REMARK)
    assert str(look.text) == "Ms Kettle: “Wider <b>here</b>”"
    assert (look.start_us, look.end_us) == (500_000, 541_667)
    desk = client.get(f"/shots/{read_shot.pk}/desk").content.decode()
    assert "Wider" in desk
    assert "<b>here</b>" not in desk
    revision = read_shot.soundtrack.revision
    edit = {"revision": revision, "shown": revision, "name": "settle", "parameters": {"key": look.key}}
    assert (
        client.post(f"/shots/{read_shot.pk}/mouths", json.dumps(edit), content_type="application/json").status_code
        == 200
    )
    (remark,) = visitor.get(f"{link}remarks").json()["remarks"]
    assert remark["settled"]
    page = client.get(f"/shots/{read_shot.pk}/remarks").content.decode()
    assert "settled" in page
    assert "<b>here</b>" not in page
    # The animator's answer is read where it was asked.
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "Done.", "answers_to": remark["id"]})
    (remark,) = visitor.get(f"{link}remarks").json()["remarks"]
    assert remark["answers"] == [{"name": "odalys", "text": "Done."}]


def test_a_link_tells_only_what_was_said_through_it(client, read_shot):
    one, other = made(client, read_shot), made(client, read_shot)
    visitor = Client()
    say(visitor, one, shot=read_shot.pk, frame=1, name="Kettle", text="Mine")
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "Between us.", "frame": "5"})
    assert [r["text"] for r in visitor.get(f"{one}remarks").json()["remarks"]] == ["Mine"]
    assert visitor.get(f"{other}remarks").json()["remarks"] == []
    assert [r.text for r in Remark.objects.all()] == ["Mine", "Between us."]


@pytest.mark.parametrize(
    ("told", "status"),
    [
        ({"text": "", "name": "K"}, 422),
        ({"text": "x" * 2001, "name": "K"}, 422),
        ({"text": "x", "name": "  "}, 422),
        ({"text": "x", "name": "K", "shot": 0}, 404),
        ({"text": "x", "name": "K", "shot": "1"}, 404),
        ({"text": "x", "name": "K", "shot": [1]}, 404),
        ({"text": "x", "name": "K", "frame": 10**12}, 200),
        ({"text": "x", "name": "K", "frame": "nine"}, 200),
        ({"text": "x", "name": "K", "frame": -4}, 200),
        ({"text": "a\0b", "name": "K"}, 200),
        ([], 404),
    ],
)
def test_what_is_no_remark_is_refused_in_words_and_what_is_one_stays_in_the_shot(client, read_shot, told, status):
    link = made(client, read_shot)
    sent = {"shot": read_shot.pk, "frame": 0, **told} if isinstance(told, dict) else told
    answer = Client().post(f"{link}remarks", json.dumps(sent), content_type="application/json")
    assert answer.status_code == status
    assert Remark.objects.count() == (status == 200)
    if status == 200:
        assert 0 <= Remark.objects.get().at_us < read_shot.soundtrack.duration_us


def test_what_is_drawn_comes_back_as_it_was_and_stays_in_the_picture(client, read_shot, do_jobs):
    link = made(client, read_shot)
    do_jobs()
    visitor = Client()
    pen = {"kind": "pen", "points": [[-3, 0.123456], [0.5, 7.0], [1, 0]]}
    answer = say(visitor, link, shot=read_shot.pk, frame=2, last=9, name="Kettle", text="x", drawing=[ARROW, pen])
    (told,) = answer.json()["remarks"]
    assert told["drawing"] == [ARROW, {"kind": "pen", "points": [[0.0, 0.1235], [0.5, 1.0], [1.0, 0.0]]}]
    assert (told["frame"], told["last"]) == (2, 9)
    # The animator has it on the Desk, and the picture it was drawn on.
    page = client.get(f"/shots/{read_shot.pk}/desk").content.decode()
    assert '"arrow"' in page
    with Image.open(io.BytesIO(b"".join(client.get(f"/remarks/{told['id']}/picture").streaming_content))) as picture:
        assert picture.format == "WEBP"
        assert picture.width == 480


@pytest.mark.parametrize(
    "drawing",
    [
        "x",
        [1],
        [{"kind": "brush", "points": [[0, 0], [1, 1]]}],
        [{"kind": "pen", "points": [[0, 0]]}],
        [{"kind": "pen", "points": [[0, 0], [1]]}],
        [{"kind": "pen", "points": [[0, 0], [True, 1]]}],
        [{"kind": "pen", "points": [[0, 0], ["1", 1]]}],
        [{"kind": "pen", "points": [[0, 0]] * 401}],
        [ARROW] * 41,
    ],
)
def test_what_is_no_drawing_is_refused_in_words(client, read_shot, drawing):
    link = made(client, read_shot)
    answer = say(Client(), link, shot=read_shot.pk, frame=0, name="Kettle", text="x", drawing=drawing)
    assert answer.status_code == 422
    assert "drawing" in answer.json()["error"]
    assert not Remark.objects.exists()


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=4) | st.sampled_from(["pen", "arrow"]),
        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(["kind", "points"]), inner),
        max_leaves=12,
    )
)
def test_whatever_is_sent_as_a_drawing_is_one_or_is_refused(told):
    try:
        read = read_drawing(told)
    except TimingError:
        return
    for stroke in read:
        assert stroke["kind"] in ("pen", "arrow")
        assert all(0 <= x <= 1 and 0 <= y <= 1 for x, y in stroke["points"])


def slide_words(client, shot, frames):
    """All words later, as a clip that is moved takes them along."""
    told = client.get(f"/shots/{shot.pk}/sound.json").json()
    moved = {"clip": told["clips"][0]["id"], "frame": frames}
    body = json.dumps({"revision": told["revision"], "name": "move", "parameters": moved})
    return client.post(f"/shots/{shot.pk}/sound/edit", body, content_type="application/json")


def test_a_remark_goes_where_its_word_goes_and_says_when_its_mouths_were_changed(client, read_shot, user):
    rate = read_shot.production.rate
    *_, word = read_shot.soundtrack.reading.words()
    frame = rate.frame_at((word.start_us + word.end_us) // 2)
    sent = {"frame": frame + read_shot.first_frame, "text": "wider"}
    assert client.post(f"/shots/{read_shot.pk}/remarks/new", sent).status_code == 302

    def told():
        fresh = type(read_shot).objects.get(pk=read_shot.pk)
        (one,) = remarks_document(fresh)
        return one["frame"], one["changed"]

    assert told() == (frame, False)
    moved = slide_words(client, read_shot, 12)
    assert moved.status_code == 200, moved.content
    assert told() == (frame + 12, False)
    # Another mouth is pinned on the frame that it is about.
    row = read_shot.soundtrack
    row.refresh_from_db()
    who = str(read_shot.character.pk)
    body = {
        "revision": row.revision,
        "name": "pin",
        "parameters": {"speaker": who, "first": frame + 11, "last": frame + 13, "drawing": -1},
    }
    pinned = client.post(f"/shots/{read_shot.pk}/mouths", json.dumps(body), content_type="application/json")
    assert pinned.status_code == 200, pinned.content
    assert told() == (frame + 12, True)
    page = client.get(f"/shots/{read_shot.pk}/remarks").content.decode()
    assert "The mouths here were changed since" in page
    pk = Remark.objects.get().pk
    then = b"".join(client.get(f"/remarks/{pk}/picture").streaming_content)
    now = client.get(f"/remarks/{pk}/picture?now=1").content
    assert then != now


def test_through_a_link_a_remark_is_about_what_was_seen_there(client, read_shot, do_jobs):
    link = made(client, read_shot)
    do_jobs()
    rate = read_shot.production.rate
    word = next(read_shot.soundtrack.reading.words())
    frame = rate.frame_at(word.start_us + 20_000)
    assert slide_words(client, read_shot, 12).status_code == 200
    visitor = Client()
    say(visitor, link, shot=read_shot.pk, frame=frame, name="Kettle", text="here")
    # Whoever sees the film of before finds it where they said it, the animator where the word is now.
    assert visitor.get(f"{link}remarks").json()["remarks"][0]["frame"] == frame
    fresh = type(read_shot).objects.get(pk=read_shot.pk)
    assert remarks_document(fresh)[0]["frame"] == frame + 12


def test_a_settled_remark_is_opened_again_by_who_answers_it_through_the_link(client, read_shot, viewer):
    link = made(client, read_shot)
    visitor = Client()
    say(visitor, link, shot=read_shot.pk, frame=1, name="Kettle", text="wider")
    pk = Remark.objects.get().pk
    assert viewer.post(f"/remarks/{pk}/settle", {"settled": "yes"}).status_code == 403
    client.post(f"/remarks/{pk}/settle", {"settled": "yes"})
    assert visitor.get(f"{link}remarks").json()["remarks"][0]["settled"]
    answered = say(visitor, link, answers_to=pk, name="Kettle", text="still not").json()["remarks"][0]
    assert not answered["settled"]
    assert answered["answers"] == [{"name": "Kettle", "text": "still not"}]
    client.post(f"/remarks/{pk}/settle", {"settled": "yes"})
    client.post(f"/remarks/{pk}/settle", {"settled": "no"})
    assert not visitor.get(f"{link}remarks").json()["remarks"][0]["settled"]
    # What was not said through this link cannot be answered through it.
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "ours"})
    other = Remark.objects.get(text="ours")
    assert say(visitor, link, answers_to=other.pk, name="Kettle", text="x").status_code == 404


def test_a_remark_from_the_desk_comes_back_as_a_second_look(client, read_shot):
    sent = {"frame": 3, "last": 5, "text": "jaw lower", "drawing": [ARROW]}
    answer = client.post(f"/shots/{read_shot.pk}/remarks/new", json.dumps(sent), content_type="application/json")
    look = next(one for one in answer.json()["looks"] if one["kind"] == REMARK)
    rate = read_shot.production.rate
    assert (look["start"], look["end"]) == (rate.first_us(3), rate.first_us(6))
    assert look["drawing"] == [ARROW]
    wrong = client.post(f"/shots/{read_shot.pk}/remarks/new", json.dumps({"text": ""}), content_type="application/json")
    assert wrong.status_code == 422


def test_who_is_named_in_a_remark_is_known(client, read_shot, studio):
    brindle = member(studio, "animator", "brindle@tinfork.example").user
    named = member(studio, "viewer", "x@tinfork.example").user
    named.name = "Ms Kettle"
    named.save()
    text = "@brindle and @ms kettle, not @brindles or odalys@tinfork.example"
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": text})
    assert set(Remark.objects.get().mentions.all()) == {brindle, named}


def test_others_at_the_desk_are_shown_and_what_they_say_arrives(client, read_shot, studio):
    brindle = member(studio, "animator", "brindle@tinfork.example").user
    other = Client()
    other.force_login(brindle)
    address = f"/shots/{read_shot.pk}/changes"
    revision = Soundtrack.objects.get(shot=read_shot).revision
    mine = client.get(address, {"since": revision, "at": 3, "said": ""}).json()
    assert mine["here"] == [] and "document" not in mine
    theirs = other.get(address, {"since": revision, "at": 7, "said": ""}).json()
    assert [(one["name"], one["frame"]) for one in theirs["here"]] == [("odalys", 3)]
    other.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "wider"})
    told = client.get(address, {"since": revision, "at": 3, "said": mine["said"]}).json()
    assert [one["text"] for one in told["document"]["looks"] if one["kind"] == REMARK]
    assert "document" not in client.get(address, {"since": revision, "said": told["said"]}).json()
    Presence.objects.filter(user=brindle).update(seen_at=timezone.now() - timedelta(seconds=9))
    assert client.get(address, {"since": revision, "at": 3}).json()["here"] == []


def test_an_archive_has_what_was_drawn_and_the_picture(client, read_shot, do_jobs):
    sent = {"frame": 3, "last": 5, "text": "jaw lower", "drawing": [ARROW]}
    client.post(f"/shots/{read_shot.pk}/remarks/new", json.dumps(sent), content_type="application/json")
    client.post(f"/shots/{read_shot.pk}/decide", {"verdict": "approved"})
    client.post(f"/productions/{read_shot.production_id}/pack")
    packed = do_jobs().result.read()
    client.post("/productions/unpack", {"packed": SimpleUploadedFile("p.production.zip", packed)})
    assert do_jobs().error == ""
    old, new = Remark.objects.order_by("pk")
    assert (new.drawing, new.at_us, new.end_us) == (old.drawing, old.at_us, old.end_us)
    assert new.picture.read() == old.picture.read()
    assert [one["frame"] for one in remarks_document(new.shot)] == [3]
    assert Version.objects.get(soundtrack__shot=new.shot).is_kept


def test_a_stranger_cannot_say_things_without_end(client, read_shot, monkeypatch):
    monkeypatch.setattr("tinfork.apps.common.tokens._MAX_SENT", 3)
    link = made(client, read_shot)
    visitor = Client(REMOTE_ADDR="198.51.100.9")
    answers = [
        say(visitor, link, shot=read_shot.pk, frame=0, name="Kettle", text="x").status_code,
        decide(visitor, link, shot=read_shot.pk, verdict="changes", name="Kettle").status_code,
        *(say(visitor, link, shot=read_shot.pk, frame=0, name="Kettle", text="x").status_code for _ in range(2)),
    ]
    assert answers == [200, 200, 200, 503]
    assert Remark.objects.count() == 2
    # Looking is not counted, nor is anybody else.
    assert visitor.get(link).status_code == 200
    assert say(Client(), link, shot=read_shot.pk, frame=0, name="Kettle", text="x").status_code == 200
