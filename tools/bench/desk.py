"""The Desk in a headless browser on the running application.

How soon it is usable, how soon an edit is seen and confirmed, how smoothly a long shot scrolls and zooms, and whether
memory stays flat.

A minute of one character and ten minutes of three are read from synthesised speech first. Frames are timed without the
screen's own pace (nothing waits for 60 Hz), so that what is measured is the work of a frame.
"""

import statistics
import tempfile
import wave
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Browser, CDPSession, Page, sync_playwright

from tools.bench.speech import converse
from tools.start.services import throwaway
from tools.start.shots import BROWSER_ARGUMENTS, CHROMIUM, sign_in
from tools.start.traffic import Traffic

_UNPACED = ["--disable-frame-rate-limit", "--disable-gpu-vsync"]
_VISITS = 9
_EDITS = 60
_FRAMES = 400
#: Work of half an hour, an action a second.
_ACTIONS = 1800

#: When the Desk said it is ready and had drawn twice, from the start of the visit.
_READY = """
  new MutationObserver(() => {
    if (!window.readyAt && document.documentElement.dataset.desk === "ready") {
      window.readyAt = -1;
      requestAnimationFrame(() => requestAnimationFrame(() => (window.readyAt = performance.now())));
    }
  }).observe(document, { subtree: true, childList: true, attributes: true });
"""

#: Until every edit has arrived.
_ARRIVED = """const arrived = () =>
    new Promise((done) => {
      const root = document.documentElement;
      const look = () => root.dataset.waiting === "0" && (observer.disconnect(), done());
      const observer = new MutationObserver(look);
      observer.observe(root, { attributes: true, attributeFilter: ["data-waiting"] });
      look();
    });"""

#: Edits by key on holds all over the shot: milliseconds until the frame after it was drawn, and until it was confirmed.
_EDIT = """async (count) => {
  const press = (key) => document.body.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
  const drawn = () => new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)));
  %ARRIVED%
  const keys = ["d", "v", "s", "z"];
  const seen = [], confirmed = [];
  for (let n = 0; n < count; n += 1) {
    press("PageDown");
    if (n % 40 === 39) press("Home");
    await drawn();
    const began = performance.now();
    press(keys[n % keys.length]);
    await drawn();
    seen.push(performance.now() - began);
    await arrived();
    confirmed.push(performance.now() - began);
  }
  const told = await (await fetch(location.href)).text();
  const page = new DOMParser().parseFromString(told, "text/html");
  if (!JSON.parse(page.querySelector("#desk-document").textContent).characters[0].pins.length) {
    throw new Error("Nothing was edited: there is nothing to measure.");
  }
  return { seen, confirmed };
}""".replace("%ARRIVED%", _ARRIVED)

#: Frames of scrolling the Sheet, or of zooming and moving the Lens: milliseconds from one to the next.
_SMOOTH = """async ([what, frames]) => {
  const sheet = document.querySelector("#sheet");
  const lens = document.querySelector("#lens canvas");
  const box = lens.getBoundingClientRect();
  const middle = { clientX: box.left + box.width / 2, clientY: box.top + 80, bubbles: true, cancelable: true };
  const wheel = (more) => lens.dispatchEvent(new WheelEvent("wheel", { ...middle, ...more }));
  const out = [];
  let last = await new Promise((done) => requestAnimationFrame(done));
  for (let n = 0; n < frames; n += 1) {
    if (what === "scroll") sheet.scrollTop += 60;
    else if (n % 40 < 30) wheel({ deltaY: n % 160 < 80 ? 40 : -40 });
    else wheel({ deltaY: 60, shiftKey: true });
    const now = await new Promise((done) => requestAnimationFrame(done));
    out.push(now - last);
    last = now;
  }
  return out;
}"""

