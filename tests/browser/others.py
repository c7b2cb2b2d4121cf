"""Firefox and WebKit as Debian has them: the little of each that a short journey needs.

Firefox speaks WebDriver BiDi by itself (https://www.w3.org/TR/webdriver-bidi/); WebKit has a driver of its own, and is
shown on a screen that nobody sees.
"""

import itertools
import json
import os
import re
import shutil
import subprocess
import tempfile
import time
from contextlib import contextmanager, suppress
from pathlib import Path

import websocket
from selenium import webdriver
from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.webkitgtk.options import Options
from selenium.webdriver.webkitgtk.service import Service

SIZE = (1280, 800)
#: How long to wait for a browser (seconds): on a busy machine its first answer has taken more than thirty.
_WAIT_S = 120
_MINI_BROWSER = next(iter(sorted(Path("/usr/lib").glob("*/webkit2gtk-4.1/MiniBrowser"))), Path("MiniBrowser"))
_PREFERENCES = """
user_pref("remote.active-protocols", 1);
user_pref("media.autoplay.default", 0);
user_pref("datareporting.policy.dataSubmissionEnabled", false);
"""


class Visitor:
    """What somebody does in a browser; each browser says how it goes to an address and runs a script."""

    name = ""

    def go(self, address):
        raise NotImplementedError

    def run(self, script):
        """The value of an expression on the page, a promise's once it is there."""
        raise NotImplementedError

    @property
    def errors(self):
        raise NotImplementedError

    def wait_for(self, expression):
        """Until an expression on the page is true."""
        end = time.monotonic() + _WAIT_S
        while not self.run(expression):
            assert time.monotonic() < end, f"{self.name}: {expression}"
            time.sleep(0.1)

    def press(self, key, **held):
        event = json.dumps({"key": key, "bubbles": True, "cancelable": True, **held})
        self.run(f"document.body.dispatchEvent(new KeyboardEvent('keydown', {event}))")
        self.run(f"document.body.dispatchEvent(new KeyboardEvent('keyup', {event}))")


class Firefox(Visitor):
    name = "Firefox"

    def __init__(self, address):
        self._socket = websocket.create_connection(f"{address}/session", timeout=_WAIT_S, suppress_origin=True)
        self._numbers = itertools.count(1)
        self._errors = []
        self._command("session.new", capabilities={})
        self._command("session.subscribe", events=["log.entryAdded"])
        self._tab = self._command("browsingContext.getTree")["contexts"][0]["context"]
        width, height = SIZE
        self._command("browsingContext.setViewport", context=self._tab, viewport={"width": width, "height": height})

    def _command(self, method, **parameters):
        number = next(self._numbers)
        self._socket.send(json.dumps({"id": number, "method": method, "params": parameters}))
        while True:
            told = json.loads(self._socket.recv())
            if told.get("method") == "log.entryAdded" and told["params"]["level"] == "error":
                self._errors.append(told["params"]["text"])
            if told.get("id") == number:
                assert told["type"] == "success", told
                return told["result"]

    def go(self, address):
        self._command("browsingContext.navigate", context=self._tab, url=address, wait="complete")

    def run(self, script):
        found = self._command(
            "script.evaluate",
            expression=f"Promise.resolve({script}).then((value) => JSON.stringify(value ?? null))",
            target={"context": self._tab},
            awaitPromise=True,
            userActivation=True,
        )
        assert found["type"] == "success", found
        return json.loads(found["result"]["value"])

    @property
    def errors(self):
        # What was still on its way when the page was left is none: NS_BINDING_ABORTED.
        return [text for text in self._errors if "status=2152398850" not in text]


