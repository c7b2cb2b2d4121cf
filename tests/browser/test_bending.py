"""A mouth bent by its cage: with the pointer, by keys, on a hold, and in what is handed over."""

import numpy as np
from playwright.sync_api import expect

from tests.browser.test_handover import away, exported, picture_of, saved
from tests.browser.test_moving import go, keys, motion, moving  # noqa: F401

BENT = "#stage .figure .is-bent > .bent"


def point(page, name):
    return page.get_by_role("button", name=f"Bend: {name}", exact=True)


def cage(page, frame=36):
    """The cage of the mouth on a frame where it is wide open."""
    page.locator("#moving [data-moves='mouth']").click()
    page.evaluate("document.activeElement.blur()")
    go(page, frame)
    page.get_by_role("button", name="Bend", exact=True).click()
    expect(point(page, "middle")).to_be_visible()


def pull(page, name, across, down):
    box = point(page, name).bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + across, y + down, steps=4)
    page.mouse.up()


def mouth(page):
    """The keys of the mouth: frame and numbers."""
    return [(key["frame"], key["pose"]) for key in motion(page).get("mouth", [])]


def test_a_point_is_pulled_where_the_pointer_goes_and_the_mouth_is_bent_on_its_hold_alone(moving):  # noqa: F811
    page = moving
    cage(page)
    straight = picture_of(page)
    before = point(page, "bottom").bounding_box()
    pull(page, "bottom", 4, 22)
    expect(page.locator(BENT)).to_be_visible()
    after = point(page, "bottom").bounding_box()
    assert abs(after["x"] - before["x"] - 4) < 1.5
    assert abs(after["y"] - before["y"] - 22) < 1.5
    saved(page)
    ((frame, pose),) = mouth(page)
    assert (frame, len(pose)) == (36, 24)
    assert [n for n, number in enumerate(pose) if number] == [20, 21]
    assert (away(picture_of(page), straight) > 60).sum() > 100
    page.get_by_role("button", name="On this hold").click()
    saved(page)
    # Eased in before the hold and out after it, where it is straight.
    assert [(frame, len(pose)) for frame, pose in mouth(page)] == [(33, 6), (35, 24), (38, 24), (40, 6)]
    go(page, 33)
    expect(page.locator(BENT)).to_be_hidden()
    page.keyboard.press("ArrowRight")
    expect(page.locator(BENT)).to_be_visible()
    go(page, 36)
    page.get_by_role("button", name="Straighten").click()
    saved(page)
    assert dict(mouth(page))[36] == [0, 0, 0, 0, 0, 0]
    expect(page.locator(BENT)).to_be_hidden()


def test_arrow_keys_pull_and_no_pull_folds_the_mouth_over_itself(moving):  # noqa: F811
    page = moving
    cage(page)
    point(page, "right").focus()
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Shift+ArrowLeft")
    saved(page)
    ((_, pose),) = mouth(page)
    assert (pose[16], pose[17]) == (-5, -1)
    # Far over the other side: it goes as far as it can.
    pull(page, "right", -400, 0)
    saved(page)
    ((_, pose),) = mouth(page)
    assert -60 < pose[16] < -15
    expect(page.locator("#trouble")).to_be_empty()
    page.get_by_role("button", name="Mirror", exact=True).click()
    saved(page)
    ((_, other),) = mouth(page)
    assert (other[12], other[13]) == (-pose[16], pose[17])


def test_heads_have_no_cage_and_a_locked_mouth_is_not_bent(moving):  # noqa: F811
    page = moving
    expect(page.get_by_role("button", name="Bend", exact=True)).to_be_disabled()
    cage(page)
    page.get_by_role("button", name="Lock", exact=True).click()
    pull(page, "bottom", 0, 20)
    expect(page.locator("#trouble")).to_contain_text("is locked")
    assert keys(page)["mouth"] == 0
    page.get_by_role("button", name="Lock", exact=True).click()


def test_a_bent_mouth_is_handed_over_as_the_stage_shows_it(moving):  # noqa: F811
    page = moving
    straight = picture_of(page)
    cage(page)
    straight = picture_of(page)
    pull(page, "bottom", -6, 20)
    pull(page, "right", 8, -14)
    saved(page)
    here = page.url
    frame = int(page.locator("#frame").inner_text())
    page.get_by_role("button", name="Bend", exact=True).click()
    expect(point(page, "middle")).to_be_hidden()
    seen = picture_of(page)
    made = exported(page, frame, seen.size)
    assert (away(made, seen) <= 6).mean() > 0.9
    # The corners of the Stage's picture are round.
    inside = (6, 6, seen.width - 6, seen.height - 6)
    blurred = [np.asarray(image.crop(inside).reduce(6), dtype=int) for image in (made, seen)]
    assert np.abs(blurred[0] - blurred[1]).max() < 40
    assert away(made, seen).mean() < 0.6 * away(made, straight).mean()
    page.goto(here)
    page.wait_for_selector("html[data-desk=ready]")
