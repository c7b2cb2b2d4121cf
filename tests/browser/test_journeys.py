"""How many actions a person needs, counted: a click, a field that is filled in, a choice, a file that is given."""

from playwright.sync_api import expect

from tests import sounds
from tests.browser.conftest import WORK_MS

SCRIPT = f"""# 110 Kettle
ODALYS: {sounds.CONVERSATION[0][1]}
# 120 Tram
BRINDLE: {sounds.CONVERSATION[1][1]}
# 130 Bread
ODALYS: {sounds.CONVERSATION[2][1]}
"""


class Hands:
    """A person's hands on a page: each thing that they do counts once."""

    def __init__(self, page):
        self.page, self.actions = page, 0

    def press(self, role, name, **more):
        self.actions += 1
        self.page.get_by_role(role, name=name, **more).first.click()

    def fill(self, label, text):
        self.actions += 1
        self.page.get_by_label(label, exact=True).first.fill(text)

    def give(self, place, name, data):
        self.actions += 1
        self.page.set_input_files(place, {"name": name, "mimeType": "audio/wav", "buffer": data})


def new_production(hands, name):
    hands.press("link", "New production")
    hands.fill("Name", name)
    hands.press("button", "Create production")


def test_one_line_from_nothing_to_a_table_takes_seven_actions(signed_in):
    hands = Hands(signed_in)
    new_production(hands, "One Line")
    hands.give("#drop-file", "kettle.wav", sounds.sentence_wav())
    signed_in.wait_for_url("**/desk", timeout=WORK_MS)
    hands.press("link", "Hand over")
    hands.press("link", "Exposure sheet as a table (CSV)")
    with signed_in.expect_download() as table:
        hands.press("button", "Download .csv")
    assert table.value.suggested_filename.endswith(".csv")
    assert hands.actions == 7


def test_three_shots_from_one_script_and_one_recording_take_ten_actions(signed_in):
    hands = Hands(signed_in)
    new_production(hands, "Three Shots")
    hands.press("link", "Script")
    hands.fill("The script", SCRIPT)
    hands.press("button", "Preview import")
    hands.press("button", "Import lines into shots")
    hands.give("#drop-file", "session.wav", sounds.conversation()[0])
    # The recording's page says which lines it has, and where they are.
    expect(signed_in.get_by_text("3 of the script's 3 lines were found")).to_be_visible(timeout=WORK_MS)
    hands.press("link", "Three Shots")
    hands.press("link", "120 Tram")
    expect(signed_in.locator("html[data-desk=ready]")).to_be_visible()
    assert hands.actions == 10


def test_a_conversation_with_a_script_takes_eight_actions(signed_in):
    hands = Hands(signed_in)
    new_production(hands, "Talk")
    hands.fill("Shot", "010 Talk")
    hands.press("button", "Add shot")
    hands.fill("Words", sounds.CONVERSATION_WORDS)
    hands.give("input[name=sound]", "talk.wav", sounds.conversation()[0])
    hands.press("button", "Read the track")
    signed_in.wait_for_url("**/desk", timeout=WORK_MS)
    assert hands.actions == 8
