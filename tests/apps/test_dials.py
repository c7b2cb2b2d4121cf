"""Dials of a character in a shot: turned, named, made usual; the mouths follow at once."""

import json

import pytest

from tests.apps.test_mouths import edit
from tinfork.apps.produce.models import Production, ShotCharacter
from tinfork.apps.reading.models import Soundtrack


def told(client, shot, **parameters):
    """An edit of the character's dials, and what the page is told of the character then."""
    answer = edit(client, shot, "dials", speaker=str(shot.character.pk), **parameters)
    assert answer.status_code == 200, answer.json()
    return answer.json()["document"]["characters"][str(shot.character.pk)]


def turn(client, shot, **values):
    return told(client, shot, values=values)


def ask(client, shot, do, **values):
    return client.post(f"/shots/{shot.pk}/dials", {"character": shot.character.pk, "do": do, **values})


def starts(character):
    return [hold["start"] for hold in character["holds"]]


def test_turning_a_dial_answers_with_the_mouths_that_come_of_it(client, read_shot):
    usual = turn(client, read_shot, lead=1)
    later = turn(client, read_shot, lead=0)
    assert later["dials"]["lead"] == 0
    assert sum(later["dials"][k] == usual["dials"][k] for k in usual["dials"]) == len(usual["dials"]) - 1
    assert starts(later)[1] > starts(usual)[1]
    few = turn(client, read_shot, detail=0)
    assert len(few["holds"]) < len(later["holds"])
    assert few["dials"]["lead"] == 0
    assert few["numbers"]["changes"] < later["numbers"]["changes"]


def test_a_dial_that_is_tried_is_shown_and_not_kept(client, read_shot):
    kept = turn(client, read_shot, lead=1)
    revision = Soundtrack.objects.get(shot=read_shot).revision
    tried = ask(client, read_shot, "try", lead=0, detail=0).json()
    assert tried["dials"] == kept["dials"] | {"lead": 0, "detail": 0}
    assert len(tried["holds"]) < len(kept["holds"])
    assert ShotCharacter.objects.get(shot=read_shot).dials["lead"] == 1
    assert Soundtrack.objects.get(shot=read_shot).revision == revision


def test_a_turn_is_a_step_that_is_undone_and_done_again(client, read_shot):
    turn(client, read_shot, lead=3)
    turn(client, read_shot, lead=0)
    who = str(read_shot.character.pk)
    leads = []
    for step in ("undo", "undo", "redo", "redo"):
        leads.append(edit(client, read_shot, step).json()["document"]["characters"][who]["dials"]["lead"])
    assert leads == [3, 1, 3, 0]


def test_mouths_set_on_an_older_state_follow_a_turn_and_two_turns_meet(client, read_shot):
    who = str(read_shot.character.pk)
    seen = Soundtrack.objects.get(shot=read_shot).revision
    turn(client, read_shot, lead=3)
    assert edit(client, read_shot, "pin", seen, speaker=who, first=5, last=9, drawing=3).status_code == 200
    late = edit(client, read_shot, "dials", seen, speaker=who, values={"lead": 0})
    assert late.status_code == 409
    assert f"settings of {read_shot.character.name} were changed" in late.json()["error"]
    assert ShotCharacter.objects.get(shot=read_shot).dials["lead"] == 3


def test_holds_on_threes_are_three_frames_long(client, read_shot):
    answer = told(client, read_shot, preset="sparse, on threes")
    assert answer["numbers"]["shortest"] >= 3
    assert answer["dials"]["shortest"] == 3


def test_locked_on_twos_every_mouth_begins_on_a_second_frame_and_the_reason_says_what_that_did(client, read_shot):
    before = turn(client, read_shot, shortest=1)
    assert any(hold["start"] % 2 for hold in before["holds"])
    answer = turn(client, read_shot, grid=2)
    assert [hold["start"] % 2 for hold in answer["holds"]] == [0] * len(answer["holds"])
    assert answer["dials"]["grid"] == 2
    who = read_shot.character.pk
    reasons = [
        client.get(f"/shots/{read_shot.pk}/why?character={who}&frame={hold['start']}").json()
        for hold in answer["holds"]
    ]
    assert any("ocked on 2" in json.dumps(reason) for reason in reasons)
    assert told(client, read_shot, preset="locked on twos")["dials"]["grid"] == 2


def test_a_flap_moves_with_the_loudness_and_is_the_same_each_time(client, read_shot):
    first = told(client, read_shot, preset="flap")
    assert first["dials"]["by_loudness"] is True
    turn(client, read_shot, lead=1)
    again = turn(client, read_shot, lead=0)
    assert again["holds"] == first["holds"]
    # Syllables are no single open mouth: none is held for a second.
    spoken = [hold for hold in first["holds"] if hold["viseme"] != "rest"]
    assert len(spoken) > 5
    assert max(hold["end"] - hold["start"] for hold in spoken) < 24


def test_dials_are_the_productions_again_or_everyones(client, production, read_shot):
    turn(client, read_shot, lead=3)
    assert ask(client, read_shot, "default").json()["dials"]["lead"] == 3
    assert Production.objects.get(pk=production.pk).dials["lead"] == 3
    assert ShotCharacter.objects.get(shot=read_shot).dials == {}
    turn(client, read_shot, lead=0)
    assert told(client, read_shot, usual=True)["dials"]["lead"] == 3


def test_dials_are_kept_by_name_and_used_by_it(client, read_shot):
    turn(client, read_shot, shortest=4)
    answer = ask(client, read_shot, "keep", name="  night   bakery ").json()
    assert "night bakery" in answer["presets"]
    told(client, read_shot, usual=True)
    assert told(client, read_shot, preset="night bakery")["dials"]["shortest"] == 4


@pytest.mark.parametrize(
    ("parameters", "said"),
    [
        ({"values": {"lead": 99}}, "lead goes from 0 to 12"),
        ({"values": {"lead": -1}}, "lead goes from 0 to 12"),
        ({"values": {"lead": "fast"}}, "whole number"),
        ({"values": {"detail": 1e3}}, "whole number"),
        ({"values": [1]}, "values by name"),
        ({}, "settings by name"),
        ({"preset": "none such"}, "There is no preset called"),
        ({"preset": 3}, "a text"),
        ({"speaker": "0", "usual": True}, "not in this shot"),
        ({"speaker": None, "usual": True}, "a text"),
    ],
)
def test_nonsense_turns_are_refused_and_change_nothing(client, read_shot, parameters, said):
    answer = edit(client, read_shot, "dials", **{"speaker": str(read_shot.character.pk)} | parameters)
    assert answer.status_code == 422
    assert said in answer.json()["error"]
    assert ShotCharacter.objects.get(shot=read_shot).dials == {}


@pytest.mark.parametrize(
    ("do", "values", "said"),
    [
        ("try", {"lead": "99"}, "lead goes from 0 to 12"),
        ("try", {"lead": "fast"}, "whole number"),
        ("keep", {"name": " "}, "Choose another name for the preset"),
        ("keep", {"name": "on twos"}, "Choose another name for the preset"),
        ("nonsense", {}, "no longer in this shot"),
    ],
)
def test_nonsense_is_refused_and_changes_nothing(client, read_shot, do, values, said):
    answer = ask(client, read_shot, do, **values)
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
