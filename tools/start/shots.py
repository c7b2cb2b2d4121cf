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


def wait_until_read(page: Page) -> None:
    """Show the demo's film and wait until all its shots are read."""
    _production(page)
    page.wait_for_function(
        "() => document.querySelectorAll('#shots tbody tr').length &&"
        " [...document.querySelectorAll('#shots tbody tr')].every((row) => row.cells[3].textContent === 'read')",
        timeout=600_000,
    )


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


def _remark(page: Page) -> None:
    """A remark with an arrow is written at the Desk."""
    _desk(page, 27, "020 The counter")
    page.keyboard.press("Control+Shift+Enter")
    page.locator("#remark [name=text]").fill("Jaw lower here, and hold it, @demo")
    page.get_by_role("button", name="Arrow", exact=True).click()
    box = page.locator("#stage .sketch").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] * 0.78, box["y"] + box["height"] * 0.5)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.56, box["y"] + box["height"] * 0.72, steps=6)
    page.mouse.up()
    page.wait_for_timeout(300)


def _board(page: Page) -> None:
    """Shots under their statuses, with their pictures."""
    page.goto("/productions/1/board")
    for name, status in (
        ("010 The tram stop", "approved"),
        ("020 The counter", "to_review"),
        ("030 The oven", "in_hand"),
    ):
        page.locator(".shot-card").filter(has_text=name).drag_to(page.locator(f"[data-status={status}]"))
        page.wait_for_load_state()
    page.wait_for_function("() => [...document.querySelectorAll('.shot-card img')].every((one) => one.src)")
    page.wait_for_timeout(300)


def _review(page: Page) -> None:
    """What a link opens, on a phone: a remark is drawn."""
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto("/productions/1/reviews")
    page.get_by_label("Who is it for").fill("Ms Kettle")
    page.get_by_label("Shots").select_option(label="020 The counter")
    page.get_by_role("button", name="Create link").click()
    link = page.get_by_label("Review link").input_value()
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(link)
    page.locator("#film").wait_for(timeout=120_000)
    page.wait_for_function("() => document.querySelector('#film').readyState >= 3")
    page.locator("#at").fill("27")
    page.get_by_role("button", name="Pen").click()
    box = page.locator("#sketch").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] * 0.36, box["y"] + box["height"] * 0.7)
    page.mouse.down()
    for x, y in ((0.42, 0.84), (0.5, 0.88), (0.58, 0.84), (0.64, 0.7)):
        page.mouse.move(box["x"] + box["width"] * x, box["y"] + box["height"] * y, steps=3)
    page.mouse.up()
    page.get_by_label("Your name").fill("Ms Kettle")
    page.get_by_role("textbox", name="Remark on").fill("Rounder, along this line.")
    page.evaluate("scrollTo(0, 0)")
    page.wait_for_timeout(300)


def _compare(page: Page) -> None:
    """A version and what is there now, on a frame that differs."""
    _desk(page, 27, "030 The oven")
    address = page.url.replace("/desk", "/remarks")
    page.goto(address)
    page.get_by_role("button", name="Approve").click()
    page.goto(address.replace("/remarks", "/desk") + "#24")
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("z")
    page.wait_for_function("() => document.documentElement.dataset.waiting === '0'")
    page.goto(address)
    page.get_by_role("button", name="Compare").click()
    page.locator("#both").wait_for(timeout=120_000)
    page.wait_for_function("() => document.querySelector('#film').readyState >= 3")
    page.get_by_role("button", name="Next difference").click()
    page.wait_for_timeout(700)


def make_shots(target: Path) -> None:
    """Write a picture of each main view at 1280 x 800, and the Desk dark and smaller."""
    target.mkdir(parents=True, exist_ok=True)
    views: list[tuple[str, Callable[[Page], None], tuple[int, int], bool]] = [
        ("productions", lambda page: _go(page, "/"), (1280, 800), False),
        ("shots", _production, (1280, 800), False),
        ("cast", lambda page: _go(page, "/cast/"), (1280, 800), False),
        ("chart", _chart, (1280, 800), False),
        ("words", _words, (1280, 800), False),
        ("sound", _sound, (1280, 800), False),
        ("takes", _takes, (1280, 800), False),
        ("script", _script, (1280, 800), False),
        ("desk", lambda page: _desk(page, 60, "040 The last loaf"), (1280, 800), False),
        ("desk-dark", lambda page: _desk(page, 40), (1280, 800), True),
        ("desk-1024", _dials, (1024, 768), False),
        ("acting", _acting, (1280, 800), False),
        ("hand-over", _handover, (1280, 800), False),
        ("sheet-pdf", lambda page: _handover(page, "Exposure sheet on paper (PDF)"), (1280, 800), False),
        ("at-the-set", _at_the_set, (1280, 800), False),
        ("board", _board, (1280, 800), False),
        ("remark", _remark, (1280, 800), False),
        ("review-phone", _review, (390, 844), False),
        ("compare", _compare, (1280, 800), False),
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
            wait_until_read(page)
            go(page)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=str(target / f"{name}.png"))
            page.close()
        browser.close()
