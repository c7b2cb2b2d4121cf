"""Shots as work: statuses, who does them, their order, the board, my work, the pace."""

import io
from datetime import timedelta

import pytest
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from PIL import Image

from tests.apps.test_people import member, signed_in
from tinfork.apps.produce.actions import add_shot
from tinfork.apps.produce.board import cards_of, overview_of, work_of
from tinfork.apps.produce.models import Production, Shot, StatusChange
from tinfork.apps.produce.planning import plan
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.queries import nothing_yet


@pytest.fixture
def shots(production, studio):
    """Four shots of one, two, three and four seconds, none of them read."""
    out = []
    for number in range(1, 5):
        shot = add_shot(production=production, name=f"0{number}0", character=studio.characters.get(name="Odalys"))
        Soundtrack.objects.create(shot=shot, **{**nothing_yet(), "duration_us": number * 1_000_000})
        out.append(shot)
    return out


def planned(client, shots, **sent):
    production = shots[0].production
    return client.post(f"/productions/{production.pk}/board/plan", {"shots": [s.pk for s in shots], **sent})


def names_in(production):
    return [shot.name for shot in production.shots.all()]


def test_a_board_has_each_shot_under_its_status(client, shots, production):
    assert planned(client, shots[:2], status="to_review").status_code == 302
    page = client.get(f"/productions/{production.pk}/board").content.decode()
    columns = page.split("data-status=")[1:]
    found = {part.split('"')[1]: [s.name for s in shots if f">{s.name}</a>" in part] for part in columns}
    assert found["to_review"] == ["010", "020"]
    assert found["waiting"] == ["030", "040"]
    assert found["approved"] == []


def test_many_shots_are_changed_at_once_and_what_is_left_alone_stays(client, shots, production, user):
    planned(client, shots, doer=user.pk, due="2026-12-24", priority="1", new_sequence="Night")
    planned(client, shots[:1], status="in_hand")
    planned(client, shots[1:2], doer="nobody", no_due="on")
    rows = {s.name: s for s in production.shots.select_related("sequence")}
    assert [s.sequence.name for s in rows.values()] == ["Night"] * 4
    assert rows["010"].doer == user and str(rows["010"].due) == "2026-12-24" and rows["010"].status == "in_hand"
    assert rows["020"].doer is None and rows["020"].due is None and rows["020"].priority == 1
    assert list(StatusChange.objects.values_list("shot__name", "status", "by")) == [("010", "in_hand", user.pk)]
    planned(client, shots[:1], sequence="none")
    assert production.shots.get(name="010").sequence is None


@pytest.mark.parametrize(
    "sent",
    [
        {"shots": []},
        {"status": "finished"},
        {"doer": "9999999"},
        {"due": "soon"},
        {"priority": "7"},
        {"sequence": "x"},
        {"before": "0"},
        {"new_sequence": "x" * 81},
    ],
)
def test_what_is_no_plan_is_refused_in_words_and_changes_nothing(client, shots, production, sent):
    before = list(production.shots.values())
    answer = client.post(f"/productions/{production.pk}/board/plan", {"shots": [shots[0].pk], **sent})
    assert answer.status_code == 422
    assert 'role="alert"' in answer.content.decode()
    assert list(production.shots.values()) == before


def test_shots_and_people_of_others_are_not_taken(client, shots, stranger, production):
    from tinfork.apps.people.models import User

    other = User.objects.get(email="stranger@tinfork.example")
    assert planned(client, shots, doer=other.pk).status_code == 422
    foreign = Production.objects.create(studio=other.studios.get(), name="Elsewhere")
    away = Shot.objects.create(production=foreign, name="900")
    assert planned(client, [shots[0], away], status="approved").status_code == 422
    assert not Shot.objects.exclude(status="waiting").exists()


def test_shots_are_put_in_an_order_by_hand_and_new_ones_come_last(client, shots, production, studio):
    planned(client, [shots[3]], before=shots[1].pk)
    assert names_in(production) == ["010", "040", "020", "030"]
    planned(client, [shots[0], shots[3]], place="last", status="in_hand")
    assert names_in(production) == ["020", "030", "010", "040"]
    add_shot(production=production, name="005", character=studio.characters.get(name="Odalys"))
    assert names_in(production) == ["020", "030", "010", "040", "005"]


