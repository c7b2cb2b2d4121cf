"""What went wrong is in the log once, with whose it was; the page says by which number it is found there."""

import io
import json
import logging

import pytest
from django.contrib.sessions.backends.db import SessionStore
from django.db import OperationalError
from django.test import Client

from tinfork.apps.common.logs import AboutFilter, JsonFormatter, LineFormatter, logged_about
from tinfork.apps.jobs.models import Job
from tinfork.core.errors import EngineError


@pytest.fixture
def logged():
    """What is logged as JSON, parsed."""
    stream = io.StringIO()
    handler = logging.StreamHandler(stream)
    handler.addFilter(AboutFilter())
    handler.setFormatter(JsonFormatter())
    root = logging.getLogger()
    root.addHandler(handler)
    yield lambda: [json.loads(line) for line in stream.getvalue().splitlines()]
    root.removeHandler(handler)


def breaks(monkeypatch, error):
    def broken(*args):
        raise error

    monkeypatch.setattr("tinfork.apps.desk.views.desk_document", broken)


def test_a_broken_page_is_logged_once_under_the_number_that_it_shows(client, user, read_shot, logged, monkeypatch):
    breaks(monkeypatch, KeyError("kettle"))
    client.raise_request_exception = False
    answer = client.get(f"/shots/{read_shot.pk}/desk")
    (line,) = logged()
    assert answer.status_code == 500
    assert answer["X-Request-ID"] == line["request"]
    assert f"Error id: {line['request']}" in answer.content.decode()
    assert (line["level"], line["user"], line["shot"]) == ("ERROR", str(user.pk), read_shot.pk)
    assert line["path"] == f"/shots/{read_shot.pk}/desk"
    assert line["cause"] == "KeyError: 'kettle'"
    assert "broken" in line["trace"]


def test_a_script_is_told_the_number_too_and_what_it_came_from_is_named(client, read_shot, logged, monkeypatch):
    error = OperationalError("gone")
    error.__cause__ = ConnectionResetError("by peer")
    breaks(monkeypatch, error)
    client.raise_request_exception = False
    answer = client.get(f"/shots/{read_shot.pk}/desk", headers={"accept": "application/json"})
    (line,) = logged()
    assert (answer.status_code, answer.json()["id"]) == (503, line["request"])
    assert line["cause"] == "OperationalError: gone < ConnectionResetError: by peer"


def test_a_session_that_cannot_be_read_is_logged_and_answered_like_all_that_is_away(
    client, read_shot, logged, monkeypatch
):
    def away(session):
        raise OperationalError("the database restarts")

    monkeypatch.setattr(SessionStore, "load", away)
    client.raise_request_exception = False
    answer = client.get(f"/shots/{read_shot.pk}/desk")
    (line,) = logged()
    assert (answer.status_code, line["cause"]) == (503, "OperationalError: the database restarts")
    assert "user" not in line


def test_why_something_was_refused_is_logged_without_a_number_on_the_page(client, read_shot, logged, monkeypatch):
    breaks(monkeypatch, EngineError("The recogniser could not be started."))
    answer = client.get(f"/shots/{read_shot.pk}/desk")
    (line,) = logged()
    assert answer.status_code == 422
    assert "Error id" not in answer.content.decode()
    assert line["cause"] == "EngineError: The recogniser could not be started."
    assert line["request"] == answer["X-Request-ID"]


def test_every_request_has_another_number_and_whoever_is_nobody_has_no_user(db, logged):
    nobody = Client()
    answers = [nobody.get("/nothing-here") for _ in range(2)]
    one, other = logged()
    assert one["request"] != other["request"]
    assert [one["request"], other["request"]] == [answer["X-Request-ID"] for answer in answers]
    assert "user" not in one and "shot" not in one


def test_a_job_that_broke_is_logged_once_with_what_it_was_about(read_shot, start_read, work, logged, monkeypatch):
    def broken(job, report):
        raise ZeroDivisionError("by nothing")

    monkeypatch.setattr("tinfork.apps.reading.work.reading.run", broken)
    start_read("none", words="The last tram leaves", given={"everything": "on"})
    job = work()
    assert job.state == Job.State.FAILED
    (line,) = [line for line in logged() if line["logger"] == "tinfork.jobs"]
    assert (line["job"], line["kind"], line["shot"]) == (str(job.pk), "read", read_shot.pk)
    assert line["user"] == job.by_id
    assert "ZeroDivisionError: by nothing" in line["trace"]


def test_a_terminal_gets_a_short_line():
    record = logging.LogRecord("tinfork.jobs", logging.WARNING, __file__, 1, "refused: %s", ("no voice",), None)
    with logged_about(job="7", kind="read", shot=None):
        AboutFilter().filter(record)
    said = LineFormatter().format(record)
    assert said.endswith("WARNING tinfork.jobs: refused: no voice [job=7 kind=read]")
    assert "\n" not in said
    outside = logging.LogRecord("tinfork.jobs", logging.INFO, __file__, 1, "swept", (), None)
    AboutFilter().filter(outside)
    assert LineFormatter().format(outside).endswith("INFO tinfork.jobs: swept")
