"""The help: pages out of the guide, links from errors, the tour, and the scene to try things with."""

import re
from pathlib import Path

import pytest
from django.contrib.staticfiles import finders
from django.urls import get_resolver

from tinfork.apps.help.guide import chapters
from tinfork.apps.help.topics import _ERRORS, TROUBLE, topic_of_error, topic_of_page
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.actions import found_studio
from tinfork.apps.people.models import Membership, User
from tinfork.apps.produce.archive import put_away
from tinfork.apps.produce.models import Production
from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.messages import Message
from tinfork.core.wording import WORDING

# Pages of the help name pictures, which tests with a database find without having them collected.
pytestmark = pytest.mark.usefixtures("db")


@pytest.fixture
def studio(user):
    return found_studio(name="Kettle Lane Films", owner=user)


def test_every_chapter_is_a_page_with_its_pictures(client):
    index = client.get("/help/").content.decode()
    for slug, chapter in chapters().items():
        assert f'href="/help/{slug}"' in index
        page = client.get(f"/help/{slug}").content.decode()
        assert chapter.title in page
        # What is linked in the documents is a picture here, and is there; no link leads back into them.
        assert ".md" not in page
        assert "](" not in page
        for source in re.findall(r'<img src="/static/([^"]+)"', page):
            assert finders.find(source), source
    assert client.get("/help/no-such-chapter").status_code == 404


def test_each_page_of_the_site_has_help_that_is_there():
    names = {
        p.name
        for r in get_resolver().url_patterns
        for p in getattr(r, "url_patterns", [])
        if p.callback and "tinfork" in p.callback.__module__
    }
    assert {topic_of_page(name).partition("#")[0] for name in names} <= set(chapters())
    assert topic_of_page("desk") == "the-desk"
    assert topic_of_page("chart_board") == "characters"
    assert topic_of_page("production_edit") == "a-production-and-its-shots"


def test_what_mends_an_error_is_written_down():
    places = set(re.findall(r'<h2 id="([^"]+)"', chapters()[TROUBLE].html))
    assert set(_ERRORS.values()) <= places
    # Each place is led to by some error, but for those that are no errors.
    assert places - set(_ERRORS.values()) == {"the-mouth-moves-too-much-or-too-little"}
    areas = {code.partition(".")[0] for code in WORDING}
    assert {key.partition(".")[0] for key in _ERRORS} <= areas


@pytest.mark.parametrize(
    ("error", "place"),
    [
        (SoundError("sound.damaged", name="take.wav", kinds="WAV"), "#a-recording-cannot-be-opened"),
        (SoundError("sound.disk_full", name="take.wav"), "#a-job-failed-or-does-not-start"),
        (Message("film.no_face"), "#a-film-cannot-be-used"),
        (TinForkError("Something of the site's own."), ""),
        ("text without a code", ""),
        (None, ""),
    ],
)
def test_an_error_leads_to_what_mends_it(error, place):
    assert topic_of_error(error) == f"when-something-goes-wrong{place}"


def test_a_failed_job_and_a_refusal_link_to_their_help(client, read_shot):
    job = Job.objects.filter(shot=read_shot).first()
    Job.objects.filter(pk=job.pk).update(state=Job.State.FAILED, error=Message("listener.missing"))
    assert "/help/when-something-goes-wrong#no-words-were-heard" in client.get("/jobs/").content.decode()
    refused = client.get("/shots/999999/desk")
    assert refused.status_code == 404
    assert 'href="/help/when-something-goes-wrong"' in refused.content.decode()


