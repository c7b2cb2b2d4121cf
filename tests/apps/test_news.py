"""What people are told, on the page and by mail; what happened in a production."""

import json

import pytest
from django.core import mail
from django.test import Client, override_settings

from tests.apps.test_people import member, signed_in
from tests.post import post_office
from tinfork.apps.news.activity import _OF, activity_of
from tinfork.apps.news.mailing import send_daily, send_one
from tinfork.apps.news.models import News
from tinfork.apps.news.queries import mailing_of
from tinfork.apps.people.models import Studio
from tinfork.apps.produce.planning import plan
from tinfork.apps.reading.models import Edit
from tinfork.apps.review.models import Remark
from tinfork.core.commands.table import ALL

MAIL = {
    "HAS_MAIL": True,
    "EMAIL_BACKEND": "django.core.mail.backends.locmem.EmailBackend",
    "DEFAULT_FROM_EMAIL": "oven@tinfork.example",
    "SITE_ADDRESS": "https://tinfork.example",
}


@pytest.fixture
def brindle(studio):
    return member(studio, "animator", "brindle@tinfork.example").user


def said(user):
    return [(one.kind, str(one.said)) for one in user.news.order_by("pk")]


def test_whose_shot_it_is_hears_of_remarks_answers_and_decisions_and_nobody_of_their_own(
    client, read_shot, user, brindle, viewer
):
    plan([read_shot], by=user, doer=brindle)
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "wider"})
    remark = Remark.objects.get()
    signed_in(brindle).post(f"/shots/{read_shot.pk}/remarks/new", {"text": "done", "answers_to": remark.pk})
    client.post(f"/shots/{read_shot.pk}/decide", {"verdict": "approved"})
    assert said(brindle) == [
        ("remark", "odalys says: “wider”"),
        ("decision", "odalys approves 020 The counter"),
    ]
    assert said(user) == [("answer", "brindle answers: “done”")]
    assert News.objects.count() == 3


def test_who_is_named_is_told_that_and_only_that(client, read_shot, user, brindle):
    plan([read_shot], by=user, doer=brindle)
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "jaw, @brindle"})
    assert said(brindle) == [("mention", "odalys names you: “jaw, @brindle”")]


def test_who_sent_a_link_hears_what_comes_back(client, read_shot, user):
    from tests.apps.test_review import decide, made, say

    link = made(client, read_shot)
    visitor = Client()
    say(visitor, link, shot=read_shot.pk, frame=1, name="Kettle", text="wider")
    decide(visitor, link, shot=read_shot.pk, verdict="changes", name="Kettle")
    assert said(user) == [
        ("remark", "Kettle says: “wider”"),
        ("decision", "Kettle requests changes of 020 The counter"),
    ]


def test_a_shot_that_becomes_mine_or_moves_on_and_a_job_that_failed_are_told(client, shot, user, brindle, start_read):
    address = f"/productions/{shot.production_id}/board/plan"
    client.post(address, {"shots": [shot.pk], "doer": brindle.pk})
    client.post(address, {"shots": [shot.pk], "status": "changes"})
    client.post(address, {"shots": [shot.pk], "priority": "1"})
    assert said(brindle) == [
        ("status", "020 The counter is yours now"),
        ("status", "020 The counter: Changes requested"),
    ]


def test_a_job_that_failed_is_told_to_who_started_it(read_shot, user):
    from tinfork.apps.jobs.actions import end
    from tinfork.apps.jobs.models import Job

    job = Job.objects.filter(shot=read_shot).first()
    end(job, Job.State.DONE)
    assert said(user) == []
    end(job, Job.State.FAILED, "The disk is full.")
    ((kind, text),) = said(user)
    assert kind == "job" and text.endswith("failed: The disk is full.")


def test_the_page_counts_what_is_new_until_it_is_seen(client, read_shot, user, brindle, stranger):
    plan([read_shot], by=user, doer=brindle)
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "<b>wider</b>"})
    browser = signed_in(brindle)
    assert '<span class="count">1</span>' in browser.get("/").content.decode()
    page = browser.get("/news").content.decode()
    assert "&lt;b&gt;wider" in page
    assert f'href="/shots/{read_shot.pk}/remarks"' in page
    assert 'class="count"' not in browser.get("/").content.decode()
    assert "wider" not in stranger.get("/news").content.decode()


def test_who_leaves_a_studio_sees_nothing_of_it_any_more(client, read_shot, user, brindle, studio):
    plan([read_shot], by=user, doer=brindle)
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "wider"})
    studio.memberships.get(user=brindle).delete()
    page = signed_in(brindle).get("/news").content.decode()
    assert "wider" not in page and 'class="count"' not in page
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "again"})
    assert brindle.news.count() == 1


