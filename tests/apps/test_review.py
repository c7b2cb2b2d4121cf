"""Review links: who may open them, what is said through them, what comes back to the Desk."""

import io
import json
import re
import subprocess
from datetime import timedelta

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tests.apps.test_people import member
from tinfork.apps.desk.models import Presence
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.looks import looks_of
from tinfork.apps.reading.models import Soundtrack, Version
from tinfork.apps.review.drawings import read_drawing
from tinfork.apps.review.links import MAX_LINKS
from tinfork.apps.review.models import Comparison, Decision, Remark, ReviewLink
from tinfork.apps.review.remarks import remarks_document
from tinfork.core.errors import TimingError
from tinfork.core.solver.looks import REMARK


def made(client, shot, **more):
    """A review link's path, as it is told when it is made."""
    sent = {"shots": [shot.pk], "for_whom": "Ms Kettle", "days": "14", "password": "", **more}
    answer = client.post(f"/productions/{shot.production.pk}/reviews/new", sent)
    assert answer.status_code == 200, answer.content.decode()[-2000:]
    return "/review/" + answer.content.decode().split("/review/")[1].split("/")[0] + "/"


def say(visitor, link, **told):
    return visitor.post(f"{link}remarks", json.dumps(told), content_type="application/json")


def decide(visitor, link, **told):
    return visitor.post(f"{link}decide", json.dumps(told), content_type="application/json")


def test_a_link_plays_a_film_of_the_shots_as_they_were(client, read_shot, do_jobs, tmp_path):
    link = made(client, read_shot)
    assert "being made" in Client().get(link).content.decode()
    assert do_jobs().error == ""
    row = ReviewLink.objects.get()
    visitor = Client()
    page = visitor.get(link).content.decode()
    assert "for Ms Kettle" in page
    assert "being made" not in page
    film = visitor.get(f"{link}film")
    (tmp_path / "film.mp4").write_bytes(b"".join(film.streaming_content))
    asked = [
        "ffprobe",
        "-v",
        "error",
        "-count_frames",
        "-show_entries",
        "stream=codec_type,nb_read_frames",
        "-of",
        "json",
    ]
    told = json.loads(subprocess.run([*asked, str(tmp_path / "film.mp4")], capture_output=True, check=True).stdout)
    (picture,) = (s for s in told["streams"] if s["codec_type"] == "video")
    assert any(s["codec_type"] == "audio" for s in told["streams"])
    reviewed = row.reviewed.get()
    assert int(picture["nb_read_frames"]) == reviewed.frames
    # A player asks for parts.
    part = visitor.get(f"{link}film", headers={"Range": "bytes=0-99"})
    assert (part.status_code, part["Content-Length"]) == (206, "100")
    # What is shown was kept, and can be returned to.
    assert reviewed.version == Version.objects.get(soundtrack__shot=read_shot)
    row.refresh_from_db()
    assert row.openings == 2
    assert row.digest not in link


def test_nothing_of_the_studio_is_behind_a_link(client, read_shot):
    link = made(client, read_shot)
    page = Client().get(link).content.decode()
    assert "odalys@tinfork.example" not in page
    for name in ("productions", "shots", "cast", "takes"):
        assert f"/{name}/" not in page


@pytest.mark.parametrize("end", ["withdrawn", "ended", "put away", "bent"])
def test_a_link_that_is_over_opens_nothing_at_once(client, read_shot, end):
    link = made(client, read_shot)
    visitor = Client()
    assert visitor.get(link).status_code == 200
    row = ReviewLink.objects.get()
    match end:
        case "withdrawn":
            assert client.post(f"/reviews/{row.pk}/withdraw").status_code == 302
        case "ended":
            ReviewLink.objects.update(ends_at=timezone.now() - timedelta(seconds=1))
        case "put away":
            type(read_shot.production).everything.update(archived_at=timezone.now())
        case _:
            link = link[:-3] + "xx/"
    assert visitor.get(link).status_code == 404
    assert "does not open any more" in visitor.get(link).content.decode()
    assert visitor.get(f"{link}film").status_code == 404
    assert say(visitor, link, shot=read_shot.pk, frame=0, name="Kettle", text="x").status_code == 404
    assert decide(visitor, link, shot=read_shot.pk, verdict="approved", name="Kettle").status_code == 404
    assert not Remark.objects.exists()
    assert not Decision.objects.exists()


def test_a_password_is_asked_before_anything_and_guessing_is_stopped(client, read_shot):
    link = made(client, read_shot, password="last loaf")
    visitor = Client()
    assert 'type="password"' in visitor.get(link).content.decode()
    for address in ("film", "remarks"):
        assert visitor.get(link + address).status_code == 404
    assert "not the password" in visitor.post(link, {"password": "first loaf"}).content.decode()
    assert visitor.post(link, {"password": "last loaf"}).status_code == 302
    assert "review-document" in visitor.get(link).content.decode()
    assert visitor.get(f"{link}remarks").status_code == 200
    guesser = Client()
    for _ in range(10):
        guesser.post(link, {"password": "x"})
    # The right one is not taken either for a while, of whoever has not said it yet.
    assert "Too many wrong passwords" in guesser.post(link, {"password": "last loaf"}).content.decode()
    assert visitor.get(link).status_code == 200
    assert "last loaf" not in ReviewLink.objects.get().password


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


