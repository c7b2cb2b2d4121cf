"""Words, pronunciations and readings without words, as a person meets them."""

from playwright.sync_api import expect

from tests import sounds
from tests.browser.conftest import WORK_MS
from tests.browser.test_flow import bring, make_shot


def to_pronunciations(page):
    page.goto("/")
    page.get_by_role("link", name="Toad Songs").click()
    page.get_by_role("link", name="Pronunciations").click()
    page.wait_for_selector("html[data-pronounce=ready]")


def test_an_odd_word_is_heard_corrected_by_picking_sounds_and_read_again(signed_in):
    page = signed_in
    make_shot(page, "Toad Songs")
    bring(page, sounds.sentence_wav("The baker Zorbelquint opens the door."), "The baker Zorbelquint opens the door.")
    page.wait_for_url("**/desk", timeout=WORK_MS)
    to_pronunciations(page)
    row = page.get_by_role("row").filter(has_text="Zorbelquint")
    field = row.get_by_label("How “Zorbelquint” is pronounced")
    guessed = field.input_value()
    assert guessed.startswith("z")
    row.get_by_role("button", name="Hear").click()
    expect(row.locator("form")).to_have_attribute("data-heard", guessed)
    field.fill("zɔb")
    page.get_by_role("button", name="ɛ", exact=True).click()
    page.get_by_role("button", name="l", exact=True).click()
    expect(field).to_be_focused()
    expect(field).to_have_value("zɔbɛl")
    row.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("“Zorbelquint” is pronounced so from now on.")).to_be_visible()
    expect(page.get_by_text("Its lines in 1 shot are being read again.")).to_be_visible()
    row.get_by_role("button", name="As usual").click()
    expect(page.get_by_text("is pronounced as usual again")).to_be_visible()
    expect(field).to_have_value(guessed)


def test_what_is_no_sound_is_said_beside_the_list(signed_in):
    page = signed_in
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()
    page.get_by_role("link", name="Pronunciations").click()
    page.get_by_label("Find a word").fill("tr")
    page.get_by_role("button", name="Find").click()
    row = page.get_by_role("row").filter(has_text="tram").first
    row.get_by_role("textbox").fill("t!r")
    row.get_by_role("button", name="Hear").click()
    expect(page.get_by_role("alert").filter(has_text="is not a letter of the IPA")).to_be_visible()


def test_a_shot_without_words_is_read_by_ear(signed_in):
    page = signed_in
    make_shot(page, "Nameless Songs")
    page.get_by_label("By ear").check()
    bring(page, sounds.sentence_wav(), "")
    page.wait_for_url("**/desk", timeout=WORK_MS)
    expect(page.get_by_text("Read by ear, without words")).to_be_visible()


def test_a_draft_is_written_into_the_words(signed_in):
    page = signed_in
    make_shot(page, "Drafted Songs")
    page.get_by_label("Listen for the words").check()
    bring(page, sounds.sentence_wav(), "")
    expect(page.get_by_label("Words", exact=True)).not_to_have_value("", timeout=WORK_MS)
