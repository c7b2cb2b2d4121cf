"""Reviews and boards on the running application.

How soon a link plays on a slow line, whether many may open it at once, how soon a board of a thousand shots is there,
and how soon a remark is on somebody else's screen.
"""

import statistics
import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from urllib.request import Request, urlopen

from playwright.sync_api import Browser, Page, sync_playwright

from tools.start.services import Services, throwaway
from tools.start.shots import BROWSER_ARGUMENTS, CHROMIUM, sign_in, wait_until_read

#: A slow line: bytes a second either way (1.6 Mbit/s), and milliseconds until an answer begins.
_LINE = {"offline": False, "downloadThroughput": 200_000, "uploadThroughput": 200_000, "latency": 150}
_VISITS, _OPENINGS, _SHOTS, _REMARKS = 5, 200, 1000, 9
#: What a player asks for first.
_FIRST_BYTES = 65_536

_MANY_SHOTS = f"""
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.queries import nothing_yet
first = Production.objects.first()
many = Production.objects.create(studio=first.studio, name="A thousand")
states = list(Shot.Status)
shots = Shot.objects.bulk_create(
    Shot(production=many, name=f"{{n:04d}}", status=states[n % len(states)]) for n in range({_SHOTS})
)
Soundtrack.objects.bulk_create(Soundtrack(shot=shot, **nothing_yet()) for shot in shots)
"""

#: From the start of the visit until the film has moved on (milliseconds).
_PLAYS = """() => new Promise((done) => {
  const video = document.querySelector("#film");
  const look = () => (video.currentTime > 0.05 ? done(performance.now()) : requestAnimationFrame(look));
  video.play();
  look();
})"""


def _reel(page: Page) -> str:
    """A link to all shots of the demo, once its film is there."""
    page.goto("/productions/1/reviews")
    page.get_by_role("button", name="Create link").click()
    link = page.get_by_label("Review link").input_value()
    page.goto(link)
    page.locator("#film").wait_for(timeout=600_000)
    return link


def _slowly(browser: Browser, link: str) -> list[float]:
    """Visits by a slow line, of browsers that have nothing of the site yet."""
    out = []
    for _ in range(_VISITS):
        context = browser.new_context(viewport={"width": 390, "height": 844})
        page = context.new_page()
        session = context.new_cdp_session(page)
        session.send("Network.enable")
        session.send("Network.emulateNetworkConditions", _LINE)
        page.goto(link, wait_until="domcontentloaded")
        page.locator("#film").wait_for(state="attached")
        out.append(float(page.evaluate(_PLAYS)))
        context.close()
    return out


def _opened(link: str) -> tuple[float, bool]:
    """An opening without a browser: the page, and what a player asks for first; seconds, and whether all was right."""
    began = time.monotonic()
    try:
        with urlopen(link, timeout=60) as page:
            is_right = page.status == 200 and b"review-document" in page.read()
        film = Request(link + "film", headers={"Range": f"bytes=0-{_FIRST_BYTES - 1}"})
        with urlopen(film, timeout=60) as part:
            is_right = is_right and part.status == 206 and len(part.read()) == _FIRST_BYTES
    except OSError:
        is_right = False
    return time.monotonic() - began, is_right


def _at_once(link: str) -> dict[str, Any]:
    with ThreadPoolExecutor(_OPENINGS) as crowd:
        done = list(crowd.map(_opened, [link] * _OPENINGS))
    times = sorted(seconds for seconds, _ in done)
    return {
        "openings": _OPENINGS,
        "errors": sum(not is_right for _, is_right in done),
        "median s": round(statistics.median(times), 2),
        "worst s": round(times[-1], 2),
    }


def _board(page: Page, services: Services) -> dict[str, Any]:
    services.manage("shell", "-c", _MANY_SHOTS)
    page.goto("/")
    page.get_by_role("link", name="A thousand").first.click()
    page.get_by_role("link", name="Board").click()
    times, answered = [], []
    for _ in range(_VISITS):
        page.reload(wait_until="load")
        told = page.evaluate("performance.getEntriesByType('navigation')[0].toJSON()")
        answered.append(told["responseEnd"])
        times.append(told["loadEventEnd"] or told["domComplete"])
    assert page.locator(".shot-card").count() == _SHOTS
    return {
        "shots": _SHOTS,
        "answered, median ms": round(statistics.median(answered)),
        "loaded, median ms": round(statistics.median(times)),
        "worst ms": round(max(times)),
    }


def _remark(browser: Browser, page: Page, services: Services) -> dict[str, Any]:
    """From the press of the button at one Desk until the remark is counted at another."""
    other = browser.new_context(base_url=services.url, storage_state=page.context.storage_state()).new_page()
    for one in (page, other):
        one.goto("/shots/2/desk")
        one.wait_for_selector("html[data-desk=ready]")
    count = "() => document.querySelector('#tray .looks [data-part=count]').textContent"
    times = []
    for number in range(_REMARKS):
        before = other.evaluate(count)
        page.keyboard.press("Control+Shift+Enter")
        page.locator("#remark [name=text]").fill(f"wider {number}")
        began = time.monotonic()
        page.get_by_role("button", name="Add remark").click()
        # Somebody reads the other screen: it is in front.
        other.wait_for_function(f"(before) => ({count})() !== before", arg=before, timeout=30_000)
        times.append(time.monotonic() - began)
    return {"median s": round(statistics.median(times), 2), "worst s": round(max(times), 2)}


def bench_review() -> dict[str, Any]:
    """All of it."""
    with throwaway() as services, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=BROWSER_ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=services.url)
        sign_in(page)
        wait_until_read(page)
        link = _reel(page)
        slowly = _slowly(browser, link)
        rows = {
            "a link by 1.6 Mbit/s, 150 ms: plays": {
                "median ms": round(statistics.median(slowly)),
                "worst ms": round(max(slowly)),
            },
            "openings at once": _at_once(link),
            "a board": _board(page, services),
            "a remark on another screen": _remark(browser, page, services),
        }
        browser.close()
    return rows
