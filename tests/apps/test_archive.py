"""Shots and productions that were put away: out of every list, brought back whole, gone after 30 days."""

from datetime import timedelta

import pytest
from django.utils import timezone

from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.tasks import do_job
from tinfork.apps.produce.actions import add_shot
from tinfork.apps.produce.archive import delete_old, put_away
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.sound.models import Take


def text(client, address):
    return client.get(address).content.decode()


def test_a_shot_that_is_put_away_leaves_every_list_and_comes_back_whole(client, read_shot, production):
    before = Soundtrack.objects.get(shot=read_shot).document
    page = client.post(f"/shots/{read_shot.pk}/archive", follow=True).content.decode()
    assert "You can restore it for 30 days" in page
    assert f"/shots/{read_shot.pk}/" not in text(client, f"/productions/{production.pk}/")
    assert "0 of 0 shots read" in text(client, "/")
    for address in ("", "desk", "handover/json", "sound"):
        assert client.get(f"/shots/{read_shot.pk}/{address}").status_code == 404
    page = text(client, "/archive")
    assert read_shot.name in page
    assert "30 days" in page
    client.post(f"/archive/shots/{read_shot.pk}", {"do": "back"})
    assert client.get(f"/shots/{read_shot.pk}/desk").status_code == 200
    assert Soundtrack.objects.get(shot=read_shot).document == before
    assert "The archive is empty" in text(client, "/archive")


def test_its_name_can_be_used_meanwhile_and_it_comes_back_under_another(client, shot, production):
    put_away(shot)
    add_shot(production=production, name=shot.name, character=shot.character)
    client.post(f"/archive/shots/{shot.pk}", {"do": "back"})
    assert sorted(production.shots.values_list("name", flat=True)) == [shot.name, f"{shot.name} (2)"]


def test_a_production_goes_and_comes_with_its_shots(client, read_shot, production):
    client.post(f"/productions/{production.pk}/archive")
    assert (
        production.name not in text(client, "/").replace("is in the archive", "").split("<main")[1].split("Archive")[1]
    )
    for address in (f"/productions/{production.pk}/", f"/shots/{read_shot.pk}/desk"):
        assert client.get(address).status_code == 404
    # Its shots are not listed beside it: they come back with it.
    assert text(client, "/archive").count("Restore") == 1
    client.post(f"/archive/productions/{production.pk}", {"do": "back"})
    assert client.get(f"/shots/{read_shot.pk}/desk").status_code == 200


def test_its_takes_say_where_they_are_and_no_other_shot_speaks_of_it(client, read_shot, production):
    take = production.takes.get()
    assert "020" in text(client, f"/takes/{take.pk}/")
    put_away(read_shot)
    assert f"/shots/{read_shot.pk}/" not in text(client, f"/takes/{take.pk}/")
    said = client.post(f"/takes/{take.pk}/delete", follow=True).content.decode()
    assert "020 The counter (in the archive)" in said
    other = add_shot(production=production, name="030", character=read_shot.character)
    assert client.get(f"/shots/{other.pk}/alike", {"was": "tram", "now": "Trammel"}).json()["places"] == 0


def test_what_works_on_it_is_cancelled_and_a_recording_that_is_being_opened_is_kept(start_read, shot, production):
    start_read()
    put_away(shot)
    assert Job.objects.get(kind="read").state == "cancelled"
    opening = Job.objects.get(kind="take")
    do_job(str(opening.pk))
    assert production.takes.count() == 1


def test_after_30_days_it_is_gone_and_the_rest_is_not(read_shot, production, studio):
    other = Production.objects.create(studio=studio, name="Toad Songs")
    put_away(production)
    assert delete_old(timezone.now() + timedelta(days=29)) == 0
    assert delete_old(timezone.now() + timedelta(days=31)) == 1
    assert list(Production.everything.all()) == [other]
    assert not Shot.everything.exists()
    assert not Take.objects.exists()


def test_it_can_be_deleted_for_good_at_once_but_only_from_the_archive(client, read_shot, production):
    assert client.post(f"/archive/shots/{read_shot.pk}", {"do": "delete"}).status_code == 404
    put_away(read_shot)
    client.post(f"/archive/shots/{read_shot.pk}", {"do": "delete"})
    assert not Shot.everything.filter(pk=read_shot.pk).exists()
    assert production.takes.count() == 1


@pytest.mark.parametrize("what", ["shots", "productions"])
def test_who_may_not_change_it_neither_puts_away_nor_brings_back(viewer, stranger, shot, production, what):
    item = {"shots": shot, "productions": production}[what]
    assert viewer.post(f"/{what}/{item.pk}/archive").status_code == 403
    assert stranger.post(f"/{what}/{item.pk}/archive").status_code == 404
    put_away(item)
    assert viewer.post(f"/archive/{what}/{item.pk}", {"do": "back"}).status_code == 403
    assert stranger.post(f"/archive/{what}/{item.pk}", {"do": "back"}).status_code == 404
    assert item.name not in text(stranger, "/archive")
    assert "Restore" not in text(viewer, "/archive")
    assert item.name in text(viewer, "/archive")