#: An animator at work: goes somewhere, selects, writes, moves, takes back, plays, turns to another character.
_WORK = """async ([first, count]) => {
  const press = (key, held = {}) =>
    document.body.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, ...held }));
  %ARRIVED%
  for (let n = first; n < first + count; n += 1) {
    const does = [
      () => press("PageDown"), () => press("ArrowDown"), () => press("ArrowDown", { shiftKey: true }), () => press("d"),
      () => press("z", { ctrlKey: true }), () => press("Escape"), () => press("n"), () => press("+"), () => press("-"),
      () => press("ArrowRight", { shiftKey: true }), () => press(" "), () => press("k"),
    ];
    does[n % does.length]();
    if (n % 300 === 0) press("Home");
    await new Promise((done) => requestAnimationFrame(done));
    await arrived();
  }
}""".replace("%ARRIVED%", _ARRIVED)


def _quantile(values: Sequence[float], share: float) -> float:
    return round(float(np.quantile(values, share)), 1)


def _read(page: Page, folder: Path, name: str, seconds: float, cast: Sequence[str]) -> str:
    """A shot of spoken sentences, each one's lines given to the cast in turn, read; its Desk's address."""
    talk = converse((("en-us+f2", 60), ("en-gb+m3", 40)), seconds, seed=17)
    path = folder / f"{name}.wav"
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(16_000)
        file.writeframes((talk.samples * 32767).astype("<i2").tobytes())
    words = "\n".join(f"{cast[at % len(cast)].upper()}: {said.text}" for at, said in enumerate(talk.said))
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()
    page.get_by_label("Shot", exact=True).fill(name)
    page.get_by_label("Who speaks").select_option(label=cast[0])
    page.get_by_role("button", name="Add shot").click()
    page.get_by_label("Words", exact=True).fill(words)
    page.locator("#id_sound").set_input_files(path)
    page.get_by_role("button", name="Read the track", exact=True).click()
    page.wait_for_url("**/desk", timeout=600_000)
    page.wait_for_selector("html[data-desk=ready]")
    return page.url


def _usable(page: Page, address: str, visits: int = _VISITS) -> list[float]:
    out = []
    for _ in range(visits):
        page.goto(address)
        page.wait_for_function("() => window.readyAt > 0")
        out.append(float(page.evaluate("window.readyAt")))
    return out


def _cold(browser: Browser, page: Page, address: str) -> dict[str, Any]:
    """Visits of browsers that have nothing of the site yet: how soon the Desk is usable, and what it fetched."""
    times, requests, sizes = [], [], []
    for _ in range(_VISITS):
        context = browser.new_context(viewport=page.viewport_size, storage_state=page.context.storage_state())
        visit = context.new_page()
        visit.add_init_script(_READY)
        traffic = Traffic(context.new_cdp_session(visit))
        times += _usable(visit, address, visits=1)
        visit.wait_for_load_state("networkidle")
        requests.append(len(traffic.answers))
        sizes.append(traffic.kilobytes(("/mix", "/film")))
        context.close()
    return {
        "median ms": round(statistics.median(times)),
        "worst ms": round(max(times)),
        "requests": max(requests),
        "kB without sound and film": round(max(sizes)),
    }


def _counted(session: CDPSession) -> dict[str, int]:
    """Heap, nodes and listeners once everything that can go has gone."""
    for _ in range(3):
        session.send("HeapProfiler.collectGarbage")
    heap = session.send("Runtime.getHeapUsage")["usedSize"]
    counts = session.send("Memory.getDOMCounters")
    return {"heap": int(heap), "nodes": int(counts["nodes"]), "listeners": int(counts["jsEventListeners"])}


def _memory(page: Page, session: CDPSession) -> dict[str, Any]:
    page.evaluate(_WORK, [0, 120])
    before = _counted(session)
    page.evaluate(_WORK, [120, _ACTIONS])
    after = _counted(session)
    return {
        "actions": _ACTIONS,
        "heap MB, before / after": f"{before['heap'] / 1e6:.1f} / {after['heap'] / 1e6:.1f}",
        "nodes, before / after": f"{before['nodes']} / {after['nodes']}",
        "listeners, before / after": f"{before['listeners']} / {after['listeners']}",
    }


