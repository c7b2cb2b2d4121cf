"""Whatever is sent to whatever address, with whatever method: never an answer of 500."""

import itertools
import random
from collections import Counter

import pytest
from django.test import Client
from django.urls import get_resolver

from tests.apps.test_access import page_of, put_away_of, reel_of, version_of
from tinfork.apps.jobs.models import Job
from tools.attack.nonsense import names_of_edits, names_of_fields, paths_for, requests

#: For each address, so many of each kind of nonsense, and of all that every fifth; the attack suite tries more.
EACH, SHARE = 1, 5


def patterns():
    """Every address of the site, as it is written in its list."""
    out = []
    for one in get_resolver().url_patterns:
        for inner in getattr(one, "url_patterns", [one]):
            prefix = "" if inner is one else str(one.pattern)
            out.append(f"{prefix}{inner.pattern}")
    return [pattern for pattern in out if "(?P" not in pattern and "^" not in pattern]


def sent(client, request):
    headers = {name: value for name, value in request.headers.items() if name not in ("Content-Type", "Cookie")}
    more = {"HTTP_COOKIE": request.headers["Cookie"]} if "Cookie" in request.headers else {}
    kind = request.headers.get("Content-Type", "application/octet-stream")
    return client.generic(request.method, request.path, request.body, content_type=kind, headers=headers, **more)


def test_the_nonsense_knows_the_fields_and_edits_of_the_application():
    assert {"revision", "words", "piece", "gap", "face", "parameters", "frame", "name"} <= set(names_of_fields())
    assert {"pin", "note", "gap", "tap", "undo", "dials"} <= set(names_of_edits())


@pytest.mark.parametrize("who", ["member", "nobody"])
def test_no_nonsense_breaks_any_address(read_shot, client, chart, django_capture_on_commit_callbacks, who):
    sender = client if who == "member" else Client()
    sender.raise_request_exception = False
    shot = read_shot
    numbers = {
        "shots/": str(shot.pk),
        "productions/": str(shot.production.pk),
        "takes/": str(shot.soundtrack.takes.get().pk),
        "reels/": str(reel_of(shot).pk),
        "cast/": str(shot.character.pk),
        "cast/charts/": str(chart.pk),
        "cast/parts/": str(chart.part_id),
        "cast/pages/": str(page_of(chart).pk),
        "cast/drawings/": str(chart.drawings.first().pk),
        "archive/shots/": str(put_away_of(shot).pk),
        "archive/productions/": str(put_away_of(shot.production).pk),
        "jobs/": str(Job.objects.filter(shot=shot).first().pk),
    }
    version_of(shot)
    # What ends things for good comes last: everything before it has something to be about.
    good, wrong = paths_for(patterns(), numbers)
    good.sort(key=lambda path: path.endswith(("/delete", "/archive")))
    broken, statuses = [], Counter()
    seed = random.randrange(2**32)
    for request in itertools.islice(requests(good, wrong, seed=seed, each=EACH), seed % SHARE, None, SHARE):
        # Strange cookies and the pages of accounts would sign the member out.
        is_apart = "Cookie" in request.headers or request.path.startswith("/account/")
        answer = sent(Client(raise_request_exception=False) if is_apart else sender, request)
        statuses[answer.status_code] += 1
        if answer.status_code == 500:
            broken.append(f"{request.method} {request.path[:90]} {request.headers} {request.body[:300]!r}")
    # Of what was sent in a way that an address takes, much reached what it was meant for.
    taken = statuses.total() - statuses[405]
    assert who == "nobody" or statuses[200] + statuses[422] > 0.25 * taken, statuses
    assert not broken, f"seed {seed}: {len(broken)} answers of 500, the first: " + "\n".join(broken[:5])
