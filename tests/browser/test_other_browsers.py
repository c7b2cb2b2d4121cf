"""The short way through a shot in Debian's Firefox and WebKit; every other test goes through Chromium."""

import math

import pytest

from tests.browser.conftest import DESKS, open_desk
from tests.browser.others import firefox, sound_output, webkit
from tools.start.services import demo_login

SHOT = "020 The counter"
_BUTTON = "[...document.querySelectorAll('button')].find((one) => one.textContent.trim() === '{}')"

#: The time of the sound and the number of the frame that is shown, at each picture that is drawn.
_WATCHED = """new Promise((done) => {
  const sound = document.querySelector("#sound"), frame = document.querySelector("#frame"), out = [];
  const look = () => {
    out.push([sound.currentTime, frame.textContent]);
    if (out.length < 90) requestAnimationFrame(look);
    else done(out);
  };
  requestAnimationFrame(look);
})"""


#: How many pins the server knows of.
_PINS = """fetch(location.href).then((answer) => answer.text()).then((text) => {
  const page = new DOMParser().parseFromString(text, "text/html");
  return JSON.parse(page.querySelector("#desk-document").textContent).characters[0].pins.length;
})"""


@pytest.fixture(params=["firefox", "webkit"])
def visitor(request):
    with sound_output() as sound, {"firefox": firefox, "webkit": webkit}[request.param](sound) as one:
        yield one


def sign_in(visitor, base_url):
    login = demo_login()
    visitor.go(f"{base_url}/account/login/")
    for name, value in (("login", login["email"]), ("password", login["password"])):
        visitor.run(f"(document.querySelector('[name={name}]').value = '{value}', 1)")
    visitor.run("(document.querySelector('[name=login]').form.requestSubmit(), 1)")
    visitor.wait_for("document.querySelector('h1')?.textContent === 'Productions'")


# Selenium's own part for WebKit uses what Selenium calls old.
@pytest.mark.filterwarnings("ignore:setting remote_server_addr:DeprecationWarning")
def test_a_shot_is_played_edited_and_handed_over(signed_in, visitor, base_url):
    open_desk(signed_in, SHOT)
    desk = base_url + DESKS[SHOT]
    sign_in(visitor, base_url)
    visitor.go(desk)
    visitor.wait_for("document.documentElement.dataset.desk === 'ready'")
    # Every picture is there: drawings that came together, faces, the background.
    broken = "[...document.images].filter((one) => one.getAttribute('src') && one.complete && !one.naturalWidth).length"
    assert visitor.run(broken) == 0
    play(visitor)
    edit(visitor)
    visitor.go(desk.replace("/desk", "/handover?as=csv"))
    made = visitor.run(f"fetch('{desk.replace('/desk', '/handover/csv')}').then((answer) => answer.text())")
    assert made.startswith("frame,")
    assert visitor.errors == []


def play(visitor):
    """The frame that is shown is the one due at the sound's clock."""
    visitor.press(" ")
    visitor.wait_for("document.querySelector('#sound').currentTime > 0.2")
    watched = visitor.run(_WATCHED)
    visitor.press(" ")
    # WebKit's clock moves in steps of about a tenth of a second here; what is shown follows it.
    assert len({shown for _, shown in watched}) > (10 if visitor.name == "Firefox" else 5)
    # A picture is drawn a moment after the clock was read: what is due then may be one frame on.
    off = [int(shown) - 1 - math.floor(at * 24 + 1e-6) for at, shown in watched]
    assert set(off) <= {-1, 0}
    assert off.count(0) >= 0.8 * len(off)


def edit(visitor):
    undo = _BUTTON.format("Undo")
    visitor.press("Home")
    was = visitor.run(f"{undo}.disabled")
    visitor.press("v")
    visitor.wait_for(f"!{undo}.disabled && document.documentElement.dataset.waiting === '0'")
    pinned = visitor.run(_PINS)
    visitor.run(f"({undo}.click(), 1)")
    visitor.wait_for(f"{undo}.disabled === {str(was).lower()} && document.documentElement.dataset.waiting === '0'")
    assert visitor.run(_PINS) == pinned - 1