def test_a_decision_is_about_a_version_and_a_later_edit_says_so(client, read_shot):
    link = made(client, read_shot)
    visitor = Client()
    assert decide(visitor, link, shot=read_shot.pk, verdict="changes", name="Kettle").json() == {"verdict": "changes"}
    assert decide(visitor, link, shot=read_shot.pk, verdict="approved", name="Kettle").json() == {"verdict": "approved"}
    page = client.get(f"/shots/{read_shot.pk}/remarks").content.decode()
    assert page.index("Approved") < page.index("Changes requested")
    assert "was changed since" not in page
    assert "version “Review" in page
    revision = read_shot.soundtrack.revision
    edit = {"revision": revision, "shown": revision, "name": "note", "parameters": {"frame": 2, "text": "x"}}
    assert (
        client.post(f"/shots/{read_shot.pk}/mouths", json.dumps(edit), content_type="application/json").status_code
        == 200
    )
    assert "was changed since" in client.get(f"/shots/{read_shot.pk}/remarks").content.decode()
    links = client.get(f"/productions/{read_shot.production.pk}/reviews").content.decode()
    assert "Approved, Kettle" in links


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


@pytest.mark.parametrize("told", [{"verdict": "perhaps"}, {"verdict": ""}, {"name": ""}])
def test_what_is_no_decision_is_refused(client, read_shot, told):
    link = made(client, read_shot)
    answer = decide(Client(), link, **{"shot": read_shot.pk, "verdict": "approved", "name": "K", **told})
    assert answer.status_code == 422
    assert answer.json()["error"]
    assert not Decision.objects.exists()


def test_a_link_needs_a_shot_that_is_read_and_there_is_an_end_to_links(client, read_shot, shot):
    new = f"/productions/{read_shot.production.pk}/reviews/new"
    assert client.post(new, {"shots": [], "days": "14"}).status_code == 422
    rows = [ReviewLink(production=read_shot.production, digest=str(n)) for n in range(MAX_LINKS)]
    ReviewLink.objects.bulk_create(rows)
    answer = client.post(new, {"shots": [read_shot.pk], "days": "14"})
    assert answer.status_code == 422
    assert "Withdraw one first" in answer.content.decode()
    assert ReviewLink.objects.count() == MAX_LINKS


def test_what_belongs_to_another_studio_is_not_there(client, stranger, read_shot):
    made(client, read_shot)
    row = ReviewLink.objects.get()
    for address in (f"/productions/{read_shot.production.pk}/reviews", f"/shots/{read_shot.pk}/remarks"):
        assert stranger.get(address).status_code == 404
    assert stranger.post(f"/reviews/{row.pk}/withdraw").status_code == 404
    assert stranger.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "x"}).status_code == 404
    row.refresh_from_db()
    assert row.is_open


ARROW = {"kind": "arrow", "points": [[0.7, 0.2], [0.45, 0.6]]}


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


def test_a_members_decision_keeps_a_version_that_stays(client, read_shot, user, viewer):
    address = f"/shots/{read_shot.pk}/decide"
    assert viewer.post(address, {"verdict": "approved"}).status_code == 403
    assert client.post(address, {"verdict": "maybe"}).status_code == 422
    assert client.post(address, {"verdict": "approved"}).status_code == 302
    read_shot.refresh_from_db()
    assert read_shot.status == "approved"
    decision = Decision.objects.get()
    assert (decision.by, decision.version.name) == (user, "Approved 1")
    deleted = client.post(f"/shots/{read_shot.pk}/versions/{decision.version.pk}", {"what": "delete"})
    assert deleted.status_code == 422
    assert Version.objects.filter(pk=decision.version.pk).exists()
    client.post(address, {"verdict": "changes"})
    read_shot.refresh_from_db()
    assert read_shot.status == "changes"


def test_links_and_decisions_move_a_shot_along(client, read_shot):
    link = made(client, read_shot)
    read_shot.refresh_from_db()
    assert read_shot.status == "to_review"
    decide(Client(), link, shot=read_shot.pk, verdict="approved", name="Kettle")
    read_shot.refresh_from_db()
    assert read_shot.status == "approved"


def note(client, shot):
    revision = Soundtrack.objects.get(shot=shot).revision
    body = {"revision": revision, "name": "note", "parameters": {"frame": 1, "text": f"after {revision}"}}
    assert client.post(f"/shots/{shot.pk}/mouths", json.dumps(body), content_type="application/json").status_code == 200


