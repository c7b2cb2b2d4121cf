"""Dials, pins and second looks on the Desk, by mouse and by keyboard."""

import json

from playwright.sync_api import expect

from tests.browser.test_lens import reading, take_back
from tests.browser.test_sheet import holds_of, settled


def drawing_at(page):
    return page.locator("#stage").get_attribute("data-drawing")


def seek(page, frame):
    page.keyboard.press("Home")
    for _ in range(frame):
        page.keyboard.press("ArrowRight")


def test_turning_a_dial_shows_other_mouths_at_once_and_they_stay(desk):
    page = desk
    page.get_by_role("button", name="Settings").click()
    numbers = page.locator('[data-part="numbers"]')
    before = numbers.text_content()
    # While it is turned it is shown and not kept; let go, it is a step that can be undone.
    detail = page.get_by_label("Detail")
    detail.evaluate("input => { input.value = 0; input.dispatchEvent(new Event('input', { bubbles: true })); }")
    expect(numbers).not_to_have_text(before)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    expect(numbers).to_have_text(before)
    page.get_by_role("button", name="Settings").click()
    detail.fill("0")
    expect(numbers).not_to_have_text(before)
    settled(page)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(numbers).to_have_text(before)
    page.get_by_label("Lead").press("ArrowRight")
    expect(page.locator('#lens [data-part="timing"]')).to_have_text("lead 2 · shortest 2")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.locator('#lens [data-part="timing"]')).to_have_text("lead 1 · shortest 2")
    page.get_by_label("Locked on").press("ArrowRight")
    expect(page.get_by_label("Locked on").locator("xpath=..")).to_contain_text("twos")
    expect(page.locator('#lens [data-part="timing"]')).to_have_text("lead 1 · shortest 2 · locked on twos")
    settled(page)
    starts = [hold["start"] for hold in holds_of(page)[0]["holds"]]
    assert len(starts) > 10
    assert not any(start % 2 for start in starts)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.locator('#lens [data-part="timing"]')).to_have_text("lead 1 · shortest 2")
    page.get_by_label("Presets").select_option("sparse, on threes")
    expect(page.locator('#lens [data-part="timing"]')).to_have_text("lead 2 · shortest 3")
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    expect(page.locator('#lens [data-part="timing"]')).to_have_text("lead 2 · shortest 3")
    page.get_by_role("button", name="Settings").click()
    page.get_by_role("button", name="Reset to default").click()
    expect(page.locator('#lens [data-part="timing"]')).to_have_text("lead 1 · shortest 2")


def test_a_mouth_is_pinned_with_its_key_undone_and_let_go_by_keyboard_alone(desk):
    page = desk
    seek(page, 20)
    before = drawing_at(page)
    page.keyboard.press("d")
    expect(page.locator("#stage")).not_to_have_attribute("data-drawing", before)
    expect(page.get_by_role("button", name="Back to automatic")).to_be_enabled()
    page.keyboard.press("Control+z")
    expect(page.locator("#stage")).to_have_attribute("data-drawing", before)
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("#stage")).not_to_have_attribute("data-drawing", before)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    seek(page, 20)
    expect(page.locator("#stage")).not_to_have_attribute("data-drawing", before)
    page.keyboard.press("Backspace")
    expect(page.locator("#stage")).to_have_attribute("data-drawing", before)
    page.keyboard.press(".")
    expect(page.locator("#stage")).to_have_attribute("data-drawing", "0")
    expect(page.locator('[data-part="why"]')).to_contain_text("no mouth")
    page.keyboard.press("Backspace")
    expect(page.locator("#stage")).to_have_attribute("data-drawing", before)
    page.keyboard.press("Shift+Enter")
    expect(page.get_by_role("button", name="Back to automatic")).to_be_enabled()
    page.keyboard.press("Backspace")
    expect(page.get_by_role("button", name="Back to automatic")).to_be_disabled()
    settled(page)


def test_a_mouth_is_pinned_by_pressing_it_in_the_tray(desk):
    page = desk
    seek(page, 20)
    before = drawing_at(page)
    other = page.locator("#tray .mouths li:visible:not([aria-current])").first
    wanted = other.get_attribute("data-drawing")
    other.click()
    expect(page.locator("#stage")).to_have_attribute("data-drawing", wanted)
    expect(page.locator('[data-part="reason"]')).to_contain_text("pinned by hand")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.locator("#stage")).to_have_attribute("data-drawing", before)
    expect(page.locator('[data-part="reason"]')).to_contain_text("Others cost more")


