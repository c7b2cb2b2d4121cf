import json

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from tests.browser.conftest import AXE
from tests.browser.step import check_step

#: For so many seconds, once each drawn frame was drawn: the sound clock, and what the Stage shows.
WATCH = """async (seconds) => {
  const audio = document.querySelector("#sound");
  const stage = document.querySelector("#stage");
  const out = [];
  const end = performance.now() + seconds * 1000;
  while (performance.now() < end) {
    await new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)));
    if (!audio.paused) out.push([audio.currentTime, Number(stage.dataset.frame), Number(stage.dataset.drawing),
      [...stage.querySelectorAll(".mouth")].filter((m) => !m.hidden).length]);
  }
  return out;
}"""

#: For so long is looked whether the mouth is the one due (seconds).
WATCHED_S = 6


def document(page):
    return json.loads(page.locator("#desk-document").text_content())


@pytest.mark.alone
@pytest.mark.parametrize(("speed", "label"), [(1, "100"), (0.5, "50"), (0.25, "25 %")])
def test_the_mouth_drawn_is_the_one_due_at_the_sound_clock(desk, speed, label):
    shot = document(desk)
    desk.get_by_role("button", name=label, exact=True).click()
    desk.get_by_role("button", name="Loop").click()
    desk.get_by_role("button", name="Play", exact=True).click()
    seen = desk.evaluate(WATCH, WATCHED_S)
    rate = shot["shot"]["rate"][0] / shot["shot"]["rate"][1]
    drawing_on = [h["drawing"] for h in shot["characters"][0]["holds"] for _ in range(h["start"], h["end"])]
    last = shot["shot"]["frames"] - 1
    check_step([(clock, shown) for clock, shown, *_ in seen], lambda s: min(last, int(round(s * 1e6) * rate // 1e6)))
    played = seen[-1][0] - seen[0][0] if speed < 1 else WATCHED_S
    # A slow machine begins late.
    assert WATCHED_S * speed * 0.5 < played <= WATCHED_S * speed * 1.1
    assert all(drawing == drawing_on[shown] and visible == 1 for _, shown, drawing, visible in seen)


def test_keys_step_play_and_jump(desk):
    frame = desk.locator("#frame")
    expect(frame).to_have_text("0001")
    for key, number in [
        ("ArrowRight", "0002"),
        ("ArrowDown", "0003"),
        ("ArrowLeft", "0002"),
        ("PageDown", "0026"),
        ("Home", "0001"),
    ]:
        desk.keyboard.press(key)
        expect(frame).to_have_text(number)
    desk.keyboard.press("End")
    expect(frame).to_have_text(f"{document(desk)['shot']['frames']:04d}")
    desk.keyboard.press("Home")
    desk.keyboard.press(" ")
    expect(desk.get_by_role("button", name="Pause")).to_be_visible()
    expect(frame).not_to_have_text("0001")
    desk.keyboard.press("k")
    expect(desk.get_by_role("button", name="Play", exact=True)).to_be_visible()
    desk.keyboard.press("i")
    expect(desk.get_by_role("button", name="50", exact=True)).to_have_attribute("aria-pressed", "true")
    desk.keyboard.press("o")
    expect(desk.get_by_role("button", name="Loop")).to_have_attribute("aria-pressed", "true")
    desk.keyboard.press("?")
    expect(desk.get_by_role("dialog")).to_contain_text("Next second look")


def test_a_click_on_sheet_lens_or_strip_sets_the_playhead(desk):
    desk.locator("#sheet").click(position={"x": 60, "y": 26 + 16 * 10 + 8})
    expect(desk.locator("#frame")).to_have_text("0011")
    box = desk.locator("#strip").bounding_box()
    desk.locator("#strip").click(position={"x": box["width"] / 2, "y": 20})
    middle = document(desk)["shot"]["frames"] // 2
    assert abs(int(desk.locator("#frame").text_content()) - middle) <= 2
    before = int(desk.locator("#frame").text_content())
    desk.locator("#lens canvas").click(position={"x": 5, "y": 60})
    assert int(desk.locator("#frame").text_content()) != before


def test_the_tray_and_the_stage_agree_with_the_sheet(desk):
    shot = document(desk)
    number_of = {d["id"]: str(d["number"]) for d in shot["characters"][0]["drawings"]}
    for hold in shot["characters"][0]["holds"][1:12:3]:
        desk.keyboard.press("Home")
        for _ in range(hold["start"]):
            desk.keyboard.press("ArrowRight")
        assert desk.locator("#stage").get_attribute("data-drawing") == str(hold["drawing"])
        expect(desk.locator("#tray [aria-current] .no")).to_have_text(number_of[hold["drawing"]])


@pytest.mark.parametrize("size", [(1280, 800), (1024, 768), (1920, 1080)])
def test_the_whole_desk_is_in_sight_without_scrolling_the_page(desk, size):
    desk.set_viewport_size({"width": size[0], "height": size[1]})
    assert desk.evaluate(
        "document.documentElement.scrollHeight <= innerHeight && document.documentElement.scrollWidth <= innerWidth"
    )
    for part in ("#sheet", "#stage .picture", "#tray", "#lens", "#strip"):
        box = desk.locator(part).bounding_box()
        assert box["width"] > 150
        assert box["x"] + box["width"] <= size[0] + 1
        assert box["y"] + box["height"] <= size[1] + 1


@pytest.mark.parametrize("theme", AXE)
def test_no_page_has_a_fault_that_axe_finds(desk, theme):
    desk.emulate_media(color_scheme=theme)
    here = desk.url
    pages = [
        here,
        here.replace("desk", ""),
        here.replace("desk", "handover"),
        here.replace("desk", "handover?as=sheet-pdf"),
        here.replace("desk", "import"),
        here.replace("desk", "set"),
        "/productions/1/handover",
        "/",
        "/productions/new",
        "/cast/",
        "/jobs/",
        here.replace("desk", "sound"),
        "/productions/1/takes",
        "/productions/1/record?shot=2",
        "/productions/1/script",
        "/productions/1/edit",
        "/takes/1/",
        "/help/",
        "/help/the-desk",
        "/help/when-something-goes-wrong",
        "/account/email/",
        "/account/password/change/",
        "/archive",
        "/productions/1/pronunciations",
    ]
    faults = []
    for address in pages:
        desk.goto(address)
        found = Axe().run(desk, options=AXE[theme]).response["violations"]
        faults += [(address, v["id"], [n["html"][:120] for n in v["nodes"]][:3]) for v in found]
    assert not faults
