"""Mouths fixed by hand and second looks: kept, undone, surviving what happens to the shot."""

import pytest

from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import solve_character
from tinfork.core.solver.problem import NO_MOUTH


def edit(client, shot, name, revision=None, **parameters):
    revision = Soundtrack.objects.get(shot=shot).revision if revision is None else revision
    body = {"revision": revision, "name": name, "parameters": parameters}
    return client.post(f"/shots/{shot.pk}/mouths", body, content_type="application/json")


def pin(client, shot, first, last, drawing=3, **more):
    return edit(client, shot, "pin", speaker=str(shot.character.pk), first=first, last=last, drawing=drawing, **more)


def shown(shot, frame):
    fresh = type(shot).objects.get(pk=shot.pk)
    holds = solve_character(fresh, fresh.character, Soundtrack.objects.get(shot=shot).reading)
    return next(h for h in holds if h.start <= frame < h.end)


def test_a_pinned_mouth_is_shown_on_exactly_its_frames(client, read_shot):
    answer = pin(client, read_shot, 20, 25).json()["document"]
    (found,) = answer["characters"][str(read_shot.character.pk)]["pins"]
    assert (found["start"], found["end"], found["exact"]) == (20, 26, True)
    assert {shown(read_shot, f).drawing for f in range(20, 26)} == {3}
    pin(client, read_shot, 30, 33, NO_MOUTH)
    assert shown(read_shot, 31).drawing == NO_MOUTH
    rows = client.get(f"/shots/{read_shot.pk}/sheet.csv").content.decode().splitlines()
    assert rows[1 + 31].split(",")[2] == ""


def test_pins_are_undone_and_made_again(client, read_shot):
    before = shown(read_shot, 22)
    pin(client, read_shot, 20, 25, 9)
    assert edit(client, read_shot, "undo").json()["document"]["canRedo"] is True
    assert shown(read_shot, 22) == before
    edit(client, read_shot, "redo")
    assert shown(read_shot, 22).drawing == 9


def test_pins_survive_a_new_reading_a_new_rate_and_new_dials(client, production, read_shot, start_read, work):
    pin(client, read_shot, 24, 29, 9)
    start_read("none", words="The last tram leaves", given={"everything": "on"})
    assert work().state == "done"
    assert {shown(read_shot, f).drawing for f in range(24, 30)} == {9}
    production.rate_numerator = 12
    production.save()
    assert {shown(read_shot, f).drawing for f in range(12, 15)} == {9}
    client.post(
        f"/shots/{read_shot.pk}/dials", {"character": read_shot.character.pk, "do": "preset", "name": "few accents"}
    )
    assert shown(read_shot, 13).drawing == 9


def test_a_pin_whose_drawing_is_gone_is_a_second_look_and_shows_nothing_else_instead(client, read_shot):
    chart = read_shot.character.mouth.charts.get()
    pin(client, read_shot, 20, 25, 9)
    chart.drawings.get(number=9).delete()
    looks = client.get(f"/shots/{read_shot.pk}/desk").context["document"]["looks"]
    assert looks[0]["kind"] == "pin"
    assert "pinned here, is gone" in looks[0]["text"]


def test_a_stale_page_is_told_so_with_what_is_now(client, read_shot):
    revision = Soundtrack.objects.get(shot=read_shot).revision
    pin(client, read_shot, 20, 25)
    answer = edit(client, read_shot, "pin", revision, speaker=str(read_shot.character.pk), first=1, last=2, drawing=3)
    assert answer.status_code == 409
    assert len(answer.json()["document"]["characters"][str(read_shot.character.pk)]["pins"]) == 1


@pytest.mark.parametrize(
    ("name", "parameters"),
    [
        ("pin", {"first": 5, "last": 2, "drawing": 3}),
        ("pin", {"first": -1, "last": 2, "drawing": 3}),
        ("pin", {"first": 1, "last": 10**9, "drawing": 3}),
        ("pin", {"first": 1, "last": 2, "drawing": "many"}),
        ("pin_trim", {"pin": -77, "first": 1, "last": 2}),
        ("unpin", {"pin": 5}),
        ("unpin", {}),
    ],
)
def test_nonsense_pins_are_refused(client, read_shot, name, parameters):
    answer = edit(client, read_shot, name, speaker=str(read_shot.character.pk), **parameters)
    assert answer.status_code == 422
    assert answer.json()["error"]


def test_a_second_look_is_settled_until_its_cause_changes(client, read_shot, start_read, work):
    start_read("none", words="The purple tram leaves the depot before midnight.")
    assert work().state == "done"
    looks = client.get(f"/shots/{read_shot.pk}/desk").context["document"]["looks"]
    assert looks
    assert not any(look["settled"] for look in looks)
    address = f"/shots/{read_shot.pk}/looks/settle"
    answer = client.post(address, {"key": looks[0]["key"]}).json()["looks"]
    assert [look["settled"] for look in answer if look["key"] == looks[0]["key"]] == [True]
    assert sum(look["settled"] for look in answer) == 1
    opened = client.post(address, {"key": looks[0]["key"], "open": "1"}).json()["looks"]
    assert not any(look["settled"] for look in opened)
    assert client.post(address, {"key": "../../etc"}).status_code == 422