@pytest.mark.parametrize(
    ("moved", "place", "order"),
    [
        ([2], "first", [3, 1, 2, 4]),
        ([0], "last", [2, 3, 4, 1]),
        ([2], "up", [1, 3, 2, 4]),
        ([0], "up", [1, 2, 3, 4]),
        ([1], "down", [1, 3, 2, 4]),
        ([3], "down", [1, 2, 3, 4]),
        ([1, 2], "up", [2, 3, 1, 4]),
        ([0, 2], "down", [2, 4, 1, 3]),
        ([3, 0], "first", [1, 4, 2, 3]),
    ],
)
def test_shots_are_moved_without_a_mouse(client, shots, production, moved, place, order):
    planned(client, [shots[at] for at in moved], place=place)
    assert names_in(production) == [f"0{number}0" for number in order]


def test_in_the_list_sequences_stand_one_after_another(client, shots, production):
    planned(client, [shots[0], shots[2]], new_sequence="Night")
    page = client.get(f"/productions/{production.pk}/board", {"as": "list"}).content.decode()
    places = [page.index(text) for text in ("No sequence", ">020<", ">040<", ">Night<", ">010<", ">030<")]
    # The sequence is named in the choices before the list, too.
    assert places[0] < places[1] < places[2] < page.rindex('colgroup">Night') < places[4] < places[5]


def test_without_an_order_by_hand_a_new_shot_stands_by_its_name(shots, production, studio):
    add_shot(production=production, name="005", character=studio.characters.get(name="Odalys"))
    assert names_in(production)[0] == "005"


def test_the_board_shows_what_is_chosen(client, shots, production, user):
    planned(client, shots[:1], doer=user.pk, status="approved")
    address = f"/productions/{production.pk}/board"

    def shown(**chosen):
        page = client.get(address, chosen).content.decode()
        return [s.name for s in shots if f">{s.name}</a>" in page or f"<strong>{s.name}</strong>" in page]

    assert shown(who=user.pk) == ["010"]
    assert shown(who="nobody") == ["020", "030", "040"]
    assert shown(status="approved") == ["010"]
    assert shown(q="3") == ["030"]
    assert shown(**{"as": "list", "status": "waiting"}) == ["020", "030", "040"]
    assert shown(who="x", status="x", sequence="x") == ["010", "020", "030", "040"]


def test_a_studio_calls_statuses_as_it_likes(client, shots, production, studio, stranger):
    address = f"/studios/{studio.pk}/statuses"
    assert client.post(address, {"waiting": "In the oven", "approved": "  ", "x": "y"}).status_code == 302
    page = client.get(f"/productions/{production.pk}/board").content.decode()
    assert "In the oven" in page
    assert "Approved" in page
    studio.refresh_from_db()
    assert studio.status_names == {"waiting": "In the oven"}
    assert signed_in(member(studio, "animator").user).post(address, {"waiting": "Mine"}).status_code == 403
    assert stranger.post(address, {"waiting": "Mine"}).status_code == 404


def test_a_thousand_shots_are_on_the_board_in_a_few_queries(client, production, studio, django_assert_max_num_queries):
    odalys = studio.characters.get(name="Odalys")
    made = Shot.objects.bulk_create(Shot(production=production, name=f"{n:04d}") for n in range(1000))
    Soundtrack.objects.bulk_create(Soundtrack(shot=shot, **nothing_yet()) for shot in made)
    assert odalys
    with django_assert_max_num_queries(40):
        page = client.get(f"/productions/{production.pk}/board").content.decode()
    assert page.count("shot-card") >= 1000


def test_my_work_is_what_is_mine_and_open_the_most_urgent_first(client, shots, studio, user):
    today = timezone.localdate()
    plan(shots, by=user, doer=user)
    plan([shots[1]], by=user, due=today - timedelta(days=1))
    plan([shots[2]], by=user, priority=1)
    plan([shots[3]], by=user, status="approved")
    work = work_of(user)
    assert [card.shot.name for card in work.mine] == ["030", "020", "010"]
    assert [card.is_late for card in work.mine] == [False, True, False]
    page = client.get("/").content.decode()
    assert "My work" in page and ">030</a>" in page and ">040</a>" not in page


