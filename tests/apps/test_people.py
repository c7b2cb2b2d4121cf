"""A studio's people: roles, invitations, several studios, an account and its end."""

import contextlib
import json
from datetime import timedelta

import pytest
from django.core import mail
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.test import Client, override_settings
from django.utils import timezone
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.apps.conftest import upload
from tests.pictures import encoded, mouths
from tinfork.apps.people.actions import found_studio
from tinfork.apps.people.invitations import invite
from tinfork.apps.people.members import hand_over_studio, remove_member, set_role
from tinfork.apps.people.models import Invitation, Membership, Studio, User
from tinfork.apps.produce.models import Production
from tinfork.core.errors import TinForkError

ROLES = ["owner", "lead", "animator", "reviewer", "viewer"]
NEW = {"email": "new@tinfork.example", "password1": "loaf-before-tram-9"}


def member(studio, role, email=None):
    person = User.objects.create_user(email or f"{role}@tinfork.example", "bread-at-night-7")
    return Membership.objects.create(studio=studio, user=person, role=role)


def signed_in(person):
    browser = Client()
    browser.force_login(person)
    return browser


@pytest.fixture
def team(studio, user):
    """A member for each role, by role; the owner is the usual user."""
    return {role: member(studio, role) for role in ROLES[1:]} | {"owner": studio.memberships.get(user=user)}


def test_each_role_may_do_what_the_table_says(team, studio, shot):
    """What is tried: see the shot, say a remark (which this shot has no sound for yet), make one, invite, rename."""
    allowed = {"owner": 5, "lead": 4, "animator": 3, "reviewer": 2, "viewer": 1}
    for role, one in team.items():
        browser = signed_in(one.user)
        answers = [
            browser.get(f"/shots/{shot.pk}/").status_code,
            browser.post(f"/shots/{shot.pk}/remarks/new", {"text": ""}).status_code,
            browser.post(f"/productions/{shot.production_id}/edit", {"name": ""}).status_code,
            browser.post(f"/studios/{studio.pk}/invitations", {"role": "nobody"}).status_code,
            browser.post(f"/studios/{studio.pk}/rename", {"name": ""}).status_code,
        ]
        assert answers == [200 if n == 0 else 422 for n in range(allowed[role])] + [403] * (5 - allowed[role]), role
        page = browser.get(f"/studios/{studio.pk}/").content.decode()
        assert ("Invite somebody" in page) == (role in ("owner", "lead"))


@pytest.mark.parametrize("by", ROLES)
@pytest.mark.parametrize("whose", ROLES)
@pytest.mark.parametrize("to", ROLES)
def test_nobody_gives_or_takes_more_than_they_have(team, studio, by, whose, to):
    other = member(studio, whose, "other@tinfork.example")
    browser = signed_in(team[by].user)
    answer = browser.post(f"/members/{other.pk}/role", {"role": to})
    may = by in ("owner", "lead") and ROLES.index(whose) >= ROLES.index(by) <= ROLES.index(to)
    assert answer.status_code == (302 if may else 403)
    other.refresh_from_db()
    assert other.role == (to if may else whose)
    gone = browser.post(f"/members/{other.pk}/remove").status_code == 302
    assert gone == (by in ("owner", "lead") and ROLES.index(other.role) >= ROLES.index(by))
    assert Membership.objects.filter(pk=other.pk).exists() != gone


def test_a_studio_always_has_an_owner(client, studio, user, team):
    mine = team["owner"]
    assert client.post(f"/studios/{studio.pk}/leave").status_code == 422
    assert client.post(f"/members/{mine.pk}/role", {"role": "viewer"}).status_code == 422
    mine.refresh_from_db()
    assert mine.role == "owner"
    assert client.post(f"/members/{team['animator'].pk}/owns").status_code == 302
    assert [m.role for m in studio.memberships.filter(user__in=[user, team["animator"].user]).order_by("pk")] == [
        "lead",
        "owner",
    ]
    assert client.post(f"/studios/{studio.pk}/leave").status_code == 302
    assert not studio.memberships.filter(user=user).exists()


@pytest.mark.django_db
@settings(max_examples=25)
@given(
    steps=st.lists(
        st.tuples(st.sampled_from(["role", "remove", "owns", "leave"]), st.integers(0, 4), st.integers(0, 4)),
        max_size=14,
    )
)
def test_whatever_people_do_to_each_other_an_owner_stays(steps):
    with transaction.atomic():
        owner = User.objects.create_user("o@tinfork.example", "bread")
        studio = found_studio(name="Trial", owner=owner)
        people = [owner] + [member(studio, role, f"{role}@trial.example").user for role in ROLES[1:]]
        for do, at, to in steps:
            by = studio.memberships.filter(user=people[at]).first()
            other = studio.memberships.filter(user=people[to]).first()
            if by is None or other is None:
                continue
            with contextlib.suppress(PermissionDenied, TinForkError):
                match do:
                    case "role":
                        set_role(other, Membership.Role(ROLES[(at + to) % 5]), by=by)
                    case "owns":
                        hand_over_studio(other, by=by)
                    case "remove":
                        remove_member(other, by=by)
                    case "leave":
                        remove_member(by, by=by)
            assert studio.memberships.filter(role="owner").exists()
        transaction.set_rollback(True)


