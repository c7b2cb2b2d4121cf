"""Recording in the browser."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import WORK_MS
from tests.browser.test_sound import add_shot, production, production_address, told

__all__ = ["production"]


def record(page, times, milliseconds=900):
    page.locator("#count-in").select_option("0")
    for _ in range(times):
        page.get_by_role("button", name="Record").click()
        page.wait_for_timeout(milliseconds)
        page.get_by_role("button", name="Stop").click()


@pytest.mark.alone
def test_takes_are_recorded_compared_and_kept(production):
    page = production
    shot = add_shot(page, "010 The line")
    page.goto(page.url.replace(f"/shots/{shot}/", "") + f"{production_address(page, shot)}/record?shot={shot}")
    page.wait_for_selector("html[data-record=ready]")
    page.get_by_label("Microphone").select_option("any")
    page.wait_for_function("() => document.querySelector('#record').dataset.open === 'any'")
    # The sample is heard: the level rises.
    page.wait_for_function("() => Number(document.querySelector('#level').value) > -40")
    assert page.locator("#microphone option[data-device]").count() >= 1
    record(page, 2)
    takes = page.locator("#record-takes li")
    expect(takes).to_have_count(2)
    takes.nth(1).get_by_label("Play this take").click()
    expect(takes.nth(1).locator(".play-button")).to_have_attribute("data-playing", "")
    takes.nth(0).get_by_label("Delete this take").click()
    takes.nth(0).get_by_label("Name of this take").fill("The good one")
    page.get_by_role("button", name="Save selected takes").click()
    page.wait_for_url(f"**/shots/{shot}/sound")
    # The page shows the clip by itself once its sound is opened.
    expect(page.locator("[data-list=clips] button")).to_have_count(1, timeout=WORK_MS)
    found = told(page, shot)
    (take,) = found["takes"].values()
    assert take["name"] == "The good one.wav"
    assert 500_000 < take["durationUs"] < 3_000_000


@pytest.mark.alone
def test_a_recording_outlives_the_page_until_the_server_has_it(production):
    """Recorded, the page loaded anew, the server without room, and only then imported."""
    page = production
    shot = add_shot(page, "020 The counter again")
    address = f"{production_address(page, shot)}/record?shot={shot}"
    page.goto(address)
    page.wait_for_selector("html[data-record=ready]")
    page.get_by_label("Microphone").select_option("any")
    page.wait_for_function("() => document.querySelector('#record').dataset.open === 'any'")
    record(page, 1)
    takes = page.locator("#record-takes li")
    expect(takes).to_have_count(1)
    page.wait_for_function("() => document.querySelector('#record').dataset.keptHere")
    page.once("dialog", lambda dialog: dialog.accept())
    page.reload()
    expect(takes).to_have_count(1)
    expect(page.locator("#record-said")).to_contain_text("it exists only in this browser")
    page.route("**/takes/upload", lambda route: route.fulfill(status=503, json={"error": "There is no room left."}))
    page.get_by_role("button", name="Save selected takes").click()
    expect(page.locator("#record-said")).to_contain_text("There is no room left.")
    expect(takes).to_have_count(1)
    page.unroute("**/takes/upload")
    page.get_by_role("button", name="Save selected takes").click()
    page.wait_for_url(f"**/shots/{shot}/sound")
    expect(page.locator("[data-list=clips] button")).to_have_count(1, timeout=WORK_MS)
    page.goto(address)
    page.wait_for_function("() => document.querySelector('#record').dataset.broughtBack === '0'")
    expect(takes).to_have_count(0)