def test_what_waits_for_a_yes_is_told_to_who_may_give_it(shots, studio, user):
    animator, reviewer = member(studio, "animator").user, member(studio, "reviewer").user
    plan(shots[:2], by=user, status="to_review", doer=animator)
    assert [card.shot.name for card in work_of(reviewer).to_review] == ["010", "020"]
    assert work_of(animator).to_review == []
    assert [card.shot.name for card in work_of(animator).mine] == ["010", "020"]


def test_the_pace_is_what_was_approved_in_the_last_weeks(shots, production, user):
    now = timezone.now()
    plan(shots[:2], by=user, status="approved")
    StatusChange.objects.filter(shot=shots[0]).update(made_at=now - timedelta(days=14))
    StatusChange.objects.filter(shot=shots[1]).update(made_at=now - timedelta(days=7))
    far = overview_of(production, now)
    # Of 1 + 2 + 3 + 4 seconds 1 + 2 in two weeks: 1.5 a week, so that 7 more take 32.7 days.
    assert (far.seconds, far.approved, far.left, far.percent) == (10.0, 3.0, 7.0, 30)
    assert far.a_week == pytest.approx(1.5, abs=0.01)
    assert far.ends == (now + timedelta(days=7 * 7 / 1.5)).date()
    # What was taken back does not count, and what is too long ago tells no pace.
    plan(shots[:1], by=user, status="changes")
    StatusChange.objects.filter(shot=shots[1]).update(made_at=now - timedelta(days=40))
    far = overview_of(production, now)
    assert (far.approved, far.a_week, far.ends) == (2.0, 0.0, None)


def test_a_shot_has_a_small_moving_picture_until_it_changes(client, read_shot, edit, stranger):
    address = f"/shots/{read_shot.pk}/moving.webp"
    first = b"".join(client.get(address).streaming_content)
    with Image.open(io.BytesIO(first)) as moving:
        assert moving.size[0] == 192
        assert moving.n_frames > 3
    with Image.open(io.BytesIO(client.get(f"{address}?still=1").content)) as still:
        assert getattr(still, "n_frames", 1) == 1
    from django.db import connection

    with CaptureQueriesContext(connection) as asked:
        assert b"".join(client.get(address).streaming_content) == first
    # What is there is not made again.
    assert len(asked) < 12
    assert stranger.get(address).status_code == 404


def test_an_edit_takes_a_shot_in_hand(client, read_shot):
    assert read_shot.status == "waiting"
    import json

    body = {"revision": read_shot.soundtrack.revision, "name": "note", "parameters": {"frame": 1, "text": "wider"}}
    answer = client.post(f"/shots/{read_shot.pk}/mouths", json.dumps(body), content_type="application/json")
    assert answer.status_code == 200
    read_shot.refresh_from_db()
    assert read_shot.status == "in_hand"


def test_an_archive_of_a_production_keeps_the_work(client, shots, production, user, studio, do_jobs):
    from django.core.files.uploadedfile import SimpleUploadedFile

    planned(client, shots, due="2026-12-24", priority="1", new_sequence="Night", status="changes")
    planned(client, [shots[3]], before=shots[0].pk)
    client.post(f"/productions/{production.pk}/pack")
    packed = do_jobs().result
    sent = SimpleUploadedFile("p.production.zip", packed.read())
    client.post("/productions/unpack", {"packed": sent})
    job = do_jobs()
    assert job.error == ""
    other = Production.objects.exclude(pk=production.pk).get()
    assert names_in(other) == ["040", "010", "020", "030"]
    for shot in other.shots.all():
        assert (shot.status, str(shot.due), shot.priority, shot.sequence.name) == ("changes", "2026-12-24", 1, "Night")


def test_shots_stand_by_place_and_name_whatever_was_changed_last(client, shots, production):
    """The database gives rows in any order that it likes."""
    for shot in reversed(shots):
        Shot.objects.filter(pk=shot.pk).update(words=f"changed {shot.name}")
    assert [card.shot.name for card in cards_of(production, {})] == ["010", "020", "030", "040"]
    Shot.objects.filter(pk=shots[0].pk).update(place=7)
    assert [card.shot.name for card in cards_of(production, {})] == ["020", "030", "040", "010"]
