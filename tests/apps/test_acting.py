"""Keys of motion and proposed acting in a shot: sent, answered, undone, drawn, packed."""

import json

import pytest

from tests.apps.conftest import upload
from tests.apps.test_mouths import edit
from tests.pictures import encoded, mouths
from tinfork.apps.cast.actions.characters import add_part
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.reading.actions.acting import stage_of
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import with_cast
from tinfork.core.motion.curve import pose_on
from tinfork.core.scene.drawing import segments

ALL = {"blinks": 60, "accents": 60, "breath": 100, "openings": 50, "listening": 50, "brows": 50}


@pytest.fixture
def eyes(character, client, do_jobs):
    """Her eyes: a part with one drawing, which only moves."""
    first = add_part(character, kind="eyes", name="Eyes")
    client.post(f"/cast/charts/{first.pk}/drawings", {"files": [upload("1.png", encoded(mouths()[10]))]})
    assert do_jobs().state == "done"
    return first.part


def fresh(shot):
    return with_cast(type(shot).objects.get(pk=shot.pk))


def send(client, shot, name, **parameters):
    answer = edit(client, shot, name, speaker=str(shot.character.pk), **parameters)
    return answer.status_code, answer.json()


def keys_of(shot):
    return Soundtrack.objects.get(shot=shot).content.keys


def test_a_key_is_answered_with_the_motion_alone_and_undone(client, read_shot):
    status, told = send(client, read_shot, "key_set", part="head", frame=12, turn=7.5)
    assert status == 200
    (row,) = told["document"]["motion"][str(read_shot.character.pk)]["head"]
    assert row == {"frame": 12, "pose": [0, 0, 7.5, 0, 0, 0], "way": "ease", "step": 1, "by": ""}
    assert "words" not in told["document"]
    assert told["document"]["characters"] == {}
    assert edit(client, read_shot, "undo").status_code == 200
    assert keys_of(read_shot) == ()
    assert edit(client, read_shot, "redo").status_code == 200
    assert [k.pose.turn for k in keys_of(read_shot)] == [7.5]


@pytest.mark.parametrize(
    ("name", "parameters", "says"),
    [
        ("key_set", {"part": "-77", "frame": 1}, "That part is no longer on this face"),
        ("key_set", {"part": "head", "frame": 90_000}, "This shot has"),
        ("key_set", {"part": "head", "frame": 1, "turn": "left"}, "“turn” must be a number"),
        ("key_remove", {"part": "head", "first": 0, "last": 4}, "no key on these frames"),
        ("act", {"kinds": {"juggling": 4}}, "There is no acting rule called"),
        ("key_perform", {"part": "head", "path": []}, "“path” must be"),
    ],
)
def test_nonsense_is_refused_and_changes_nothing(client, read_shot, name, parameters, says):
    status, told = send(client, read_shot, name, **parameters)
    assert status == 422
    assert says in told["error"]
    assert keys_of(read_shot) == ()


def test_two_people_move_two_parts_and_meet_on_one(client, read_shot):
    row = Soundtrack.objects.get(shot=read_shot)
    assert send(client, read_shot, "key_set", part="head", frame=12, turn=7)[0] == 200
    late = {"revision": row.revision, "name": "key_set"}
    who = str(read_shot.character.pk)

    def post(**parameters):
        body = json.dumps(late | {"parameters": {"speaker": who, "frame": 12, **parameters}})
        return client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json")

    assert post(part="face", turn=1).status_code == 200
    refused = post(part="head", turn=1)
    assert refused.status_code == 409
    assert "Odalys was moved here" in refused.json()["error"]