def test_second_looks_are_walked_through_worst_first_and_settled(desk):
    page = desk
    count = page.locator('.looks [data-part="count"]')
    # An open mouth all through: lips that should meet do not, which is worth a look.
    page.keyboard.press("Control+a")
    page.keyboard.press("v")
    expect(count).to_contain_text("left of")
    settled(page)
    page.keyboard.press("n")
    expect(count).to_contain_text("1 of ")
    left = int(count.text_content().split(" of ")[1])
    expect(page.locator('.looks [data-part="look"]')).not_to_have_text("")
    page.keyboard.press("/")
    if left > 1:
        expect(count).to_have_text(f"1 of {left - 1}")
    else:
        expect(count).to_contain_text("0 left")
    settled(page)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    expect(count).to_contain_text(f"{left - 1} left of")
    take_back(page)


def test_a_second_look_plays_itself_and_the_playhead_comes_back(desk):
    page = desk
    page.keyboard.press("Control+a")
    page.keyboard.press("v")
    settled(page)
    playing = page.locator(".transport .main")
    page.keyboard.press("n")
    expect(playing).to_have_attribute("data-playing", "true")
    first = page.locator("#frame").text_content()
    expect(playing).to_have_attribute("data-playing", "false")
    stood = page.locator("#frame").text_content()
    # A third of a second before it, and back to it.
    assert int(stood) > int(first)
    page.keyboard.press("p")
    page.keyboard.press("n")
    expect(playing).to_have_attribute("data-playing", "true")
    expect(playing).to_have_attribute("data-playing", "false")
    expect(page.locator("#frame")).to_have_text(stood)
    take_back(page)


def reload_with_a_doubt(page, word, *, kind, text, corrections):
    """The page anew, as if this word had been heard and were in doubt, and the doubt is the one looked at."""

    def with_a_doubt(route):
        answer = route.fetch()
        doubt = {"kind": kind, "start": word["start"], "end": word["end"], "text": text, "severity": 1}
        doubt |= {"key": "0" * 16, "settled": False, "who": 0, "corrections": corrections}
        before, after = answer.text().split('"looks": [', 1)
        more = "" if after.startswith("]") else ", "
        route.fulfill(response=answer, body=f'{before}"looks": [{json.dumps(doubt)}{more}{after}')

    page.route(page.url, with_a_doubt, times=1)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("n")


PRONOUNCE = {"text": "Change how it is said", "edit": "", "parameters": {}, "goes": "pronounce"}


def test_a_doubt_about_a_pronunciation_leads_there_and_back(desk):
    page = desk
    first = reading(page)["words"][0]
    address = page.url
    reload_with_a_doubt(page, first, kind="unknown", text="Check it", corrections=[PRONOUNCE])
    page.keyboard.press("Alt+1")
    page.get_by_role("heading", name="Pronunciations").wait_for()
    expect(page.get_by_role("row").filter(has_text=first["text"].lower()).first).to_be_visible()
    page.get_by_role("link", name="Back to the Desk").click()
    page.wait_for_url(address)


def test_a_word_in_doubt_is_answered_with_one_key(desk):
    page = desk
    first = reading(page)["words"][0]
    retypes = [
        {
            "text": text,
            "edit": "retype",
            "parameters": {"word": first["id"], "clip": first["clip"], "text": text},
            "goes": "",
        }
        for text in ("Kettle", "Lost")
    ]
    text = f"“{first['text']}” may not be what is said here"
    reload_with_a_doubt(page, first, kind="doubt", text=text, corrections=[*retypes, PRONOUNCE])
    answers = page.locator(".looks .corrections button")
    expect(answers).to_have_text(["Kettle", "Lost", "Change how it is said"])
    page.keyboard.press("Alt+2")
    settled(page)
    words = reading(page)["words"]
    assert (words[0]["text"], words[0]["start"], words[0]["end"]) == ("Lost", first["start"], first["end"])
    page.get_by_role("button", name="Undo", exact=True).click()
    settled(page)
