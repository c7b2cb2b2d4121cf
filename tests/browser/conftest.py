"""The whole application, started as ./run demo starts it, and a person in a browser."""

import os
import tempfile
from pathlib import Path

import pytest

from tools.start.postgres import free_port
from tools.start.services import bring_up
from tools.start.shots import BROWSER_ARGUMENTS, CHROMIUM

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
EMAIL, PASSWORD = "demo@tinfork.example", "last-tram-first-loaf"


@pytest.fixture(scope="session")
def services():
    """Database, web process and worker of their own, with the demo film."""
    with tempfile.TemporaryDirectory(prefix="tinfork-browser-") as folder:
        Path(folder).chmod(0o755)
        running = bring_up(Path(folder), host="127.0.0.1", port=free_port(), quick=True)
        try:
            running.manage("load_demo")
            running.start_web()
            running.start_worker()
            yield running
        finally:
            running.stop()


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {"executable_path": CHROMIUM, "args": BROWSER_ARGUMENTS}


@pytest.fixture(scope="session")
def base_url(services):
    return f"http://localhost:{services.port}"


@pytest.fixture
def page(page):
    """A page on which no script error and no refused resource goes unseen."""
    page.set_viewport_size({"width": 1280, "height": 800})
    troubles = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda m: troubles.append(m.text) if m.type == "error" and "status of 4" not in m.text else None)
    yield page
    assert not troubles


@pytest.fixture
def signed_in(page):
    page.goto("/")
    page.get_by_label("Email").fill(EMAIL)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Productions").wait_for()
    return page


@pytest.fixture
def desk(signed_in):
    """The Desk of the demo's second shot, once it is read."""
    page = signed_in
    page.get_by_role("link", name="Last Tram").click()
    row = page.get_by_role("row").filter(has_text="020 The counter")
    for _ in range(60):
        if row.get_by_role("cell", name="read", exact=True).count():
            break
        page.wait_for_timeout(500)
        page.reload()
    row.get_by_role("link", name="020 The counter").click()
    page.wait_for_selector("html[data-desk=ready]")
    return page