def test_the_tour_goes_through_five_pages_is_left_and_gone_on_with(client, user, read_shot):
    shot, production = read_shot.pk, read_shot.production.pk
    desk, over = f"/shots/{shot}/desk", f"/shots/{shot}/handover"
    assert "Tour 1" not in client.get("/").content.decode()
    seen = []
    for step in range(1, 6):
        answer = client.post("/tour", {"step": step})
        seen.append(answer["Location"])
        assert f"Tour {step} of 5" in client.get(answer["Location"]).content.decode()
    assert seen == [f"/productions/{production}/", desk, desk, desk, over]
    # On the page of another step there is the way.
    elsewhere = client.get("/cast/").content.decode()
    assert "The next step is on another page." in elsewhere
    assert f'href="{over}"' in elsewhere
    client.post("/tour/leave")
    assert "Tour 5" not in client.get(over).content.decode()
    assert "Go on with step 5 of 5" in client.get("/help/").content.decode()
    assert client.post("/tour", {"step": 5})["Location"] == over
    assert client.post("/tour", {"step": 6})["Location"] == "/"
    user.refresh_from_db()
    assert (user.tour_step, user.has_left_tour) == (0, False)


def test_a_step_on_the_same_page_is_exchanged_there_and_another_page_is_gone_to(client, read_shot):
    desk = f"/shots/{read_shot.pk}/desk"
    asked = {"headers": {"HX-Request": "true", "HX-Current-URL": f"http://testserver{desk}"}}
    answer = client.post("/tour", {"step": 3}, **asked)
    assert "Tour 3 of 5" in answer.content.decode()
    assert "HX-Redirect" not in answer
    assert client.post("/tour", {"step": 5}, **asked)["HX-Redirect"] == f"/shots/{read_shot.pk}/handover"
    assert client.post("/tour/leave", **asked).content == b""


@pytest.mark.parametrize("step", ["", "0", "-3", "99", "two", "1e9", "²"])
def test_a_step_that_is_none_begins_the_tour(client, read_shot, step):
    answer = client.post("/tour", {"step": step})
    assert answer["Location"] == f"/productions/{read_shot.production.pk}/"


def test_an_empty_studio_makes_the_scene_and_is_led_through_it(client, studio):
    start = client.get("/").content.decode()
    assert "Try it with this scene" in start
    assert "Bring my own" in start
    answer = client.post("/sample")
    production = Production.objects.get()
    assert answer["Location"] == f"/productions/{production.pk}/"
    assert [shot.name for shot in production.shots.order_by("pk")] == [
        "010 The tram stop", "020 The counter", "030 The oven", "040 The last loaf",
    ]  # fmt: skip
    assert {c.name for shot in production.shots.all() for c in shot.characters} == {"Odalys", "Brindle", "Pim"}
    assert "Tour 1 of 5" in client.get(answer["Location"]).content.decode()
    # Once more leads to the same one.
    assert client.post("/sample")["Location"] == answer["Location"]
    assert Production.objects.count() == 1


def test_a_character_with_a_face_keeps_it_in_the_scene(client, studio):
    odalys = studio.characters.get(name="Odalys")
    client.post("/sample")
    odalys.refresh_from_db()
    face, count = odalys.face.name, odalys.mouth.charts.count()
    assert face and count == 3
    put_away(Production.objects.get())
    client.post("/sample")
    assert Production.objects.count() == 1 and Production.everything.count() == 2
    odalys.refresh_from_db()
    assert (odalys.face.name, odalys.mouth.charts.count()) == (face, count)


def test_who_may_only_look_is_offered_nothing_to_make(client, user, studio):
    Membership.objects.filter(user=user).update(role=Membership.Role.VIEWER)
    page = client.get("/").content.decode()
    assert "Try it with this scene" not in page
    assert client.post("/sample").status_code == 404
    assert not Production.objects.exists()


def test_nobody_is_on_a_tour_who_did_not_ask(client, user):
    assert User.objects.get(pk=user.pk).tour_step == 0
    assert client.post("/tour", {"step": 1})["Location"] == "/"
    # With nothing to look at there is no step.
    assert "Tour 1 of 5" not in client.get("/").content.decode()


def test_the_version_is_the_one_that_the_changelog_has_first(client):
    changelog = (Path(__file__).parents[2] / "CHANGELOG.md").read_text("utf-8")
    newest = re.search(r"^## (\S+),", changelog, re.M)[1]
    assert f"Tin Fork {newest}" in client.get("/help/").content.decode()
