"""The whole application, started as ./run demo starts it, and a person in a browser."""

import os
import re
import subprocess

import pytest
from playwright.sync_api import expect

from tests.pseudo import make_language
from tools.demo.stand_in_face import SHIPPED as STAND_IN
from tools.start.services import ROOT, demo_login, throwaway
from tools.start.shots import BROWSER_ARGUMENTS, CHROMIUM

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


# A slow machine is not a fault: only what never comes is.
expect.set_options(timeout=20_000)
#: How long what the worker does may take, with all that waits before it.
WORK_MS = 180_000

#: What axe looks at: everything, and in the dark what can be different there.
AXE = {
    # What is to be pressed measures 24 CSS pixels at least, or has as much room (WCAG 2.2, 2.5.8).
    "light": {"resultTypes": ["violations"], "rules": {"target-size": {"enabled": True}}},
    "dark": {"resultTypes": ["violations"], "runOnly": ["color-contrast", "link-in-text-block"]},
}

#: A microphone for machines without one: it hears the shipped sample.
FAKE_MICROPHONE = [
    "--use-fake-device-for-media-stream",
    "--use-fake-ui-for-media-stream",
    f"--use-file-for-fake-audio-capture={ROOT / 'tinfork/static/sounds/stand-in.wav'}",
]


@pytest.fixture(scope="session")
def services(tmp_path_factory):
    """Database, web process and worker of their own, with the demo film; and a language whose letters are marked."""
    locale = tmp_path_factory.mktemp("locale")
    make_language(locale)
    os.environ["TINFORK_LOCALE"] = str(locale)
    with throwaway() as running:
        yield running


@pytest.fixture(scope="session")
def browser_type_launch_args(tmp_path_factory):
    # A camera for machines without one: it sees a painted face that acts.
    seen = tmp_path_factory.mktemp("camera") / "seen.mjpeg"
    made = ["ffmpeg", "-v", "error", "-i", str(STAND_IN), "-q:v", "4", "-f", "mjpeg", str(seen)]
    subprocess.run(made, check=True)
    camera = f"--use-file-for-fake-video-capture={seen}"
    return {"executable_path": CHROMIUM, "args": [*BROWSER_ARGUMENTS, *FAKE_MICROPHONE, camera]}


@pytest.fixture(scope="session")
def base_url(services):
    return f"http://localhost:{services.port}"


#: What a browser itself says of answers that refuse something, of a connection that a test cuts, and of a page that a
#: test wrote, which may not listen to this machine.
EXPECTED = re.compile(
    "status of 4|status of 503|ERR_INTERNET_DISCONNECTED|ERR_FILE_NOT_FOUND|ERR_UPLOAD_FILE_CHANGED|ERR_FAILED|"
    "`loopback` address space"
)


@pytest.fixture(scope="session")
def profile(browser, base_url):
    """One browser profile for all tests: what ships with the site is fetched once, as by a person at work."""
    profile = browser.new_context(base_url=base_url, viewport={"width": 1280, "height": 800})
    profile.set_default_timeout(60_000)
    yield profile
    profile.close()


@pytest.fixture
def context(profile, base_url):
    """The profile, signed out, with nothing that an earlier test left in it."""
    profile.clear_cookies()
    yield profile
    profile.set_offline(False)
    for page in profile.pages:
        page.close()
    cleaner = profile.new_page()
    cleaner.goto("/healthy")
    cleaner.evaluate("localStorage.clear()")
    cleaner.close()


@pytest.fixture
def page(page):
    """A page on which no script error and no refused resource goes unseen."""
    troubles = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda m: troubles.append(m.text) if m.type == "error" and not EXPECTED.search(m.text) else None)
    yield page
    assert not troubles


@pytest.fixture(scope="session")
def ticket(browser, base_url):
    """The cookies of somebody who signed in once, through the page."""
    context = browser.new_context(base_url=base_url)
    page = context.new_page()
    page.goto("/")
    page.get_by_label("Email").fill(demo_login()["email"])
    page.get_by_label("Password").fill(demo_login()["password"])
    page.get_by_role("button", name="Sign in", exact=True).click()
    page.get_by_role("heading", name="Productions").wait_for()
    cookies = context.cookies()
    context.close()
    return cookies


@pytest.fixture
def signed_in(page, ticket):
    page.context.add_cookies(ticket)
    page.goto("/")
    page.get_by_role("heading", name="Productions").wait_for()
    return page


@pytest.fixture
def desk(signed_in):
    """The Desk of the demo's second shot, once it is read."""
    return open_desk(signed_in, "020 The counter")


#: The addresses of Desks by shot, as they were found.
DESKS = {}


def _read_shot(page, shot):
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()
    row = page.get_by_role("row").filter(has_text=shot)
    for _ in range(240):
        if row.get_by_role("cell", name="read", exact=True).count():
            break
        page.wait_for_timeout(500)
        page.reload()
    return row.get_by_role("link", name=shot).get_attribute("href")


def open_desk(page, shot):
    """The Desk of a shot of the demo, once it is read."""
    if shot not in DESKS:
        DESKS[shot] = _read_shot(page, shot)
    # What earlier tests left to the worker would play along in what is measured here.
    for _ in range(360):
        if not re.search("Running|Waiting for its turn", page.request.get("/jobs/").text()):
            break
        page.wait_for_timeout(500)
    page.goto(DESKS[shot])
    page.wait_for_selector("html[data-desk=ready]")
    return page
