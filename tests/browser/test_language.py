"""What scripts say can be said in another language, too."""

import re

from playwright.sync_api import expect

from tests.pseudo import LANGUAGE, unmarked

#: What a person reads on a page as it is now, or hears of it, but for names of keys and of languages; and what people
#: typed, drew and said, as the page's document has it.
READ = """() => {
  const others = "script, style, kbd, dt, pre, template, select[name=language], select[name=spoken]";
  const texts = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) {
    const node = walker.currentNode;
    if (!node.parentElement.closest(others)) texts.push(node.textContent);
  }
  for (const element of document.querySelectorAll("[title], [aria-label], [placeholder]")) {
    if (element.closest(others)) continue;
    // A key stands behind what it does.
    for (const name of ["title", "aria-label", "placeholder"]) {
      texts.push((element.getAttribute(name) || "").replace(/ \\([^()]*\\)$/, ""));
    }
  }
  const named = [];
  const walk = (value, key) => {
    if (typeof value === "string" && ["text", "name", "ipa", "sounds", "key"].includes(key)) named.push(value);
    if (!value || typeof value !== "object") return;
    for (const [own, one] of Object.entries(value)) walk(one, Array.isArray(value) ? key : own);
  };
  const told = document.querySelectorAll("script[type='application/json']");
  for (const script of told) walk(JSON.parse(script.textContent), "");
  return { texts, named };
}"""
#: What the demo's people named.
NAMES = {"Last Tram, First Loaf", "Odalys", "Brindle", "Pim", "demo@tinfork.example", "Night Bakery Pictures"}


def left_on(page):
    """The words on a page that were not given to translators."""
    read = page.evaluate(READ)
    texts = [re.sub(r"\w+\.(wav|webm)\b", "", text) for text in read["texts"]]
    return unmarked(texts, NAMES | {name for name in read["named"] if name.strip()})


def in_marks(page):
    """The page anew, in the language whose letters are marked."""
    page.set_extra_http_headers({"Accept-Language": LANGUAGE})
    page.reload()
    expect(page.locator("html")).to_have_attribute("lang", LANGUAGE)


def test_the_desk_says_nothing_that_translators_are_not_given(desk):
    in_marks(desk)
    desk.wait_for_selector("html[data-desk=ready]")
    expect(desk.locator("#tray [data-part=reason]")).to_have_text(re.compile(r"\w"))
    assert left_on(desk) == set()
    # Help, settings, arranging, moving, a second look, versions, holds as a list, a note, a word, columns.
    for key in (
        "?",
        "Escape",
        "Control+.",
        "F8",
        "F8",
        "F7",
        "F7",
        "n",
        "Control+s",
        "Escape",
        "Control+l",
        "Control+,",
        "F2",
    ):
        desk.keyboard.press(key)
        assert (key, left_on(desk)) == (key, set())


def test_the_page_of_a_shots_sound_too(desk):
    desk.get_by_role("link", name="Sound", exact=True).click()
    in_marks(desk)
    expect(desk.locator("[data-list=clips] li")).not_to_have_count(0)
    assert left_on(desk) == set()
    for key in ("?", "Escape", "l", "m"):
        desk.keyboard.press(key)
        assert (key, left_on(desk)) == (key, set())