@override_settings(**MAIL)
def test_it_is_mailed_at_once_daily_or_never_as_one_wants(
    client, read_shot, user, brindle, django_capture_on_commit_callbacks, monkeypatch
):
    from tinfork.apps.news import tasks

    asked = []
    monkeypatch.setattr(tasks.mail_now, "defer", lambda news: asked.append(news))
    plan([read_shot], by=user, doer=brindle)
    browser = signed_in(brindle)
    assert browser.post("/news/mailing", {"remark": "now", "mention": "daily", "job": "x"}).status_code == 302
    brindle.refresh_from_db()
    assert mailing_of(brindle) == {
        "mention": "daily",
        "remark": "now",
        "answer": "daily",
        "decision": "now",
        "status": "never",
        "job": "never",
    }
    with django_capture_on_commit_callbacks(execute=True):
        client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "wider"})
        client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "@brindle look"})
    (at_once,) = asked
    send_one(at_once)
    send_one(at_once)
    assert [one.subject for one in mail.outbox] == ["odalys says: “wider”"]
    assert mail.outbox[0].to == ["brindle@tinfork.example"]
    assert f"https://tinfork.example/shots/{read_shot.pk}/remarks" in mail.outbox[0].body
    assert send_daily() == 1
    assert send_daily() == 0
    assert "odalys names you: “@brindle look”" in mail.outbox[1].body
    assert "wider" not in mail.outbox[1].body
    assert Client().get(f"/shots/{read_shot.pk}/remarks").status_code == 302


@override_settings(**MAIL)
def test_what_was_seen_or_is_of_a_studio_one_left_is_not_mailed(client, read_shot, user, brindle, studio):
    plan([read_shot], by=user, doer=brindle)
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "wider"})
    signed_in(brindle).get("/news")
    assert send_daily() == 0
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "again"})
    studio.memberships.get(user=brindle).delete()
    assert send_daily() == 0
    send_one(brindle.news.first().pk)
    assert not mail.outbox


def test_activity_says_who_changed_what_the_newest_first(client, read_shot, user, brindle, stranger):
    row = read_shot.soundtrack
    for frame in range(3):
        row.refresh_from_db()
        body = {"revision": row.revision, "name": "note", "parameters": {"frame": frame, "text": "x"}}
        client.post(f"/shots/{read_shot.pk}/mouths", json.dumps(body), content_type="application/json")
    client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "wider"})
    client.post(f"/shots/{read_shot.pk}/decide", {"verdict": "approved"})
    lines = activity_of(read_shot.production)
    told = [(line.who, line.what) for line in lines]
    assert told[:2] in (
        [("odalys", "status: Approved"), ("odalys", "Approved")],
        [("odalys", "Approved"), ("odalys", "status: Approved")],
    )
    assert ("odalys", "remark: “wider”") in told
    # What one person did in one go is one line.
    (edits,) = (what for _, what in told if "edits:" in what)
    assert edits.split(": ")[1].startswith("notes, a reading")
    assert int(edits.split()[0]) == Edit.objects.filter(soundtrack=row).count()
    assert [line.at for line in lines] == sorted((line.at for line in lines), reverse=True)
    page = client.get(f"/productions/{read_shot.production_id}/activity")
    assert "remark: “wider”" in page.content.decode()
    assert stranger.get(f"/productions/{read_shot.production_id}/activity").status_code == 404


def test_every_edit_there_is_has_words():
    mouths = {
        "pin", "unpin", "clear", "stretch", "split_hold", "give_to_before", "nudge", "insert_frames",
        "remove_frames", "paste", "tap_mouths", "set",
    }  # fmt: skip
    assert set(ALL) - set(_OF) == mouths
    assert Edit._meta.get_field("name")


def test_mails_arrive_as_they_are_meant_and_hold_nothing_that_goes_on_to_open(client, read_shot, user, brindle, studio):
    brindle.name = "Brindle Überwachtel"
    brindle.save()
    plan([read_shot], by=user, doer=brindle)
    with post_office() as (settings, kept), override_settings(**settings):
        guest = {"role": "viewer", "days": "14", "email": "guest@tinfork.example"}
        client.post(f"/studios/{studio.pk}/invitations", guest)
        client.post(f"/shots/{read_shot.pk}/remarks/new", {"text": "größer, bitte\r\nBcc: x@x.example"})
        assert send_daily() == 1
    invitation, daily = kept
    assert (invitation["To"], daily["To"]) == ("guest@tinfork.example", "brindle@tinfork.example")
    assert "Bcc" not in daily
    text = daily.get_content()
    assert "größer, bitte" in text
    assert f"https://tinfork.example/shots/{read_shot.pk}/remarks" in text
    assert "/join/" not in text and "/review/" not in text
    link = invitation.get_content().split("http://testserver")[1].split()[0]
    one, two = (signed_in(member(Studio.objects.create(name=n), "owner", f"{n}@x.example").user) for n in "ab")
    assert one.post(link).status_code == 302
    assert two.post(link).status_code == 404
