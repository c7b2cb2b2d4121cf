"""Acting: how long a minute's proposals and a minute's performance take.

Also how evenly three who move are drawn, their lines still or boiling.

Proposals and performances are timed on a made-up minute, in this process; the Stage plays the demo's scene of three in
a browser at 1920 x 1080, an edit of a key is timed there from the field to the drawn picture.
"""

import math
import statistics
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

from tinfork.core.clock import FrameRate
from tinfork.core.motion.acting import KINDS, propose
from tinfork.core.motion.performing import Sample, path_of, reduced
from tinfork.core.motion.pose import Pose
from tinfork.core.motion.stage import Stage
from tinfork.core.soundtrack.keys import perform
from tinfork.core.soundtrack.model import Soundtrack
from tinfork.engines.isolated import run_isolated, unheard
from tinfork.engines.tracking.watching import watch
from tools.bench.desk import _open_three, _played, _quantile
from tools.bench.solver import _made_up, _median_ms
from tools.demo.stand_in_face import SHIPPED as STAND_IN
from tools.start.services import throwaway
from tools.start.shots import BROWSER_ARGUMENTS, CHROMIUM, sign_in

RATE = FrameRate.parse("24")
#: A key is changed so many times, each from the field to the picture that shows it.
_EDITS = 20
_EDIT = """async (times) => {
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "F7", bubbles: true }));
  const moved = document.querySelector("#stage .figure > .moved");
  const field = document.querySelector("#moving [name=turn]");
  const out = [];
  for (let n = 0; n < times; n += 1) {
    const before = moved.style.transform;
    const began = performance.now();
    field.value = String(3 + n);
    field.dispatchEvent(new Event("change", { bubbles: true }));
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
    if (moved.style.transform === before) throw new Error("Nothing moved.");
    out.push(performance.now() - began);
    await new Promise((done) => setTimeout(done, 300));
  }
  return out;
}"""


def _proposals() -> dict[str, Any]:
    reading = _made_up(1)
    levels = np.random.default_rng(3).uniform(-40, -15, 6000)
    stage = Stage("", reading, RATE, 60 * 24, levels, ("-1",), ("-2",), {})
    amounts = dict.fromkeys(KINDS, 70)
    gestures = propose(stage, amounts, 100, 1)
    return {
        "proposals of a minute, ms": _median_ms(lambda: propose(stage, amounts, 100, 2)),
        "laid down as keys, ms": _median_ms(lambda: perform(Soundtrack(), "", RATE, gestures)),
        "gestures": len(gestures),
    }


def _performance() -> dict[str, Any]:
    dice = np.random.default_rng(5)
    samples = [
        Sample(at, Pose(turn=15 * math.sin(at / 150_000) + dice.normal(0, 0.5), x=8 * math.sin(at / 410_000)))
        for at in range(0, 60_000_000, 8_000)
    ]
    keys = reduced(*path_of(samples, RATE, 60 * 24, 1))
    took = _median_ms(lambda: reduced(*path_of(samples, RATE, 60 * 24, 1)), rounds=3)
    return {"a minute performed, ms": took, "samples": len(samples), "keys": len(keys)}


def _following() -> dict[str, Any]:
    """A minute of the painted face followed, as a worker does it: from the copy that a browser sees."""
    seconds = 60
    with tempfile.TemporaryDirectory() as folder:
        long = Path(folder) / "minute.webm"
        command = ["ffmpeg", "-v", "error", "-stream_loop", "-1", "-i", str(STAND_IN), "-t", str(seconds), "-c", "copy"]
        subprocess.run([*command, str(long)], check=True)
        began = time.perf_counter()
        track, _ = run_isolated(watch, long, "minute", progress=unheard)
        took = time.perf_counter() - began
    return {"a minute of film followed, s": round(took, 1), "pictures": len(track.times_us)}


def _edits(page: Page) -> list[float]:
    _open_three(page)
    times: list[float] = page.evaluate(_EDIT, _EDITS)
    return times


def _frames(times: list[float]) -> dict[str, float]:
    return {
        "frame ms, median": _quantile(times, 0.5),
        "95 %": _quantile(times, 0.95),
        "worst": round(max(times), 1),
    }


def bench_acting() -> dict[str, Any]:
    """All of it."""
    with throwaway() as services, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=BROWSER_ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=services.url)
        sign_in(page)
        played, boiling = _played(page), _played(page, boil=40)
        edits = _edits(page)
        browser.close()
    return {
        "proposing": _proposals(),
        "performing": _performance(),
        "following": _following(),
        "three who move play": _frames(played),
        "three who move play, lines boiling": _frames(boiling),
        "a key is seen": {"median ms": round(statistics.median(edits), 1), "95 %": _quantile(edits, 0.95)},
    }
