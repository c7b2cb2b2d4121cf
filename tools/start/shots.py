"""Pictures of each main view, made from the demo film in a headless browser."""

from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tools.start.services import demo_login, throwaway

CHROMIUM = "/usr/bin/chromium"
#: A browser without a screen, as root too, that leaves the network alone.
BROWSER_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]


def sign_in(page: Page) -> None:
    """Sign in as the demo's user."""
    page.goto("/account/login/")
    page.get_by_label("Email").fill(demo_login()["email"])
    page.get_by_label("Password").fill(demo_login()["password"])
    page.get_by_role("button", name="Sign in", exact=True).click()
    page.wait_for_url("**/")


def _go(page: Page, path: str) -> None:
    page.goto(path)


def _production(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()


def _wait_until_read(page: Page) -> None:
    for _ in range(120):
        _production(page)
        if page.get_by_role("cell", name="read", exact=True).count() == 4:
            return
        page.wait_for_timeout(500)
    raise TimeoutError("The demo was not read in a minute.")


def _desk(page: Page, frames: int = 0, shot: str = "020 The counter") -> None:
    _production(page)
    page.get_by_role("link", name=shot).click()
    page.wait_for_selector("html[data-desk=ready]")
    for _ in range(frames):
        page.keyboard.press("ArrowRight")
    page.wait_for_timeout(700)


def _words(page: Page) -> None:
    _production(page)
    page.get_by_role("link", name="Sound and words").nth(3).click()


def _sound(page: Page) -> None:
    _words(page)
    page.get_by_role("link", name="Clips and turns").click()
    page.wait_for_selector("#lanes canvas[data-drawn]")
    for _ in range(3):
        page.keyboard.press("PageDown")
    page.locator("[data-list=turns] button").nth(1).click()
    page.wait_for_timeout(900)


def _takes(page: Page) -> None:
    _production(page)
    page.get_by_role("link", name="Takes").click()
    page.wait_for_timeout(900)


def _script(page: Page) -> None:
    _production(page)
    page.get_by_role("link", name="Script").click()
    page.locator("#words").fill(
        "# 050 The morning\nODALYS: The sun is up, and the bread is gone.\nBRINDLE: [yawns] Then the first tram is "
        "mine.\n"
        "MAYOR: Is there nothing left for me?\n# 060 The depot\nBRINDLE: Last stop. Everybody sleeps.\nPIM (es): "
        "Hasta mañana."
    )
    page.get_by_role("button", name="Preview import").click()
    page.wait_for_timeout(400)


def _record(page: Page) -> None:
    _words(page)
    page.get_by_role("link", name="Record").click()
    page.get_by_label("Count in").select_option("0")
    page.get_by_label("Microphone").select_option("stand-in")
    page.wait_for_timeout(500)
    for seconds in (2.6, 1.9):
        page.get_by_role("button", name="Record").click()
        page.wait_for_timeout(seconds * 1000)
        page.get_by_role("button", name="Stop").click()
    page.wait_for_timeout(300)


def _dials(page: Page) -> None:
    """A second look in hand, and the dials."""
    _desk(page)
    page.keyboard.press("n")
    page.get_by_role("button", name="Settings").click()
    page.wait_for_timeout(700)


def _acting(page: Page) -> None:
    """A head in hand, with what is proposed of it."""
    _desk(page, 62, "040 The last loaf")
    page.keyboard.press("F7")
    page.get_by_role("button", name="Brindle", exact=True).click()
    page.wait_for_timeout(800)


def _pronunciations(page: Page) -> None:
    _production(page)
    page.get_by_role("link", name="Pronunciations").click()


def _handover(page: Page, way: str = "Movie with sound") -> None:
    """The hand-over page with a preview."""
    _desk(page, 60, "040 The last loaf")
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name=way).click()
    page.wait_for_selector(".preview img")


def _at_the_set(page: Page) -> None:
    """The guide beside a set, on a frame in the middle of a word."""
    _desk(page, 60, "020 The counter")
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name="Guide at the set").click()
    page.wait_for_selector("html[data-set=ready]")
    for _ in range(22):
        page.keyboard.press("ArrowDown")


def _chart(page: Page) -> None:
    page.goto("/cast/")
    page.get_by_role("link").filter(has=page.get_by_text("Odalys", exact=True)).click()
    page.wait_for_selector("html[data-chart=ready]")
    # Small copies are made by a job, once.
    page.wait_for_timeout(2500)
    page.reload()
    page.locator('[data-number="14"] .picture').click()
    page.wait_for_timeout(500)


def _step(page: Page, name: str) -> None:
    _chart(page)
    page.get_by_role("link", name=name, exact=True).click()
    page.wait_for_timeout(700)


def _starter(page: Page) -> None:
    _step(page, "Starter chart")
    page.get_by_text("muzzle", exact=True).click()
    page.get_by_role("button", name="glad", exact=True).click()
    page.wait_for_timeout(900)


def make_shots(target: Path) -> None:
    """Write a picture of each main view at 1280 x 800, and the Desk dark and smaller."""
    target.mkdir(parents=True, exist_ok=True)
    views: list[tuple[str, Callable[[Page], None], tuple[int, int], bool]] = [
        ("productions", lambda page: _go(page, "/"), (1280, 800), False),
        ("shots", _production, (1280, 800), False),
        ("cast", lambda page: _go(page, "/cast/"), (1280, 800), False),
        ("chart", _chart, (1280, 800), False),
        ("place", lambda page: _step(page, "Place"), (1280, 800), False),
        ("starter-chart", _starter, (1280, 800), False),
        ("words", _words, (1280, 800), False),
        ("sound", _sound, (1280, 800), False),
        ("takes", _takes, (1280, 800), False),
        ("record", _record, (1280, 800), False),
        ("script", _script, (1280, 800), False),
        ("desk", lambda page: _desk(page, 60, "040 The last loaf"), (1280, 800), False),
        ("desk-dark", lambda page: _desk(page, 40), (1280, 800), True),
        ("desk-1024", _dials, (1024, 768), False),
        ("acting", _acting, (1280, 800), False),
        ("pronunciations", _pronunciations, (1280, 800), False),
        ("hand-over", _handover, (1280, 800), False),
        ("sheet-pdf", lambda page: _handover(page, "Exposure sheet on paper (PDF)"), (1280, 800), False),
        ("at-the-set", _at_the_set, (1280, 800), False),
    ]
    with throwaway() as services, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=BROWSER_ARGUMENTS)
        for name, go, (width, height), dark in views:
            page = browser.new_page(
                viewport={"width": width, "height": height},
                color_scheme="dark" if dark else "light",
                base_url=services.url,
            )
            sign_in(page)
            _wait_until_read(page)
            go(page)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=str(target / f"{name}.png"))
            page.close()
        browser.close()