@contextmanager
def firefox(sound):
    """Firefox without a window; `sound` is where what it plays goes."""
    profile = Path(tempfile.mkdtemp())
    (profile / "user.js").write_text(_PREFERENCES)
    command = ["firefox-esr", "--headless", "--remote-debugging-port", "0", "--profile", str(profile), "about:blank"]
    environment = os.environ | {"PULSE_SERVER": sound, "MOZ_HEADLESS_WIDTH": "1280", "MOZ_HEADLESS_HEIGHT": "800"}
    log = profile / "said"
    with log.open("wb") as said:
        process = subprocess.Popen(command, stdout=said, stderr=said, env=environment)
    try:
        end = time.monotonic() + _WAIT_S
        while not (address := re.search(r"ws://\S+", log.read_text("utf-8", "replace"))):
            assert process.poll() is None and time.monotonic() < end, log.read_text("utf-8", "replace")
            time.sleep(0.1)
        yield Firefox(address[0])
    finally:
        process.terminate()
        process.wait(_WAIT_S)
        shutil.rmtree(profile, ignore_errors=True)


class WebKit(Visitor):
    name = "WebKit"

    def __init__(self, driver):
        self._driver = driver
        driver.set_script_timeout(_WAIT_S)
        driver.set_page_load_timeout(_WAIT_S)

    def go(self, address):
        self._driver.get(address)
        # The page's own errors, from here on: what went wrong before is seen by what does not work.
        self.run("(window.wrong = [], addEventListener('error', (e) => wrong.push(e.message)), 1)")

    def run(self, script):
        return self._driver.execute_async_script(
            f"const done = arguments[0]; Promise.resolve({script}).then((value) => done(value ?? null))"
        )

    def press(self, key, **held):
        # Only what a person presses may start sound.
        ActionChains(self._driver).send_keys(Keys.HOME if key == "Home" else key).perform()

    @property
    def errors(self):
        return self.run("window.wrong || []")


@contextmanager
def webkit(sound):
    """WebKit in its own small browser, on a screen of its own; `sound` is where what it plays goes."""
    folder = Path(tempfile.mkdtemp())
    shown, told = os.pipe()
    # -displayfd: the screen chooses a number that is free and says it.
    screen = subprocess.Popen(
        ["Xvfb", "-displayfd", str(told), "-screen", "0", "1300x900x24"], pass_fds=[told], stderr=subprocess.DEVNULL
    )
    os.close(told)
    with os.fdopen(shown) as file:
        number = file.readline().strip()
    # Inside a container its own sandbox cannot be made.
    environment = os.environ | {
        "DISPLAY": f":{number}",
        "PULSE_SERVER": sound,
        "XDG_RUNTIME_DIR": str(folder),
        "WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS": "1",
        "WEBKIT_DISABLE_COMPOSITING_MODE": "1",
        "LIBGL_ALWAYS_SOFTWARE": "1",
    }
    options = Options()
    options.binary_location = str(_MINI_BROWSER)
    options.add_argument("--automation")
    driver = None
    try:
        service = Service(shutil.which("WebKitWebDriver"), env=environment)
        driver = webdriver.WebKitGTK(options=options, service=service)
        yield WebKit(driver)
    finally:
        with suppress(Exception):
            if driver:
                driver.quit()
        screen.terminate()
        screen.wait(_WAIT_S)
        shutil.rmtree(folder, ignore_errors=True)


@contextmanager
def sound_output():
    """A sound output for machines without one: what is played there is heard by nobody. Gives back its address."""
    folder = Path(tempfile.mkdtemp())
    address = f"unix:{folder}/sound"
    modules = ["-L", "module-null-sink", "-L", f"module-native-protocol-unix socket={folder}/sound auth-anonymous=1"]
    environment = os.environ | {"HOME": str(folder), "XDG_RUNTIME_DIR": str(folder)}
    process = subprocess.Popen(
        ["pulseaudio", "-n", "--exit-idle-time=-1", "--daemonize=no", "--use-pid-file=no", *modules],
        env=environment,
        stderr=subprocess.DEVNULL,
    )
    try:
        end = time.monotonic() + _WAIT_S
        while not (folder / "sound").exists():
            assert process.poll() is None and time.monotonic() < end
            time.sleep(0.05)
        yield address
    finally:
        process.terminate()
        process.wait(_WAIT_S)
        shutil.rmtree(folder, ignore_errors=True)
