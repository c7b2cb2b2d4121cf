"""A character, its chart and the drawings on it, as the browser tests bring them."""

from playwright.sync_api import expect

from tests.browser.conftest import WORK_MS
from tests.pictures import encoded, mouths
from tinfork.core.mouths.style import Style

PICTURES = mouths(Style(kind="muzzle"))


def upload(name, data):
    return {"name": name, "mimeType": "application/octet-stream", "buffer": data}


def fourteen():
    return [upload(f"{n:02d}.png", encoded(p)) for n, p in PICTURES.items()]


def new_character(page, name):
    page.goto("/cast/")
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_role("button", name="Create character").click()
    page.wait_for_url("**/charts/*/")


def upload_files(page, files, count):
    page.locator("#files").set_input_files(files)
    expect(page.locator(".drawing")).to_have_count(count, timeout=WORK_MS)


def open_chart(page, name="Odalys"):
    page.goto("/cast/")
    page.get_by_role("link").filter(has=page.get_by_text(name, exact=True)).click()
    page.wait_for_selector("html[data-chart=ready]")


def card(page, number):
    return page.locator(f'.drawing[data-number="{number}"]')


def coverage(page):
    return page.locator('[data-part="coverage"]')
