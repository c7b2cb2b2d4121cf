"""How loud a clip is, set on the Desk by mouse and by key, and heard in the mix."""

import pytest
from playwright.sync_api import expect

from tests.browser.test_lens import lens  # noqa: F401
from tests.browser.test_sheet import settled
from tests.browser.test_sound import LOUDNESS


def level(page):
    return page.get_by_role("group", name="Volume of the clip").get_by_role("button", name="dB")


def test_the_clip_at_the_playhead_is_turned_up_and_down_on_the_desk(lens):  # noqa: F811
    page = lens
    before = page.evaluate(LOUDNESS)
    expect(level(page)).to_have_text("0 dB")
    page.keyboard.press("End")
    page.get_by_role("button", name="Quieter").click()
    for _ in range(5):
        page.keyboard.press("Control+ArrowDown")
    expect(level(page)).to_have_text("−6 dB")
    settled(page)
    assert page.evaluate(LOUDNESS) == pytest.approx(before - 6, abs=0.3)
    # The playhead stays where it is, and one step is taken back after the other.
    assert page.evaluate("document.querySelector('audio').currentTime") > 0.5
    page.keyboard.press("Control+z")
    expect(level(page)).to_have_text("−5 dB")
    page.get_by_role("button", name="Louder").click()
    expect(level(page)).to_have_text("−4 dB")
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    expect(level(page)).to_have_text("−4 dB")
    page.keyboard.press("Control+0")
    expect(level(page)).to_have_text("0 dB")
    settled(page)
    assert page.evaluate(LOUDNESS) == pytest.approx(before, abs=0.3)


def test_what_plays_plays_on_while_it_is_turned_down(lens):  # noqa: F811
    page = lens
    sound, frame = page.locator("audio"), page.locator("#frame")
    page.keyboard.press("o")
    page.keyboard.press("Control+a")
    page.keyboard.press("Shift+ ")
    expect(frame).not_to_have_text("0001")
    was = sound.get_attribute("src")
    page.keyboard.press("Control+ArrowDown")
    expect(sound).not_to_have_attribute("src", was)
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    # It goes round: the selection is still what is played.
    assert sound.evaluate(
        """(audio) => new Promise((done) => {
          let last = audio.currentTime;
          audio.addEventListener("timeupdate", () => {
            if (audio.currentTime < last) done(true);
            last = audio.currentTime;
          });
        })"""
    )
    page.keyboard.press("k")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    page.keyboard.press("o")
    page.keyboard.press("Escape")
