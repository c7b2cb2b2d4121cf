from django.test import Client
from django.urls import get_resolver

from tinfork.apps.cast.models import Drawing
from tinfork.apps.jobs.models import Job

PUBLIC = {"healthy"}


def addresses(shot):
    """Every address of ours with things of one studio in it."""
    drawing = Drawing.objects.filter(character=shot.character).first()
    job = Job.objects.filter(shot=shot).first()
    return {
        "production": f"/productions/{shot.production.pk}/",
        "shot": f"/shots/{shot.pk}/",
        "desk": f"/shots/{shot.pk}/desk",
        "handover": f"/shots/{shot.pk}/handover",
        "sheet_csv": f"/shots/{shot.pk}/sheet.csv",
        "reading_json": f"/shots/{shot.pk}/reading.json",
        "take_sound": f"/takes/{shot.take.pk}/sound",
        "take_peaks": f"/takes/{shot.take.pk}/peaks/0",
        "face": f"/cast/{shot.character.pk}/face",
        "drawing_picture": f"/cast/drawings/{drawing.pk}/picture",
        "job": f"/jobs/{job.pk}/",
    }


CHANGES = {"shot_read", "pictures", "job_cancel"}
OWN = {"productions", "production_new", "cast", "jobs", "job_result"}


def test_every_address_of_ours_is_covered_here(read_shot):
    ours = {
        p.name
        for r in get_resolver().url_patterns
        for p in getattr(r, "url_patterns", [])
        if "tinfork" in p.callback.__module__
    }
    assert ours == set(addresses(read_shot)) | CHANGES | OWN | PUBLIC


def test_members_reach_their_things_strangers_find_nothing_and_nobody_reads_without_a_session(
    read_shot, client, stranger
):
    for name, address in addresses(read_shot).items():
        assert client.get(address).status_code == 200, name
        assert stranger.get(address).status_code == 404, name
        answer = Client().get(address)
        assert answer.status_code == 302, name
        assert answer["Location"].startswith("/account/login/"), name


def test_a_stranger_cannot_change_anything(read_shot, stranger):
    job = Job.objects.filter(shot=read_shot).first()
    for address in (f"/shots/{read_shot.pk}/read", f"/shots/{read_shot.pk}/pictures", f"/jobs/{job.pk}/cancel"):
        assert stranger.post(address).status_code == 404


def test_a_viewer_sees_but_does_not_change(read_shot, viewer):
    assert viewer.get(f"/shots/{read_shot.pk}/desk").status_code == 200
    for address in (
        f"/shots/{read_shot.pk}/read",
        f"/shots/{read_shot.pk}/pictures",
        f"/productions/{read_shot.production.pk}/",
    ):
        assert viewer.post(address, {"name": "x"}).status_code == 403


def test_a_production_of_another_studio_cannot_take_its_character(production, stranger, client, studio):
    from tinfork.apps.cast.models import Character

    foreign = Character.objects.exclude(studio=studio).first()
    answer = client.post(f"/productions/{production.pk}/", {"name": "030", "character": foreign.pk, "first_frame": 1})
    assert answer.status_code == 422


def test_signing_up_makes_an_account_a_studio_and_its_first_characters(db):
    visitor = Client()
    answer = visitor.post(
        "/account/signup/", {"email": "new@tinfork.example", "password1": "loaf-before-tram-9", "studio": "New Bakery"}
    )
    assert answer.status_code == 302, answer.content.decode()
    page = visitor.get("/cast/").content.decode()
    assert "Odalys" in page
    assert "Brindle" in page


def test_pages_carry_a_policy_without_unsafe_parts(client, studio):
    policy = client.get("/")["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "unsafe" not in policy
