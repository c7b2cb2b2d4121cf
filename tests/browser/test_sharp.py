"""Everything is drawn in the pixels of the screen, however many it has to a CSS pixel."""

import pytest

from tests.browser.conftest import DESKS, open_desk

_CANVASES = """() => [...document.querySelectorAll("#sheet canvas, #lens canvas, #strip canvas")]
  .map((one) => [one.width / one.clientWidth, one.height / one.clientHeight])"""


@pytest.mark.parametrize("ratio", [1, 1.5, 2])
def test_the_desk_is_sharp(signed_in, browser, base_url, ratio):
    open_desk(signed_in, "020 The counter")
    fine = browser.new_context(base_url=base_url, viewport={"width": 1280, "height": 800}, device_scale_factor=ratio)
    fine.add_cookies(signed_in.context.cookies())
    page = fine.new_page()
    page.goto(DESKS["020 The counter"])
    page.wait_for_selector("html[data-desk=ready]")
    found = page.evaluate(_CANVASES)
    assert len(found) == 3
    for across, down in found:
        assert across == pytest.approx(ratio, abs=0.02)
        assert down == pytest.approx(ratio, abs=0.02)
    fine.close()
