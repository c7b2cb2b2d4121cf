"""Review links: who may open them, what is said through them, what comes back to the Desk."""

import json
import subprocess
from datetime import timedelta

import pytest
from django.test import Client
from django.utils import timezone

from tinfork.apps.reading.looks import looks_of
from tinfork.apps.reading.models import Version
from tinfork.apps.review.links import MAX_LINKS
from tinfork.apps.review.models import Decision, Remark, ReviewLink
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
