import pytest

from tinfork.apps.produce.models import Production
from tinfork.core.clock import STANDARD_RATES


@pytest.mark.parametrize("rate", STANDARD_RATES)
def test_a_production_keeps_its_rate_exactly(client, studio, rate):
    answer = client.post("/productions/new", {"name": rate, "rate": rate, "size": "1920x1080"})
    assert answer.status_code == 302
    assert Production.objects.get().rate.value == STANDARD_RATES[rate]


@pytest.mark.parametrize("fields", [{"name": ""}, {"rate": "17"}, {"size": "9x9"}, {"name": "x" * 121}])
def test_what_is_no_production_is_refused(client, studio, fields):
    answer = client.post("/productions/new", {"name": "Film", "rate": "24", "size": "1920x1080", **fields})
    assert answer.status_code == 422
    assert not Production.objects.exists()


def test_a_name_is_used_once(client, production, shot):
    fields = {"name": production.name, "rate": "24", "size": "1920x1080"}
    assert "exists already" in client.post("/productions/new", fields).content.decode()
    again = {"name": shot.name, "character": shot.character.pk, "first_frame": 1}
    assert "already" in client.post(f"/productions/{production.pk}/", again).content.decode()


def test_the_newest_production_comes_first(client, studio):
    for name in ("Second Bell", "Ash Wednesday", "Moth", "Crumbs"):
        client.post("/productions/new", {"name": name, "rate": "24", "size": "1920x1080"})
    Production.objects.get(name="Moth").save()
    listed = [one.name for one in client.get("/").context["productions"]]
    assert listed == ["Crumbs", "Moth", "Ash Wednesday", "Second Bell"]


def test_the_shot_list_says_how_far_each_shot_is(client, production, shot, start_read, work):
    page = f"/productions/{production.pk}/"
    assert "needs sound" in client.get(page).content.decode()
    start_read()
    assert f'aria-label="Reading {shot.name}"' in client.get(page).content.decode()
    work()
    assert "<td>read</td>" in client.get(page).content.decode()


def test_an_unread_shots_desk_leads_to_its_words(client, shot):
    assert client.get(f"/shots/{shot.pk}/desk")["Location"] == f"/shots/{shot.pk}/"


def test_the_list_of_shots_costs_the_same_queries_for_one_or_many(
    client, production, shot, django_assert_max_num_queries
):
    from tinfork.apps.produce.actions import add_shot

    for number in range(20):
        add_shot(production=production, name=f"{number}", character=shot.character)
    with django_assert_max_num_queries(16):
        client.get(f"/productions/{production.pk}/")


def test_a_productions_language_is_that_of_its_new_shots_and_of_what_is_dropped(client, production, studio, character):
    fields = {"name": production.name, "rate": "24", "size": "320x180", "language": "es"}
    assert client.post(f"/productions/{production.pk}/edit", fields).status_code == 302
    page = client.get(f"/productions/{production.pk}/").content.decode()
    chosen = page.split('name="spoken"')[1].split("</select>")[0]
    assert '<option value="es" selected>' in chosen
    client.post(f"/productions/{production.pk}/", {"name": "050", "character": character.pk, "first_frame": 1})
    assert production.shots.get(name="050").language == "es"
    client.post(f"/productions/{production.pk}/edit", fields | {"language": "klingonish"})
    production.refresh_from_db()
    assert production.language == "es"