def test_a_note_about_a_pass_is_answered_and_undone_alone(client, read_shot):
    who = str(read_shot.character.pk)
    status, told = send(client, read_shot, "pass_note", part="head", text="calmer after “tram”")
    assert (status, told["document"]["passNotes"]) == (200, {who: {"head": "calmer after “tram”"}})
    assert "words" not in told["document"] and "motion" not in told["document"]
    assert "calmer after" in client.get(f"/shots/{read_shot.pk}/desk").content.decode()
    assert edit(client, read_shot, "undo").status_code == 200
    assert Soundtrack.objects.get(shot=read_shot).content.pass_notes == ()
    assert send(client, read_shot, "pass_note", part="-77", text="whose?")[0] == 422
    assert send(client, read_shot, "pass_note", part="head", text="x" * 401)[0] == 422


def test_acting_follows_the_reading_the_eyes_and_the_dice(client, read_shot, eyes):
    status, told = send(client, read_shot, "act", kinds=ALL, seed=1)
    assert status == 200
    parts = told["document"]["motion"][str(read_shot.character.pk)]
    assert set(parts) >= {"head", f"-{eyes.pk}"}
    assert all(key["by"] for rows in parts.values() for key in rows)
    first = keys_of(read_shot)
    send(client, read_shot, "act", kinds=ALL, seed=2)
    assert keys_of(read_shot) != first
    send(client, read_shot, "act", kinds=ALL, seed=1)
    assert keys_of(read_shot) == first


def test_what_a_person_moved_stays_when_acting_is_proposed_and_read_again(client, read_shot, eyes, start_read, work):
    send(client, read_shot, "key_set", part="head", frame=3, turn=20)
    send(client, read_shot, "act", kinds=ALL, seed=1)
    assert start_read().status_code == 302
    assert work().state == "done"
    assert [k.pose.turn for k in keys_of(read_shot) if not k.made_by] == [20]


def test_what_moves_moves_in_what_leaves_and_a_part_with_one_drawing_has_no_column(client, read_shot, eyes):
    send(client, read_shot, "key_set", part=f"-{eyes.pk}", frame=0, y=0)
    send(client, read_shot, "key_set", part=f"-{eyes.pk}", frame=10, y=30, way="hold")
    send(client, read_shot, "key_set", part="head", frame=5, turn=10)
    scene = scene_of(fresh(read_shot))
    (figure,) = scene.figures
    assert set(figure.motions) == {"head", "part Eyes"}
    assert pose_on(figure.motions["part Eyes"], 10).y == 30
    seen = {start: drawn for start, _, drawn in segments(scene, (320, 180))}
    eyes_at = [drawn[1].matrix.f for start, drawn in seen.items() if drawn[1].key[1] == "Eyes" and start <= 10]
    assert len(set(eyes_at)) > 5
    assert list(scene.sheet(figure).others) == []
    page = client.get(f"/shots/{read_shot.pk}/desk").content.decode()
    assert f'data-character="-{eyes.pk}"' not in page
    document = desk_document(fresh(read_shot))
    assert [c["id"] for c in document["characters"]] == [read_shot.character.pk, -eyes.pk]


def test_a_demo_shot_acts_from_its_first_reading_on(read_shot, shot, user):
    from tinfork.apps.reading.actions.acting import with_acting

    st = Soundtrack.objects.get(shot=read_shot)
    found = fresh(read_shot)
    found.soundtrack = st
    acted = with_acting(found, st.content)
    assert acted.keys
    assert all(k.made_by for k in acted.keys)
    assert with_acting(found, acted) == acted


def test_whoever_is_mirrored_turns_to_the_side_the_others_are_seen_on(client, read_shot, brindle):
    client.post(f"/shots/{read_shot.pk}/cast", {"add": brindle.pk})
    places = {read_shot.character: (0.2, False), brindle: (0.8, True)}
    for who, (x, mirrored) in places.items():
        stand = {"x": x, "y": 0.5, "size": 1, "turn": 0, "mirrored": mirrored, "depth": 0}
        assert edit(client, read_shot, "stand", speaker=str(who.pk), **stand).status_code == 200
    shot = fresh(read_shot)
    sides = {who.name: list(stage_of(shot, who).others.values()) for who in shot.characters}
    # He stands on the right and looks left, which is the right-hand side of a picture that is mirrored.
    assert sides == {"Odalys": [1.0], "Brindle": [1.0]}
