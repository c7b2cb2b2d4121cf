"""The camera beside the Stage: a mirror of which nothing is kept."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import open_desk


@pytest.fixture
def desk(signed_in):
    page = open_desk(signed_in, "020 The counter")
    page.keyboard.press("F7")
    return page


def refuse(page, name):
    """From now on the camera is refused as browsers do it."""
    page.evaluate(
        "(name) => (navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException('', name)))", name
    )


def test_one_sees_oneself_beside_the_stage_and_nothing_leaves_the_page(desk):
    page = desk
    sent = []
    page.on("request", lambda request: sent.append(request.url) if request.method == "POST" else None)
    camera, video = page.get_by_role("button", name="Camera"), page.get_by_label("Camera picture")
    before = page.locator("#stage .picture").bounding_box()
    expect(video).to_be_hidden()
    page.keyboard.press("F6")
    expect(video).to_be_visible()
    expect(camera).to_have_attribute("aria-pressed", "true")
    page.wait_for_function("() => document.querySelector('#camera video').currentTime > 0.2")
    # As in a mirror: left is left.
    assert video.evaluate("(video) => getComputedStyle(video).transform").startswith("matrix(-1, 0, 0, 1")
    box, own = page.locator("#stage .picture").bounding_box(), video.bounding_box()
    assert own["x"] + own["width"] <= box["x"] + 1 or own["y"] + own["height"] <= box["y"] + 1
    stage = page.locator("#stage").bounding_box()
    assert box["x"] >= stage["x"] and box["x"] + box["width"] <= stage["x"] + stage["width"] + 1
    # Nothing is cut off: the camera at the top, the fields of what is moved beneath.
    assert own["y"] >= stage["y"] and box["y"] >= stage["y"]
    fields = page.locator("#moving").bounding_box()
    assert fields["y"] + fields["height"] <= stage["y"] + stage["height"] + 1
    # It is there whether or not a part is moved.
    page.keyboard.press("F7")
    expect(video).to_be_visible()
    page.keyboard.press("F7")
    track = page.evaluate_handle("document.querySelector('#camera video').srcObject.getVideoTracks()[0]")
    camera.click()
    expect(video).to_be_hidden()
    assert track.evaluate("(track) => track.readyState") == "ended"
    assert page.locator("#stage .picture").bounding_box() == before
    assert sent == []


@pytest.mark.parametrize(
    ("name", "says"),
    [("NotAllowedError", "blocked the camera"), ("NotFoundError", "No camera found"),
     ("NotReadableError", "Another program"), ("AbortError", "could not be opened")],
)  # fmt: skip
def test_what_is_in_the_way_is_said(desk, name, says):
    refuse(desk, name)
    desk.get_by_role("button", name="Camera").click()
    expect(desk.locator("#trouble")).to_contain_text(says)
    expect(desk.get_by_label("Camera picture")).to_be_hidden()
    expect(desk.get_by_role("button", name="Camera")).to_have_attribute("aria-pressed", "false")


def test_a_camera_that_is_unplugged_says_so(desk):
    page = desk
    page.keyboard.press("F6")
    expect(page.get_by_label("Camera picture")).to_be_visible()
    page.evaluate(
        "document.querySelector('#camera video').srcObject.getVideoTracks()[0].dispatchEvent(new Event('ended'))"
    )
    expect(page.locator("#trouble")).to_contain_text("Plug it in and turn it on again")
    expect(page.get_by_label("Camera picture")).to_be_hidden()
