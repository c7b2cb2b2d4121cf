"""A page that waits for a job shows the job or what it made, whenever the job ends while the page is made."""

import pytest
from django.db import connection, transaction

from tests.apps.conftest import upload
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reference.models import Reference
from tinfork.apps.sound.models import Take
from tools.demo.stand_in_face import SHIPPED


@pytest.fixture
def pages(client):
    """The pages at an address with a job that ends after the first query of the page, after its second, and so on."""

    def each(address, end):
        shown, after = [], 0
        while True:
            after += 1
            asked = []

            def ask(execute, *query, asked=asked, after=after):
                result = execute(*query)
                asked.append(query)
                if len(asked) == after:
                    end()
                return result

            with transaction.atomic():
                with connection.execute_wrapper(ask):
                    page = client.get(address)
                transaction.set_rollback(True)
            assert page.status_code == 200
            if len(asked) < after:
                return shown
            shown.append(page.content.decode())

    return each


def ended(kind):
    Job.objects.filter(kind=kind).update(state=Job.State.DONE)


@pytest.fixture
def film(client, read_shot, do_jobs, django_capture_on_commit_callbacks):
    """A film beside the shot, opened; its face is to be followed."""
    with django_capture_on_commit_callbacks(execute=True):
        client.post(f"/shots/{read_shot.pk}/reference", {"film": upload("me.webm", SHIPPED.read_bytes())})
        assert do_jobs().state == "done"
    client.post(f"/shots/{read_shot.pk}/reference/follow")
    return Reference.objects.get()


def test_the_panel_of_a_film_shows_that_its_face_is_followed_or_what_was_found(film, pages, do_jobs):
    assert do_jobs().state == "done"
    followed = Reference.objects.values("face", "notes").get()
    Reference.objects.update(face="")
    Job.objects.filter(kind=Job.Kind.FACES).update(state=Job.State.RUNNING)

    def end():
        Reference.objects.update(**followed)
        ended(Job.Kind.FACES)

    shown = pages(f"/shots/{film.shot_id}/reference", end)
    assert len(shown) > 5
    assert {"A face on" in page for page in shown} == {True, False}
    assert all("A face on" in page or 'hx-trigger="every 700ms"' in page for page in shown)


@pytest.fixture
def end(read_shot):
    """The shot is being read; what ends that."""
    Soundtrack.objects.update(is_read=False)
    Job.objects.filter(kind=Job.Kind.READ).update(state=Job.State.RUNNING)

    def end():
        Soundtrack.objects.update(is_read=True)
        ended(Job.Kind.READ)

    return end


def test_the_list_of_shots_shows_that_a_shot_is_read_or_that_it_was(read_shot, pages, end):
    shown = pages(f"/productions/{read_shot.production_id}/shots", end)
    assert {'hx-trigger="every 1s"' in page for page in shown} == {True, False}
    assert all(f"/shots/{read_shot.pk}/desk" in page or 'hx-trigger="every 1s"' in page for page in shown)


def test_the_page_of_a_shot_shows_that_it_is_read_or_leads_to_the_desk(read_shot, pages, end):
    shown = pages(f"/shots/{read_shot.pk}/", end)
    assert {'hx-trigger="every 500ms"' in page for page in shown} == {True, False}
    assert all("Open Desk" in page or 'hx-trigger="every 500ms"' in page for page in shown)


def test_the_list_of_characters_shows_that_one_arrives_or_that_it_did(studio, character, pages):
    job = Job.objects.create(kind=Job.Kind.IMPORT, studio=studio, state=Job.State.RUNNING, lock="import")

    def end():
        character.name = "Just arrived"
        character.save()
        ended(Job.Kind.IMPORT)

    shown = pages("/cast/", end)
    assert {f"/jobs/{job.pk}" in page for page in shown} == {True, False}
    assert all("Just arrived" in page or 'hx-trigger="every 500ms"' in page for page in shown)


def test_the_page_of_a_character_shows_that_its_face_is_opened_or_the_character_after_it(studio, character, pages):
    job = Job.objects.create(
        kind=Job.Kind.FACE, studio=studio, character=character, state=Job.State.RUNNING, lock="face"
    )

    def end():
        character.name = "With a face"
        character.save()
        ended(Job.Kind.FACE)

    shown = pages(f"/cast/{character.pk}/edit", end)
    assert {f"/jobs/{job.pk}" in page for page in shown} == {True, False}
    assert all("With a face" in page or 'hx-trigger="every 500ms"' in page for page in shown)


@pytest.mark.parametrize("where", ["", "place", "check"])
def test_the_pages_of_a_chart_show_that_drawings_arrive_or_what_arrived(studio, chart, pages, where):
    job = Job.objects.create(
        kind=Job.Kind.DRAWINGS,
        studio=studio,
        character=chart.character,
        options={"chart": chart.pk},
        state=Job.State.RUNNING,
        lock="drawings",
    )

    def end():
        chart.name = "Just arrived"
        chart.save()
        chart.drawings.update(name="Just arrived")
        ended(Job.Kind.DRAWINGS)

    shown = pages(f"/cast/charts/{chart.pk}/{where}", end)
    assert {f"/jobs/{job.pk}" in page for page in shown} == {True, False}
    assert all("Just arrived" in page or 'hx-trigger="every 500ms"' in page for page in shown)


def test_the_page_of_the_sound_shows_that_voices_are_told_apart_or_who_speaks(read_shot, pages):
    job = Job.objects.create(
        kind=Job.Kind.VOICES, studio=read_shot.production.studio, shot=read_shot, state=Job.State.RUNNING, lock="voices"
    )

    def end():
        Soundtrack.objects.update(proposal={"spans": [{"who": 0, "start": 0, "end": 1_000_000}], "guess": {}})
        ended(Job.Kind.VOICES)

    shown = pages(f"/shots/{read_shot.pk}/sound", end)
    assert {f"/jobs/{job.pk}" in page for page in shown} == {True, False}
    assert all("1 voice heard" in page or 'hx-trigger="every 500ms"' in page for page in shown)


def test_the_page_of_a_take_shows_that_it_is_opened_or_its_sound(read_shot, pages):
    take = Take.objects.get()
    opened = take.listening.name
    Take.objects.update(listening="")
    Job.objects.filter(kind=Job.Kind.TAKE).update(state=Job.State.RUNNING)

    def end():
        Take.objects.update(listening=opened)
        ended(Job.Kind.TAKE)

    shown = pages(f"/takes/{take.pk}/", end)
    assert {"take-wave" in page for page in shown} == {True, False}
    assert all("take-wave" in page or 'hx-trigger="every 500ms"' in page for page in shown)
