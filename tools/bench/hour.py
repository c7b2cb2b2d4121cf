"""Edits of a shot that is an hour long, on the running application.

How long each takes, from the request until it is confirmed, and what they take in the database.

The hour is a scene of the demo again and again, with its sound, said a little faster or slower each time: else half of
its words would be of the very same lengths. Every edit is of another place.
"""

import json
import statistics
import time
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, sync_playwright

from tools.start.services import Services, throwaway
from tools.start.shots import BROWSER_ARGUMENTS, CHROMIUM, sign_in, wait_until_read

#: So many edits of each kind; the first ones find nothing worked out yet.
_EDITS, _FIRST = 120, 5
_HOUR_US = 3600 * 1_000_000
#: One word in so many is doubtful: an hour heard without its words, in noise.
_WORDS_A_DOUBT = 6

_MAKE = f"""
import json
from dataclasses import replace
import numpy as np
from django.core.files.base import ContentFile
from django.db import transaction
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.produce.models import Shot
from tinfork.apps.sound.queries import finest_peaks
from tinfork.core.sound.peaks import pyramid_of
from tinfork.core.speech.reading import Reading

shot = Shot.objects.get(pk=2)
with transaction.atomic():
    row = locked(shot)
    st = row.content
    clip = next(c for c in st.clips if c.voice is not None)
    voice = st.voice(clip.voice)
    take = shot.soundtrack.takes.get(pk=clip.take)
    times = {_HOUR_US} // take.duration_us
    total = times * take.duration_us

    paces = [0.8 + 0.2 * (n * 0.618 % 1) for n in range(times)]

    def said(line, n):
        at = lambda us: n * take.duration_us + round(paces[n] * us)
        words = tuple(
            replace(
                w,
                id=0,
                start_us=at(w.start_us),
                end_us=at(w.end_us),
                phonemes=tuple(replace(p, start_us=at(p.start_us), end_us=at(p.end_us)) for p in w.phonemes),
                confidence=0.4 if (n * len(line.words) + number) % {_WORDS_A_DOUBT} == 0 else w.confidence,
            )
            for number, w in enumerate(line.words)
        )
        return replace(line, id=0, words=words, extras=())

    lines = tuple(said(line, n) for n in range(times) for line in voice.reading.lines)
    once = finest_peaks(take)[: take.duration_us // 1000]
    silence = np.zeros_like(once)

    def sounds(pace):
        slower = once[(np.arange(int(len(once) * pace)) / pace).astype(int)]
        return np.concatenate([slower, silence])[: len(once)]

    finest = np.concatenate([sounds(pace) for pace in paces]).astype(np.float32) / 127
    levels = [level.tobytes() for level in pyramid_of(finest[:, 0], finest[:, 1])]
    head = json.dumps({{"lengths": list(map(len, levels))}}).encode() + b"\\n"
    take.pk, take.name, take.duration_us = None, "An hour", total
    take.peaks.name = keep_bytes(head + b"".join(levels), ".peaks")
    take.save()
    after = replace(
        st,
        clips=(replace(clip, take=take.pk, take_us=total, start_us=0, in_us=0, length_us=total),),
        voices=(replace(voice, take=take.pk, reading=Reading(total, lines)),),
        pins=(),
    )
    record_edit(row, after, name="hour", by=None)
print("words", sum(len(line.words) for line in lines))
"""

_SIZE = """
from django.db import connection
with connection.cursor() as asked:
    asked.execute("SELECT sum(pg_column_size(before) + pg_column_size(after)) FROM reading_edit WHERE name <> 'hour'")
    print(asked.fetchone()[0])
"""


#: As the Desk sends an edit: status, revision or error, and milliseconds.
_SEND = """async ([body, token]) => {
  const began = performance.now();
  const answer = await fetch("/shots/2/mouths", {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-CSRFToken": token },
    body: JSON.stringify(body),
  });
  const told = await answer.json();
  return [answer.status, told.document?.revision ?? told.error, performance.now() - began];
}"""


def _milliseconds(times: list[float]) -> dict[str, Any]:
    ordered = sorted(times[_FIRST:])
    return {
        "median": round(1000 * statistics.median(ordered)),
        "p95": round(1000 * ordered[round(0.95 * (len(ordered) - 1))]),
        "worst": round(1000 * ordered[-1]),
        "first": round(1000 * times[0]),
    }


class _Desk:
    """The page's part of the conversation: what it knows, and what it sends."""

    def __init__(self, page: Page) -> None:
        page.goto("/shots/2/desk", timeout=120_000)
        told = json.loads(page.locator("#desk-document").text_content() or "")
        self.revision, self.words, self.speaker = told["revision"], told["words"], str(told["characters"][0]["id"])
        self.frames = told["shot"]["frames"]
        token = next(c for c in page.context.cookies() if c.get("name") == "csrftoken")["value"]
        # A page that sends edits asks for nothing else meanwhile; a Desk left open would be one that looks on.
        page.goto("/healthy")
        self._page, self._token = page, token

    def send(self, name: str, **parameters: Any) -> float:
        """Do an edit; seconds until the browser has understood the answer."""
        body = {"revision": self.revision, "shown": self.revision, "name": name, "parameters": parameters}
        status, told, took = self._page.evaluate(_SEND, [body, self._token])
        if status != 200:
            raise RuntimeError(f"{name} {parameters}: {told}")
        self.revision = told
        return float(took) / 1000


def _rows(desk: _Desk) -> dict[str, Any]:
    words, frames = desk.words, desk.frames
    pick: dict[str, Callable[[int], tuple[str, dict[str, Any]]]] = {
        "a note": lambda n: ("note", {"frame": 997 * n % frames, "text": "nod"}),
        "a mouth pinned": lambda n: (
            "pin",
            {
                "speaker": desk.speaker,
                "first": 997 * n % (frames - 9),
                "last": 997 * n % (frames - 9) + 5,
                "drawing": 3,
            },
        ),
        "a word slid": lambda n: ("slide", {"word": words[91 * n % len(words)]["id"], "by_us": 10_000}),
        "a word typed": lambda n: ("retype", {"word": words[97 * n % len(words)]["id"], "text": "tram"}),
        "undone": lambda n: ("undo", {}),
    }
    out: dict[str, Any] = {}
    for row, make in pick.items():
        times = []
        for n in range(1, _EDITS + 1):
            name, parameters = make(n)
            times.append(desk.send(name, **parameters))
        out[f"{row}, ms"] = _milliseconds(times)
    return out


def _edits_kept(services: Services) -> dict[str, float]:
    size = int(services.manage("shell", "-c", _SIZE).split()[-1])
    count = 4 * _EDITS
    return {"edits": count, "kB": round(size / 1000), "MB for a thousand": round(size / count / 1000, 2)}


def bench_hour() -> dict[str, Any]:
    """All of it."""
    with throwaway() as services, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=BROWSER_ARGUMENTS)
        page = browser.new_page(base_url=services.url)
        sign_in(page)
        wait_until_read(page)
        print(services.manage("shell", "-c", _MAKE).strip(), flush=True)
        began = time.monotonic()
        desk = _Desk(page)
        opened = time.monotonic() - began
        rows = {"words": len(desk.words), "the Desk answers, s": round(opened, 1), **_rows(desk)}
        rows["kept for undo"] = _edits_kept(services)
        browser.close()
    return rows