def test_a_link_shows_what_was_there_and_an_always_newest_one_what_is(client, read_shot, do_jobs):
    fixed = made(client, read_shot)
    do_jobs()
    newest = made(client, read_shot, is_newest="on", for_whom="Newest")
    do_jobs()
    first, second = ReviewLink.objects.order_by("pk")
    # Nothing was changed in between: it is the same version.
    assert first.reviewed.get().version == second.reviewed.get().version
    before = second.film.name
    note(client, read_shot)
    visitor = Client()
    assert "A newer film" not in visitor.get(fixed).content.decode()
    assert "A newer film is being made" in visitor.get(newest).content.decode()
    # Until it is made, the link shows what it has, as what it is.
    assert second.reviewed.get().revision == first.reviewed.get().revision
    assert do_jobs().error == ""
    assert "A newer film" not in visitor.get(newest).content.decode()
    second.refresh_from_db()
    assert second.reviewed.get().revision == Soundtrack.objects.get(shot=read_shot).revision
    assert second.reviewed.get().version != first.reviewed.get().version
    assert before and second.film


def test_of_many_who_open_an_always_newest_link_one_has_the_film_made(client, read_shot, do_jobs):
    newest = made(client, read_shot, is_newest="on")
    do_jobs()
    note(client, read_shot)
    for _ in range(3):
        assert "A newer film is being made" in Client().get(newest).content.decode()
    jobs = Job.objects.filter(kind=Job.Kind.REVIEW)
    assert jobs.count() == 2
    # One that could not be made is not asked for again and again.
    jobs.filter(state="waiting").update(state="failed")
    assert "A newer film" not in Client().get(newest).content.decode()
    assert jobs.count() == 2
    jobs.filter(state="failed").update(created_at=timezone.now() - timedelta(minutes=11))
    assert "A newer film is being made" in Client().get(newest).content.decode()


def test_a_name_is_written_on_the_picture(client, read_shot, do_jobs, tmp_path):
    refused = client.post(
        f"/productions/{read_shot.production_id}/reviews/new",
        {"shots": [read_shot.pk], "days": "14", "burns_name": "on"},
    )
    assert refused.status_code == 422
    made(client, read_shot)
    do_jobs()
    made(client, read_shot, burns_name="on")
    do_jobs()
    plain, burnt = (last_rows(link, tmp_path) for link in ReviewLink.objects.order_by("pk"))
    assert abs(plain.astype(int) - burnt).mean() > 10


def last_rows(link, folder):
    """The lowest rows of the first frame of a link's film."""
    path, picture = folder / "film.mp4", folder / "first.png"
    path.write_bytes(link.film.read())
    asked = ["ffmpeg", "-v", "error", "-y", "-i", str(path), "-frames:v", "1", str(picture)]
    subprocess.run(asked, check=True)
    return np.asarray(Image.open(picture).convert("L"))[-20:]


def test_two_states_are_compared_in_one_film_with_the_frames_that_differ(client, read_shot, do_jobs, tmp_path):
    client.post(f"/shots/{read_shot.pk}/decide", {"verdict": "approved"})
    version = Version.objects.get()
    who = str(read_shot.character.pk)
    row = read_shot.soundtrack
    body = {
        "revision": row.revision,
        "name": "pin",
        "parameters": {"speaker": who, "first": 4, "last": 7, "drawing": -1},
    }
    pinned = client.post(f"/shots/{read_shot.pk}/mouths", json.dumps(body), content_type="application/json")
    assert pinned.status_code == 200
    page = client.post(f"/shots/{read_shot.pk}/compare", {"before": version.pk})["Location"]
    assert client.get(page).status_code == 200
    assert do_jobs().error == ""
    one = Comparison.objects.get()
    told = json.loads(re.search(r'id="comparison-document"[^>]*>(.*?)</script>', client.get(page).content.decode())[1])
    assert told["differs"] == one.differs
    # Frames 4 to 7 were pinned; what is around them may have changed with them, the far end has not.
    assert all(any(first <= frame < end for first, end in one.differs) for frame in range(4, 8))
    assert one.differs[-1][1] < one.frames - 6
    (tmp_path / "film.mp4").write_bytes(b"".join(client.get(f"{page}film").streaming_content))
    asked = ["ffmpeg", "-v", "error", "-y", "-i", str(tmp_path / "film.mp4"), str(tmp_path / "%03d.png")]
    subprocess.run(asked, check=True)
    for number, same in ((5, False), (one.frames - 1, True)):
        pixels = np.asarray(Image.open(tmp_path / f"{number + 1:03d}.png").convert("L")).astype(int)
        left, right = np.hsplit(pixels, 2)
        assert (abs(left - right).mean() < 0.5) == same, number
    # Asked for again it is the same one; with itself it does not differ.
    assert client.post(f"/shots/{read_shot.pk}/compare", {"before": version.pk})["Location"] == page
    client.post(f"/shots/{read_shot.pk}/compare", {"before": version.pk, "after": version.pk})
    do_jobs()
    assert Comparison.objects.first().differs == []
    assert client.post(f"/shots/{read_shot.pk}/compare", {"before": "x"}).status_code == 404


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
