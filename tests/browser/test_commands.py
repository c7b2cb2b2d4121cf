"""The list of commands and keys: found, run, given another key."""

import pytest
from playwright.sync_api import expect


@pytest.fixture
def commands(desk):
    desk.keyboard.press("?")
    dialog = desk.get_by_role("dialog", name="Commands and keys")
    expect(dialog.get_by_role("searchbox")).to_be_focused()
    return dialog


def test_a_command_is_found_by_its_words_and_run(desk, commands):
    expect(commands.get_by_role("heading", name="Words and sounds")).to_be_visible()
    desk.keyboard.type("last fra")
    expect(commands.get_by_role("listitem")).to_have_count(1)
    expect(commands.get_by_role("heading", name="Words and sounds")).to_be_hidden()
    desk.keyboard.press("Enter")
    expect(commands).to_be_hidden()
    expect(desk.locator("#frame")).to_have_text("0299")
    desk.keyboard.press("?")
    desk.keyboard.type("nothing like this")
    expect(commands.get_by_text("No command has these words.")).to_be_visible()


def test_a_command_is_given_another_key_which_it_keeps(desk, commands):
    desk.keyboard.type("last frame")
    change = commands.get_by_role("button", name="Change the key of: Last frame")
    change.click()
    # Another command's key stays with it.
    desk.keyboard.press("Home")
    expect(commands.get_by_text("That key is used for “First frame”. Press another one.")).to_be_visible()
    desk.keyboard.press("Control+Shift+e")
    expect(change).to_have_text("Ctrl ⇧ E")
    desk.reload()
    desk.wait_for_selector("html[data-desk=ready]")
    desk.keyboard.press("End")
    expect(desk.locator("#frame")).to_have_text("0001")
    desk.keyboard.press("Control+Shift+e")
    expect(desk.locator("#frame")).to_have_text("0299")
    desk.keyboard.press("?")
    desk.get_by_role("button", name="Reset all keys").click()
    desk.keyboard.press("Escape")
    desk.keyboard.press("Home")
    desk.keyboard.press("End")
    expect(desk.locator("#frame")).to_have_text("0299")


def test_printed_it_is_alone_on_the_paper(desk, commands):
    desk.emulate_media(media="print")
    expect(commands.get_by_text("Play and pause")).to_be_visible()
    expect(desk.locator("#stage")).to_be_hidden()
    desk.emulate_media(media="screen")


def test_frames_are_selected_by_word_line_turn_and_second(desk):
    desk.keyboard.press("End")
    desk.keyboard.press("Home")
    for _ in range(25):
        desk.keyboard.press("ArrowRight")
    selected = desk.locator("#selected")
    lengths = []
    for key in ("|", "Control+\\", "Control+|"):
        desk.keyboard.press(key)
        expect(selected).not_to_have_text("")
        lengths.append(int(selected.text_content().rpartition("(")[2].rstrip(")")))
    word, line, turn = lengths
    assert word < line <= turn
    desk.keyboard.press("Control+;")
    expect(selected).to_have_text("25–48 (24)")


def test_panes_are_resized_by_hand_and_by_keys_and_stay_so(desk):
    edge = desk.get_by_role("separator", name="Width of the Tray")
    tray = desk.locator("#tray")
    before = tray.bounding_box()["width"]
    box = edge.bounding_box()
    desk.mouse.move(box["x"] + 4, box["y"] + 90)
    desk.mouse.down()
    desk.mouse.move(box["x"] - 56, box["y"] + 90)
    desk.mouse.up()
    assert abs(tray.bounding_box()["width"] - before - 60) < 2
    edge.focus()
    desk.keyboard.press("ArrowRight")
    assert abs(tray.bounding_box()["width"] - before - 44) < 2
    desk.reload()
    desk.wait_for_selector("html[data-desk=ready]")
    assert abs(tray.bounding_box()["width"] - before - 44) < 2
    edge.dblclick()
    assert abs(tray.bounding_box()["width"] - before) < 2
