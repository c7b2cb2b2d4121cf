"""Two people at one shot while connections go and processes are killed: nothing that was acknowledged is lost, and both
see what there is.

Forty seconds of it, or as many as TINFORK_SOAK_S says (`./run soak`).
"""

import base64
import io
import json
import os
import random
import time

import psycopg
import pytest
from PIL import Image, ImageChops

from tests.browser.conftest import open_desk
from tests.browser.test_sheet import at, settled

LENGTH_S = float(os.environ.get("TINFORK_SOAK_S", "28"))
SEED = int(os.environ.get("TINFORK_SOAK_SEED", "0")) or random.randrange(10**6)
#: How often somebody kills the web process or the workers (seconds).
KILL_S = 13


#: The page notes what each edit was answered, as the application gets it: of a page that is being left, the driver does
#: not report every answer.
NOTE_ANSWERS = """(() => {
  const send = window.fetch;
  window.fetch = async (url, init) => {
    const answer = await send(url, init);
    if (!String(url).endsWith("/mouths")) return answer;
    const answers = JSON.parse(sessionStorage.getItem("answers") || "{}");
    answers[JSON.parse(init.body).token] = answer.status;
    sessionStorage.setItem("answers", JSON.stringify(answers));
    return answer;
  };
})()"""


class Person:
    """Somebody at the Desk: what they sent, and what was acknowledged of it."""

    def __init__(self, context, ticket, dice, number=0):
        self.context, self.dice, self.number = context, dice, number
        context.add_cookies(ticket)
        self.page = context.new_page()
        self.page.add_init_script(NOTE_ANSWERS)
        self.sent, self.notes, self.count = {}, {}, 0
        self.page.on("request", self._sent)
        open_desk(self.page, "020 The counter")
        self.address = self.page.url

    def _sent(self, request):
        if request.url.endswith("/mouths"):
            body = json.loads(request.post_data)
            self.sent[body["token"]] = body["name"]
            if body["name"] == "note":
                self.notes[body["parameters"]["frame"]] = body["parameters"]["text"]

    def answered(self, *statuses):
        """The edits that were answered with one of these."""
        answers = self.page.evaluate("JSON.parse(sessionStorage.getItem('answers') || '{}')")
        return {token for token, status in answers.items() if status in statuses}

    def act(self):
        """One thing that an animator does on some of the first frames: notes stand on frames of one's own."""
        page, frame = self.page, self.dice.randrange(2, 30)
        if self.dice.random() < 0.4:
            self.count += 1
            page.mouse.click(*at(page, 2 * (frame // 2) + self.number))
            page.keyboard.press("Control+Enter")
            page.locator("#note").fill(f"note {self.number}.{self.count}")
            page.keyboard.press("Enter")
            return
        page.mouse.click(*at(page, frame))
        for _ in range(self.dice.randrange(3)):
            page.keyboard.press("Shift+ArrowDown")
        page.keyboard.press(
            self.dice.choice(["d", "v", "s", "a", "f", "Backspace", "Alt+ArrowDown", "Control+ArrowRight", "[", "]"])
        )
        page.keyboard.press("Escape")

    def come_back(self):
        """Load the Desk anew, as soon as there is somebody who answers."""
        for _ in range(100):
            try:
                self.page.goto(self.address)
                self.page.wait_for_selector("html[data-desk=ready]", timeout=5000)
            except Exception:
                self.page.wait_for_timeout(300)
            else:
                return

    def refused(self):
        found = self.page.evaluate(
            "JSON.parse(Object.entries(localStorage).find(([key]) => key.startsWith('tinfork-refused'))?.[1] || '[]')"
        )
        return {one["edit"]["token"] for one in found}

    def picture(self):
        """The Sheet as it is drawn, from the top, nothing selected."""
        self.page.evaluate("window.dispatchEvent(new Event('focus'))")
        self.page.locator("#sheet").focus()
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("Home")
        return self.page.locator("#sheet canvas").first.evaluate("(canvas) => canvas.toDataURL()")


def where_they_differ(*drawn):
    """The box (left, top, right, bottom) in which two pictures are not the same, of how large a picture."""
    one, other = (Image.open(io.BytesIO(base64.b64decode(url.partition(",")[2]))).convert("RGB") for url in drawn)
    return ImageChops.difference(one, other).getbbox(), one.size


def document_of(page):
    """What the server says of the shot now."""
    text = page.request.get(page.url).text()
    return json.loads(text.split('<script id="desk-document" type="application/json">')[1].split("</script>")[0])


@pytest.fixture
def people(browser, base_url, ticket):
    dice = random.Random(SEED)
    contexts = [browser.new_context(base_url=base_url, viewport={"width": 1280, "height": 800}) for _ in range(2)]
    yield [Person(context, ticket, dice, number) for number, context in enumerate(contexts)], dice
    for context in contexts:
        context.close()


def kill(services, dice):
    """Kill what works or what answers, as a crash would, and start it anew."""
    if dice.random() < 0.5:
        services.kill_worker()
        services.start_worker()
        return
    services.running["web"].kill()
    services.running["web"].wait()
    services.start_web()


@pytest.mark.alone
def test_two_people_lose_nothing_while_connections_and_processes_go(people, services):
    (both, dice), began = people, time.monotonic()
    next_kill = began + KILL_S
    while time.monotonic() < began + LENGTH_S:
        person = dice.choice(both)
        chance = dice.random()
        if chance < 0.06:
            person.come_back()
        elif chance < 0.14:
            person.context.set_offline(True)
            for _ in range(dice.randrange(1, 4)):
                person.act()
            person.context.set_offline(False)
        else:
            person.act()
        if time.monotonic() > next_kill:
            next_kill += KILL_S
            kill(services, dice)
    for person in both:
        settled(person.page)
    said = f"seed {SEED}"
    with psycopg.connect(services.cluster.url("tinfork")) as connection:
        kept = {row[0] for row in connection.execute("SELECT token FROM reading_edit WHERE token <> ''")}
    notes = {note["frame"]: note["text"] for note in document_of(both[0].page)["notes"]}
    for person in both:
        acknowledged = person.answered(200)
        assert len(acknowledged) > LENGTH_S / 6, said
        # What changes nothing leaves no row (pinning what is pinned so already); a new note always changes something.
        written = {token for token, name in person.sent.items() if name == "note"}
        assert len(written) > LENGTH_S / 20, said
        assert written <= kept, said
        assert written <= acknowledged, said
        assert person.notes == {frame: text for frame, text in notes.items() if frame in person.notes}, said
        # Whatever else was sent was done, or refused in words: nothing waits any more.
        assert set(person.sent) <= acknowledged | person.answered(409, 422) | person.refused(), said
    # A page that is opened now shows what there is; those that were there all the time show the same.
    fresh = Person(both[0].context, both[0].context.cookies(), dice)
    for person in both:
        for _ in range(50):
            if person.picture() == fresh.picture():
                break
            person.page.wait_for_timeout(200)
        mine, theirs = person.picture(), fresh.picture()
        assert mine == theirs, f"{said}: the Sheets differ in {where_they_differ(mine, theirs)}"
