"""Pictures of each main view, made from the demo film in a headless browser."""

import io
from collections.abc import Callable
from pathlib import Path

from PIL import Image
from playwright.sync_api import FilePayload, Page, sync_playwright

from tinfork.core.mouths.starter import starter_pictures
from tinfork.engines.raster import png_from_svg
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


def _sign_in(page: Page) -> None:
    page.goto("/account/login/")
    page.get_by_label("Email").fill(demo_login()["email"])
    page.get_by_label("Password").fill(demo_login()["password"])
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url("**/")


def _go(page: Page, path: str) -> None:
    page.goto(path)


def _production(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()


def _wait_until_read(page: Page) -> None:
    for _ in range(120):
        _production(page)
        if page.get_by_role("cell", name="read", exact=True).count() == 3:
            return
        page.wait_for_timeout(500)
    raise TimeoutError("The demo was not read in a minute.")


def _desk(page: Page, frames: int = 0) -> None:
    _production(page)
    page.get_by_role("link", name="020 The counter").click()
    page.wait_for_selector("html[data-desk=ready]")
    for _ in range(frames):
        page.keyboard.press("ArrowRight")
    page.wait_for_timeout(700)


def _words(page: Page) -> None:
    _production(page)
    page.get_by_role("link", name="Sound and words").nth(1).click()


def _handover(page: Page) -> None:
    _desk(page)
    page.get_by_role("link", name="Hand over").click()


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


def _cut(page: Page) -> None:
    """The starter mouths on one page, looked at and not cut."""
    _chart(page)
    pictures = [Image.open(io.BytesIO(png_from_svg(svg, 320))) for svg in starter_pictures().values()]
    sheet = Image.new("RGB", (5 * 330 + 30, 3 * 220 + 60), "#fffdf8")
    for at, picture in enumerate(pictures):
        sheet.paste(picture, (20 + at % 5 * 330, 10 + at // 5 * 220), picture.convert("RGBA"))
    out = io.BytesIO()
    sheet.save(out, "PNG")
    page.locator("#page-file").set_input_files(
        FilePayload(name="Odalys, all mouths.png", mimeType="image/png", buffer=out.getvalue())
    )
    page.wait_for_url("**/pages/*/")
    page.wait_for_timeout(600)


def make_shots(target: Path) -> None:
    """Write a picture of each main view at 1280 x 800, and the Desk dark and smaller."""
    target.mkdir(parents=True, exist_ok=True)
    views: list[tuple[str, Callable[[Page], None], tuple[int, int], bool]] = [
        ("productions", lambda page: _go(page, "/"), (1280, 800), False),
        ("shots", _production, (1280, 800), False),
        ("cast", lambda page: _go(page, "/cast/"), (1280, 800), False),
        ("chart", _chart, (1280, 800), False),
        ("chart-dark", _chart, (1280, 800), True),
        ("place", lambda page: _step(page, "Place"), (1280, 800), False),
        ("check", lambda page: _step(page, "Check"), (1280, 800), False),
        ("starter-chart", _starter, (1280, 800), False),
        ("cut-up", _cut, (1280, 800), False),
        ("words", _words, (1280, 800), False),
        ("desk", lambda page: _desk(page, 55), (1280, 800), False),
        ("desk-dark", lambda page: _desk(page, 40), (1280, 800), True),
        ("desk-1024", lambda page: _desk(page, 55), (1024, 768), False),
        ("hand-over", _handover, (1280, 800), False),
    ]
    with throwaway() as services, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=BROWSER_ARGUMENTS)
        for name, go, (width, height), dark in views:
            page = browser.new_page(
                viewport={"width": width, "height": height},
                color_scheme="dark" if dark else "light",
                base_url=services.url,
            )
            _sign_in(page)
            _wait_until_read(page)
            go(page)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=str(target / f"{name}.png"))
            page.close()
        browser.close()
