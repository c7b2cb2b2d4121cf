"""How much a Desk asks of a connection."""

import re

from tests.browser.conftest import DESKS, open_desk
from tools.start.traffic import Traffic

#: A shot of three characters, the demo's fullest; what is recorded and filmed is as long as it is.
SHOT, RECORDED = "The last loaf", ("/mix", "/film")


def test_a_desk_asks_for_little_when_nothing_of_it_is_known(signed_in, browser, base_url):
    open_desk(signed_in, SHOT)
    cold = browser.new_context(base_url=base_url, viewport={"width": 1280, "height": 800})
    cold.add_cookies(signed_in.context.cookies())
    page = cold.new_page()
    traffic = Traffic(cold.new_cdp_session(page))
    page.goto(DESKS[SHOT])
    page.wait_for_selector("html[data-desk=ready]")
    page.wait_for_load_state("networkidle")
    assert len(traffic.answers) <= 40, sorted(traffic.answers)
    assert traffic.kilobytes(RECORDED) <= 500, sorted(traffic.answers)
    # Each drawing is there, whichever way it came.
    broken = "() => [...document.images].filter((one) => one.getAttribute('src') && !one.naturalWidth).length"
    assert page.evaluate(broken) == 0
    assert not [path for path, _ in traffic.answers if re.search(r"/drawings/\d+/", path)]
    cold.close()


def test_a_second_visit_fetches_only_what_may_have_changed(signed_in):
    page = open_desk(signed_in, SHOT)
    traffic = Traffic(page.context.new_cdp_session(page))
    page.goto(DESKS[SHOT])
    page.wait_for_selector("html[data-desk=ready]")
    page.wait_for_load_state("networkidle")
    assert not [path for path, size in traffic.answers if re.search(r"^/static/|drawings\.json|/face", path) and size]


def test_drawings_are_fetched_one_by_one_where_their_common_answer_does_not_come(signed_in):
    page = open_desk(signed_in, SHOT)
    page.route("**/drawings.json*", lambda route: route.abort("internetdisconnected"))
    page.goto(DESKS[SHOT])
    page.wait_for_selector("html[data-desk=ready]")
    page.wait_for_selector("#tray img[src*='/picture']")
    page.unroute("**/drawings.json*")
    assert page.locator("#tray img").count() > 10
    assert page.evaluate("() => [...document.querySelectorAll('#tray img')].every((one) => one.decode)")