def test_who_is_removed_opens_nothing_and_their_work_stays(client, studio, team, shot, edit):
    animator = signed_in(team["animator"].user)
    assert animator.get(f"/shots/{shot.pk}/").status_code == 200
    made = animator.post("/productions/new", {"name": "Theirs", "rate": "24", "size": "1920x1080"})
    assert made.status_code == 302
    assert client.post(f"/members/{team['animator'].pk}/remove").status_code == 302
    assert animator.get(f"/shots/{shot.pk}/").status_code == 404
    assert Production.objects.filter(studio=studio, name="Theirs").exists()


def test_another_studios_people_are_not_there(stranger, studio, team):
    other = team["animator"]
    open_one, _ = invite(studio)
    assert stranger.get(f"/studios/{studio.pk}/").status_code == 404
    for address in (
        f"/studios/{studio.pk}/rename",
        f"/studios/{studio.pk}/leave",
        f"/studios/{studio.pk}/invitations",
        f"/members/{other.pk}/role",
        f"/members/{other.pk}/remove",
        f"/members/{other.pk}/owns",
        f"/invitations/{open_one.pk}/withdraw",
    ):
        assert stranger.post(address, {"name": "Mine", "role": "viewer"}).status_code == 404, address
        assert Client().post(address).status_code == 302
    assert stranger.post("/studios/switch", {"studio": studio.pk}).status_code == 404
    assert stranger.post("/studios/switch", {"studio": "x"}).status_code == 404


def link_on(page):
    import re

    return re.search(r'value="http://testserver(/join/[^"]+)"', page.content.decode())[1]


def test_an_invitation_brings_in_one_person_and_then_no_more(client, studio):
    link = link_on(client.post(f"/studios/{studio.pk}/invitations", {"role": "reviewer", "days": "14"}))
    token = link.split("/")[2]
    assert token not in str(list(Invitation.objects.values()))
    person = User.objects.create_user("guest@tinfork.example", "bread-at-night-7")
    guest = signed_in(person)
    assert "Join Night Bakery Pictures" in guest.get(link).content.decode()
    assert not studio.memberships.filter(user=person).exists()
    assert guest.post(link).status_code == 302
    assert studio.memberships.get(user=person).role == "reviewer"
    assert "You belong" not in guest.get(link).content.decode()
    late = signed_in(User.objects.create_user("late@tinfork.example", "bread-at-night-7"))
    assert late.get(link).status_code == 404
    assert late.post(link).status_code == 404


def test_an_invitation_for_many_works_until_it_is_withdrawn(client, studio):
    link = link_on(
        client.post(f"/studios/{studio.pk}/invitations", {"role": "viewer", "days": "2", "is_for_many": "on"})
    )
    people = [User.objects.create_user(f"p{n}@tinfork.example", "bread-at-night-7") for n in range(3)]
    for person in people[:2]:
        assert signed_in(person).post(link).status_code == 302
    page = client.get(f"/studios/{studio.pk}/").content.decode()
    assert "several people" in page
    assert client.post(f"/invitations/{Invitation.objects.get().pk}/withdraw").status_code == 302
    assert signed_in(people[2]).post(link).status_code == 404
    assert studio.memberships.filter(role="viewer").count() == 2


def test_an_invitation_ends(studio, client):
    made, token = invite(studio)
    guest = signed_in(User.objects.create_user("guest@tinfork.example", "bread-at-night-7"))
    Invitation.objects.filter(pk=made.pk).update(expires_at=timezone.now() - timedelta(seconds=1))
    assert guest.get(f"/join/{token}/").status_code == 404
    assert not Membership.objects.filter(user__email="guest@tinfork.example").exists()


def test_who_is_in_already_keeps_their_role(client, studio, user):
    _, token = invite(studio, Membership.Role.VIEWER)
    client.post(f"/join/{token}/")
    assert studio.memberships.get(user=user).role == "owner"
    assert Invitation.objects.get().uses == 0


def test_a_lead_invites_nobody_above_themselves(team, studio):
    lead = signed_in(team["lead"].user)
    assert lead.post(f"/studios/{studio.pk}/invitations", {"role": "owner", "days": "14"}).status_code == 422
    assert lead.post(f"/studios/{studio.pk}/invitations", {"role": "lead", "days": "14"}).status_code == 200


