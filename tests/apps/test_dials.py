"""Dials of a character in a shot: turned, named, made usual; the mouths follow at once."""

import pytest

from tinfork.apps.produce.models import Production, ShotCharacter


def turn(client, shot, do="turn", **values):
    return client.post(f"/shots/{shot.pk}/dials", {"character": shot.character.pk, "do": do, **values})


def starts(answer):
    return [hold["start"] for hold in answer.json()["holds"]]


def test_turning_a_dial_answers_with_the_mouths_that_come_of_it(client, read_shot):
    usual = turn(client, read_shot, lead=1)
    later = turn(client, read_shot, lead=0)
    assert later.json()["dials"]["lead"] == 0
    assert sum(later.json()["dials"][k] == usual.json()["dials"][k] for k in usual.json()["dials"]) == 6
    assert starts(later)[1] > starts(usual)[1]
    few = turn(client, read_shot, detail=0).json()
    assert len(few["holds"]) < len(later.json()["holds"])
    assert few["dials"]["lead"] == 0
    assert few["numbers"]["changes"] < later.json()["numbers"]["changes"]


def test_holds_on_threes_are_three_frames_long(client, read_shot):
    answer = turn(client, read_shot, "preset", name="sparse, on threes").json()
    assert answer["numbers"]["shortest"] >= 3
    assert answer["dials"]["shortest"] == 3


def test_a_flap_moves_with_the_loudness_and_is_the_same_each_time(client, read_shot):
    first = turn(client, read_shot, "preset", name="flap").json()
    assert first["dials"]["by_loudness"] is True
    again = turn(client, read_shot, lead=0).json()
    assert again["holds"] == first["holds"]
    assert len(first["holds"]) > 5


def test_dials_are_the_productions_again_or_everyones(client, production, read_shot):
    turn(client, read_shot, lead=3)
    assert turn(client, read_shot, "default").json()["dials"]["lead"] == 3
    assert Production.objects.get(pk=production.pk).dials["lead"] == 3
    assert ShotCharacter.objects.get(shot=read_shot).dials == {}
    turn(client, read_shot, lead=0)
    assert turn(client, read_shot, "usual").json()["dials"]["lead"] == 3


def test_dials_are_kept_by_name_and_used_by_it(client, read_shot):
    turn(client, read_shot, shortest=4)
    answer = turn(client, read_shot, "keep", name="  night   bakery ").json()
    assert "night bakery" in answer["presets"]
    turn(client, read_shot, "usual")
    assert turn(client, read_shot, "preset", name="night bakery").json()["dials"]["shortest"] == 4


@pytest.mark.parametrize(
    ("do", "values", "said"),
    [
        ("turn", {"lead": "99"}, "lead goes from 0 to 12"),
        ("turn", {"lead": "-1"}, "lead goes from 0 to 12"),
        ("turn", {"lead": "fast"}, "whole number"),
        ("turn", {"detail": "1e3"}, "whole number"),
        ("preset", {"name": "none such"}, "no dials called"),
        ("keep", {"name": " "}, "a name of their own"),
        ("keep", {"name": "on twos"}, "a name of their own"),
        ("nonsense", {}, "not in this shot"),
    ],
)
def test_nonsense_is_refused_and_changes_nothing(client, read_shot, do, values, said):
    answer = turn(client, read_shot, do, **values)
    assert answer.status_code == 422
    assert said in answer.json()["error"]
    assert ShotCharacter.objects.get(shot=read_shot).dials == {}


def test_why_a_mouth_is_shown_is_said(client, read_shot):
    address = f"/shots/{read_shot.pk}/why?character={read_shot.character.pk}&frame="
    answer = client.get(address + "12").json()
    assert answer["text"].startswith(("Shows", "Stands"))
    assert len(answer["others"]) == 3
    assert client.get(address + "99999").status_code == 200
    assert client.get(address + "x").status_code == 422
    assert client.get(f"/shots/{read_shot.pk}/why?character=0&frame=1").status_code == 422
