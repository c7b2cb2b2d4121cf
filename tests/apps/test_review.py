"""Review links: who may open them, what is said through them, what comes back to the Desk."""

import json
import re
import subprocess
from datetime import timedelta

import numpy as np
import pytest
from django.test import Client
from django.utils import timezone
from PIL import Image

from tests.apps.reviewing import decide, made, say
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.models import Soundtrack, Version
from tinfork.apps.review.links import MAX_LINKS
from tinfork.apps.review.models import Comparison, Decision, Remark, ReviewLink


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