@override_settings(
    HAS_MAIL=True,
    EMAIL_BACKEND="django.core.mail.backends.locmem.EmailBackend",
    DEFAULT_FROM_EMAIL="oven@tinfork.example",
    ACCOUNT_EMAIL_VERIFICATION="mandatory",
)
def test_a_mailed_invitation_names_who_sent_it_and_opens_the_door_once(client, user, studio):
    user.name = "Odalys"
    user.save()
    sent = {"role": "animator", "days": "14", "email": "brindle@tinfork.example"}
    page = client.post(f"/studios/{studio.pk}/invitations", sent).content.decode()
    assert "mailed to brindle@tinfork.example" in page
    (mailed,) = mail.outbox
    assert mailed.to == ["brindle@tinfork.example"]
    assert "Odalys invites you to Night Bakery Pictures" in mailed.body
    link = mailed.body.split("http://testserver")[1].split()[0]
    person = User.objects.create_user("brindle@tinfork.example", "bread-at-night-7")
    assert signed_in(person).post(link).status_code == 302
    assert signed_in(User.objects.create_user("x@tinfork.example", "b")).post(link).status_code == 404
    both = client.post(f"/studios/{studio.pk}/invitations", sent | {"is_for_many": "on"})
    assert both.status_code == 422 and "for one person" in both.content.decode()


def test_who_has_no_account_makes_one_on_the_way_in(studio):
    _, token = invite(studio, Membership.Role.LEAD)
    guest = Client()
    page = guest.get(f"/join/{token}/").content.decode()
    assert "Night Bakery Pictures" in page and "Create an account" in page
    assert guest.post("/account/signup/", NEW).status_code == 302
    assert studio.memberships.get(user__email=NEW["email"]).role == "lead"
    # They look at the studio they came into.
    assert "Night Bakery Pictures" in guest.get(f"/studios/{studio.pk}/").content.decode()


def test_wrong_links_are_counted_and_then_refused(db):
    guest = Client(REMOTE_ADDR="198.51.100.9")
    answers = [guest.get(f"/join/wrong{n}/").status_code for n in range(62)]
    assert answers[:60] == [404] * 60
    assert answers[60:] == [503] * 2
    assert guest.get("/review/wrong/").status_code == 503
    assert Client(REMOTE_ADDR="198.51.100.10").get("/join/wrong/").status_code == 404


def test_lists_show_the_studio_that_one_looks_at(client, user, production):
    other = found_studio(name="The Other Oven", owner=user)
    assert "Last Tram" in client.get("/").content.decode()
    assert client.post("/studios/switch", {"studio": other.pk}).status_code == 302
    assert "Last Tram" not in client.get("/").content.decode()
    client.post("/productions/new", {"name": "Second Loaf", "rate": "24", "size": "1920x1080"})
    assert Production.objects.get(name="Second Loaf").studio == other
    # What is reached by its address stays open: one belongs to both.
    assert client.get(f"/productions/{production.pk}/").status_code == 200
    assert client.post("/studios/new", {"name": "Third"}).status_code == 302
    assert Studio.objects.get(name="Third").memberships.get().user == user
    assert "Second Loaf" not in client.get("/").content.decode()


def test_a_name_and_a_picture_are_shown_to_the_studio_and_to_nobody_else(client, user, studio, team, stranger):
    picture = upload("me.png", encoded(mouths()[14]))
    assert client.post("/account/", {"name": "Odalys Flint", "picture": picture}).status_code == 302
    viewer = signed_in(team["viewer"].user)
    assert "Odalys Flint" in viewer.get(f"/studios/{studio.pk}/").content.decode()
    answer = viewer.get(f"/people/{user.pk}/picture")
    assert answer.status_code == 200 and answer["Content-Type"] == "image/png"
    assert stranger.get(f"/people/{user.pk}/picture").status_code == 404
    assert client.get(f"/people/{team['viewer'].user.pk}/picture").status_code == 404
    wrong = client.post("/account/", {"name": "", "picture": upload("me.png", b"no picture at all")})
    assert wrong.status_code == 422 and "me.png" in wrong.content.decode()
    user.refresh_from_db()
    assert user.name == "Odalys Flint"


def test_what_is_kept_of_somebody_is_theirs_to_take(client, user, read_shot, stranger):
    told = json.loads(client.get("/account/export").content)
    assert told["email"] == user.email
    assert told["studios"][0]["role"] == "owner"
    assert {job["kind"] for job in told["jobs"]} >= {"read"}
    other = json.loads(stranger.get("/account/export").content)
    assert other["jobs"] == [] and user.email not in json.dumps(other)


