"""How soon the waveform of half an hour is seen, in a browser on the running application.

Counted from the page's load event to the moment the waveform has been drawn; the median of nine visits.
"""

import statistics
import tempfile
import time
import wave
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

from tools.bench.speech import converse
from tools.start.services import throwaway
from tools.start.shots import BROWSER_ARGUMENTS, CHROMIUM, sign_in

_SECONDS = 1800
_VISITS = 9
_WATCH = """
  new MutationObserver(() => {
    if (!window.drawnAt && document.querySelector("#take-wave[data-drawn]")) window.drawnAt = performance.now();
  }).observe(document, { subtree: true, childList: true, attributes: true });
"""


def _recording(path: Path) -> None:
    """A minute of conversation over and over: what is drawn does not depend on what is said."""
    talk = converse((("en-us+f2", 60), ("en-gb+m3", 40)), 60.0, seed=9).samples
    samples = np.tile(talk, 1 + _SECONDS * 16_000 // len(talk))[: _SECONDS * 16_000]
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(16_000)
        file.writeframes((samples * 32767).astype("<i2").tobytes())


def _upload(page: Page, path: Path) -> float:
    """Bring the recording to the library; the seconds until it is there to be heard."""
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()
    page.get_by_role("link", name="Takes").click()
    began = time.monotonic()
    page.locator("#takes-file").set_input_files(path)
    page.get_by_role("row").filter(has_text=path.name).locator("canvas").wait_for(timeout=300_000)
    return time.monotonic() - began


def bench_waveform() -> dict[str, Any]:
    """Milliseconds from load to the waveform, and seconds from choosing the file to having it opened."""
    times: list[float] = []
    with tempfile.TemporaryDirectory() as folder, throwaway() as services, sync_playwright() as playwright:
        path = Path(folder) / "half_an_hour.wav"
        _recording(path)
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=BROWSER_ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=services.url)
        sign_in(page)
        opened = _upload(page, path)
        page.get_by_role("link", name=path.name).click()
        address = page.url
        page.add_init_script(_WATCH)
        for _ in range(_VISITS):
            page.goto(address)
            page.wait_for_function("() => window.drawnAt && performance.getEntriesByType('navigation')[0].loadEventEnd")
            told = page.evaluate("[window.drawnAt, performance.getEntriesByType('navigation')[0].loadEventEnd]")
            times.append(max(0.0, told[0] - told[1]))
        browser.close()
    return {
        "ms from load to the waveform, median": round(statistics.median(times)),
        "worst ms": round(max(times)),
        "s from choosing the file to hearing it": round(opened, 1),
    }