#: The shot's picture while it plays: milliseconds from one drawn picture to the next.
_PLAYED = """async (frames) => {
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: " ", bubbles: true }));
  const times = [];
  let last = 0;
  await new Promise((done) => {
    const look = (now) => {
      if (last) times.push(now - last);
      last = now;
      if (times.length < frames) requestAnimationFrame(look);
      else done();
    };
    requestAnimationFrame(look);
  });
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "k", bubbles: true }));
  return times;
}"""


def _open_three(page: Page) -> None:
    """The demo's scene of three characters on the Desk, once it is read."""
    page.goto("/")
    page.get_by_role("link", name="Last Tram, First Loaf").first.click()
    page.wait_for_function("() => document.querySelector('main').innerText.match(/040 The last loaf[^]*?read/)")
    page.get_by_role("link", name="040 The last loaf").first.click()
    page.wait_for_selector("html[data-desk=ready]")
    page.wait_for_timeout(1500)


def _played(page: Page, *, boil: int = 0) -> list[float]:
    """That scene on its background, playing at 1920 x 1080; with lines that boil, once all variants are there."""
    page.set_viewport_size({"width": 1920, "height": 1080})
    _open_three(page)
    if boil:
        page.keyboard.press("F8")
        page.locator("#arrange [name=strength]").fill(str(boil))
        page.locator("#arrange [name=strength]").blur()
        page.wait_for_function(
            "() => [...document.querySelectorAll('#stage img[src*=boil]')].length &&"
            "[...document.querySelectorAll('#stage .figure img:not([src*=boil])')].every((one) => one.src) &&"
            "[...document.images].every((one) => one.complete)"
        )
        page.keyboard.press("F8")
    times: list[float] = page.evaluate(_PLAYED, _FRAMES)
    return times


def bench_desk() -> dict[str, Any]:
    """All of it."""
    with tempfile.TemporaryDirectory() as folder, throwaway() as services, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*BROWSER_ARGUMENTS, *_UNPACED])
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=services.url)
        sign_in(page)
        minute = _read(page, Path(folder), "a minute", 60.0, ["Odalys"])
        long = _read(page, Path(folder), "ten minutes", 600.0, ["Odalys", "Brindle", "Pim"])
        page.add_init_script(_READY)
        usable = _usable(page, minute)
        edits = page.evaluate(_EDIT, _EDITS)
        long_usable = _usable(page, long)
        page.wait_for_timeout(1500)
        smooth = {what: page.evaluate(_SMOOTH, [what, _FRAMES]) for what in ("scroll", "zoom")}
        long_edits = page.evaluate(_EDIT, 20)
        page.goto(minute)
        page.wait_for_function("() => window.readyAt > 0")
        memory = _memory(page, page.context.new_cdp_session(page))
        played = _played(page)
        cold = {name: _cold(browser, page, address) for name, address in (("a minute", minute), ("ten minutes", long))}
        browser.close()
    return {
        **{f"{name}: usable, nothing of it known": row for name, row in cold.items()},
        "a minute: usable": {"median ms": round(statistics.median(usable)), "worst ms": round(max(usable))},
        "a minute: an edit": _edit_row(edits),
        "ten minutes, three characters: usable": {"median ms": round(statistics.median(long_usable))},
        "ten minutes, three characters: an edit": _edit_row(long_edits),
        **{
            f"ten minutes, three characters: {what}": {
                "frame ms, median": _quantile(times, 0.5),
                "95 %": _quantile(times, 0.95),
                "worst": round(max(times), 1),
            }
            for what, times in smooth.items()
        },
        "three characters play on a background": {
            "frame ms, median": _quantile(played, 0.5),
            "95 %": _quantile(played, 0.95),
            "worst": round(max(played), 1),
        },
        "half an hour of work on a minute": memory,
    }


def _edit_row(edits: dict[str, list[float]]) -> dict[str, Any]:
    return {
        "seen ms, median": _quantile(edits["seen"], 0.5),
        "seen ms, 95 %": _quantile(edits["seen"], 0.95),
        "confirmed ms, median": _quantile(edits["confirmed"], 0.5),
        "confirmed ms, 95 %": _quantile(edits["confirmed"], 0.95),
    }