def test_an_account_goes_with_the_studios_that_nobody_else_has(client, user, read_shot, studio):
    user.set_password("bread-at-night-7")
    user.save()
    client.force_login(user)
    page = client.get("/account/delete").content.decode()
    assert "Nobody else belongs to Night Bakery Pictures" in page
    assert client.post("/account/delete", {"password": "wrong"}).status_code == 422
    assert User.objects.filter(pk=user.pk).exists()
    assert client.post("/account/delete", {"password": "bread-at-night-7"}).status_code == 302
    assert not User.objects.filter(pk=user.pk).exists()
    assert not Studio.objects.filter(pk=studio.pk).exists()
    assert client.get("/").status_code == 302


def test_an_owner_hands_over_before_they_go_and_the_work_stays(client, user, read_shot, studio, team):
    user.set_password("bread-at-night-7")
    user.save()
    client.force_login(user)
    assert "Hand it over first" in client.get("/account/delete").content.decode()
    client.post("/account/delete", {"password": "bread-at-night-7"})
    assert User.objects.filter(pk=user.pk).exists()
    client.post(f"/members/{team['lead'].pk}/owns")
    assert client.post("/account/delete", {"password": "bread-at-night-7"}).status_code == 302
    assert Production.objects.filter(studio=studio).exists()
    read_shot.refresh_from_db()


def test_two_factor_and_sessions_have_pages_of_ours(client, user):
    user.set_password("bread-at-night-7")
    user.save()
    browser = Client()
    browser.post("/account/login/", {"login": user.email, "password": "bread-at-night-7"})
    # Before anything of that changes, the password is asked for once more.
    asked = browser.get("/account/two-factor/totp/activate/")["Location"]
    assert asked.startswith("/account/reauthenticate/")
    assert browser.post(asked, {"password": "bread-at-night-7"}).status_code == 302
    for address in (
        "/account/two-factor/",
        "/account/sessions/",
        "/account/email/",
        "/account/password/change/",
        "/account/two-factor/totp/activate/",
        "/account/two-factor/webauthn/add/",
    ):
        page = browser.get(address)
        assert page.status_code == 200, address
        assert 'class="bar"' in page.content.decode()


def test_a_code_is_asked_for_once_two_factor_is_on(user):
    from allauth.mfa.totp.internal.auth import TOTP, generate_totp_secret, hotp_value, yield_hotp_counters_from_time

    user.set_password("bread-at-night-7")
    user.save()
    secret = generate_totp_secret()
    TOTP.activate(user, secret)
    browser = Client()
    answer = browser.post("/account/login/", {"login": user.email, "password": "bread-at-night-7"})
    assert answer["Location"].startswith("/account/two-factor/authenticate/")
    assert browser.get("/").status_code == 302
    code = f"{hotp_value(secret, next(iter(yield_hotp_counters_from_time()))):06d}"
    assert browser.post("/account/two-factor/authenticate/", {"code": code}).status_code == 302
    assert browser.get("/").status_code == 200


def test_other_sessions_are_ended_by_their_owner(user):
    user.set_password("bread-at-night-7")
    user.save()
    here, there = Client(), Client()
    for browser in (here, there):
        browser.post("/account/login/", {"login": user.email, "password": "bread-at-night-7"})
        assert browser.get("/").status_code == 200
    assert here.post("/account/sessions/").status_code == 302
    assert here.get("/").status_code == 200
    assert there.get("/").status_code == 302


@override_settings(
    HAS_MAIL=True,
    ACCOUNT_EMAIL_VERIFICATION="mandatory",
    EMAIL_BACKEND="django.core.mail.backends.locmem.EmailBackend",
    DEFAULT_FROM_EMAIL="oven@tinfork.example",
)
def test_another_address_takes_the_place_of_the_old_once_it_is_confirmed(user):
    from allauth.account.models import EmailAddress

    user.set_password("bread-at-night-7")
    user.save()
    EmailAddress.objects.create(user=user, email=user.email, primary=True, verified=True)
    browser = Client()
    browser.post("/account/login/", {"login": user.email, "password": "bread-at-night-7"})
    assert browser.get("/account/").content.decode().count("/account/email/") == 1
    asked = browser.post("/account/email/", {"email": "flint@tinfork.example", "action_add": ""})
    if asked["Location"].startswith("/account/reauthenticate/"):
        browser.post(asked["Location"], {"password": "bread-at-night-7"})
        browser.post("/account/email/", {"email": "flint@tinfork.example", "action_add": ""})
    page = browser.get("/account/email/").content.decode()
    assert "flint@tinfork.example waits to be confirmed" in page
    user.refresh_from_db()
    assert user.email == "odalys@tinfork.example"
    (sent,) = (one for one in mail.outbox if one.to == ["flint@tinfork.example"])
    link = "/account/confirm-email/" + sent.body.split("/account/confirm-email/")[1].split()[0]
    assert browser.post(link).status_code == 302
    user.refresh_from_db()
    assert user.email == "flint@tinfork.example"
