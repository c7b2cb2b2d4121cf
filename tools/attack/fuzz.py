"""Fuzzing all URLs over the network, as a signed-in user."""

import os
import subprocess
import sys
from http.client import HTTPException

from tools.attack.nonsense import paths_for, requests
from tools.attack.site import Row, Site
from tools.start.services import ROOT

_LIST = (
    "import django; django.setup(); from django.urls import get_resolver\n"
    "for one in get_resolver().url_patterns:\n"
    "    for inner in getattr(one, 'url_patterns', [one]):\n"
    "        print(('' if inner is one else str(one.pattern)) + str(inner.pattern))\n"
)


def addresses(site: Site) -> list[str]:
    """All URL patterns of the application."""
    done = subprocess.run([sys.executable, "-c", _LIST], cwd=ROOT, env={**os.environ, **site.services.environment},
                          capture_output=True, text=True, check=True)  # fmt: skip
    return [row for row in done.stdout.splitlines() if "(?P" not in row and "^" not in row]


def attack(site: Site, *, each: int) -> Row:
    """Send a number of each kind of nonsense to each URL, with the attacker's own objects."""
    ((drawing,),) = site.sql("SELECT id FROM cast_drawing WHERE chart_id = %s ORDER BY id LIMIT 1", site.chart)
    ((part,),) = site.sql("SELECT part_id FROM cast_chart WHERE id = %s", site.chart)
    ((take,),) = site.sql("SELECT id FROM sound_take WHERE production_id = %s ORDER BY id LIMIT 1", site.production)
    ((job,),) = site.sql("SELECT id FROM jobs_job WHERE production_id = %s LIMIT 1", site.production)
    known = {
        "shots/": site.shot,
        "productions/": site.production,
        "takes/": take,
        "cast/": site.character,
        "cast/charts/": site.chart,
        "cast/parts/": part,
        "cast/drawings/": drawing,
        "jobs/": job,
    }
    good, wrong = paths_for(addresses(site), {start: str(number) for start, number in known.items()})
    # Deletions, and signing out, come last. The shot itself is not archived, since later attacks need it.
    good = [path for path in good if not path.endswith((f"shots/{site.shot}/archive", f"{site.production}/archive"))]
    good.sort(key=lambda path: path.endswith("/delete") or path.startswith("/account/"))
    watch = site.watch()
    fell: list[str] = []
    tries = 0
    csrf = {
        "X-CSRFToken": site.attacker.cookies.get("csrftoken", ""),
        "Referer": f"http://localhost:{site.attacker.port}/",
    }
    for request in requests(good, wrong, seed=81, each=each):
        tries += 1
        headers = {name: value.encode("utf-8", "replace").decode("latin-1") for name, value in request.headers.items()}
        try:
            # A request line must be ASCII (RFC 9112).
            answer = site.attacker.ask(request.method, request.path, request.body or None, {**csrf, **headers})
        except (OSError, HTTPException, ValueError) as error:
            fell.append(f"{request.method} {request.path[:80]}: nobody answered ({error})")
            continue
        if answer.status == 500:
            fell.append(f"{request.method} {request.path[:80]} {request.body[:80]!r}: 500")
    site.wait_for_jobs(120)
    seen = watch.stop()
    return Row("nonsense", tries, f"{len(good)} addresses, no answer of 500; {seen.told}", (*fell, *seen.fell))
