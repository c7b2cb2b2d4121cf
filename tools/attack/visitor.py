"""Somebody at the site: signs in, asks, sends. Every answer is written down, so that none of 500 goes unseen."""

import http.client
import re
import secrets
import threading
import time
import urllib.parse
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from http.cookies import SimpleCookie

#: A file in a form: the field's name, the file's name, its bytes.
FilePart = tuple[str, str, bytes]


@dataclass(frozen=True)
class Answer:
    """What came back."""

    status: int
    headers: Mapping[str, str]
    body: bytes

    @property
    def text(self) -> str:
        """As a person would see its source."""
        return self.body.decode("utf-8", "replace")


@dataclass
class Ledger:
    """All answers of all visitors: what was asked and its status. Visitors in several threads share it."""

    asked: int = 0
    broken: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def note(self, what: str, status: int) -> None:
        """Write an answer down."""
        with self.lock:
            self.asked += 1
            if status == 500:
                self.broken.append(what)


class Visitor:
    """A browser without a screen. Not for several threads at once."""

    def __init__(self, port: int, ledger: Ledger, timeout_s: float = 60) -> None:
        self.port, self.ledger, self.timeout_s = port, ledger, timeout_s
        self.cookies: dict[str, str] = {}

    def ask(
        self,
        method: str,
        path: str,
        body: bytes | None = None,
        headers: Mapping[str, str] | None = None,
        *,
        timeout_s: float | None = None,
    ) -> Answer:
        """One request; raises `OSError` or `HTTPException` where nobody answers."""
        sent = {"Host": f"localhost:{self.port}", **(headers or {})}
        if self.cookies and "Cookie" not in sent:
            sent["Cookie"] = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=timeout_s or self.timeout_s)
        try:
            connection.request(method, path, body, sent)
            told = connection.getresponse()
            answer = Answer(told.status, dict(told.getheaders()), told.read())
            for header in told.headers.get_all("Set-Cookie") or ():
                for name, morsel in SimpleCookie(header).items():
                    self.cookies[name] = morsel.value
        finally:
            connection.close()
        self.ledger.note(f"{method} {path[:120]}", answer.status)
        return answer

    def get(self, path: str, **more: float) -> Answer:
        """A page."""
        return self.ask("GET", path, **more)  # type: ignore[arg-type]

    @property
    def _csrf(self) -> dict[str, str]:
        return {"X-CSRFToken": self.cookies.get("csrftoken", ""), "Referer": f"http://localhost:{self.port}/"}

    def post(self, path: str, fields: Mapping[str, str], files: Sequence[FilePart] = (), **headers: str) -> Answer:
        """A form, with files or without."""
        if files:
            kind, body = multipart(fields, files)
        else:
            kind, body = "application/x-www-form-urlencoded", urllib.parse.urlencode(fields).encode()
        return self.ask("POST", path, body, {"Content-Type": kind, **self._csrf, **headers})

    def post_json(self, path: str, body: bytes) -> Answer:
        """What a page's script sends."""
        return self.ask("POST", path, body, {"Content-Type": "application/json", **self._csrf})

    def sign_in(self, email: str, password: str) -> None:
        """Through the page."""
        self.get("/account/login/")
        answer = self.post("/account/login/", {"login": email, "password": password})
        if answer.status != 302:
            raise AssertionError(f"{email} could not sign in: {answer.status}")

    def sign_up(self, studio: str) -> str:
        """A new account with a studio of its own; gives back its address."""
        email = f"{secrets.token_hex(6)}@tinfork.example"
        self.get("/account/signup/")
        fields = {"email": email, "password1": "loaf-before-tram-9", "studio": studio}
        answer = self.post("/account/signup/", fields)
        if answer.status != 302:
            raise AssertionError(f"No account could be made: {answer.status}")
        return email

    def start_production(self, name: str) -> tuple[int, int]:
        """A production with one shot; their numbers."""
        fields = {"name": name, "rate": "24", "size": "1280x720"}
        production = _number(self.post("/productions/new", fields).headers["Location"])
        page = self.get(f"/productions/{production}/").text
        character = re.search(r'<option value="(\d+)"', page)
        assert character
        fields = {"name": "010", "character": character[1], "first_frame": "1"}
        return production, _number(self.post(f"/productions/{production}/", fields).headers["Location"])


def _number(address: str) -> int:
    found = re.search(r"/(\d+)/", address)
    assert found
    return int(found[1])


def multipart(fields: Mapping[str, str], files: Sequence[FilePart]) -> tuple[str, bytes]:
    """A form as multipart/form-data (RFC 7578): its content type and its bytes."""
    mark = secrets.token_hex(16)
    out = bytearray()
    for name, value in fields.items():
        out += f'--{mark}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n'.encode() + value.encode() + b"\r\n"
    for name, file, data in files:
        shown = file.replace("\\", "\\\\").replace('"', '\\"').replace("\r", "%0D").replace("\n", "%0A")
        head = f'--{mark}\r\nContent-Disposition: form-data; name="{name}"; filename="{shown}"\r\n'
        out += (
            head.encode("utf-8", "surrogatepass") + b"Content-Type: application/octet-stream\r\n\r\n" + data + b"\r\n"
        )
    out += f"--{mark}--\r\n".encode()
    return f"multipart/form-data; boundary={mark}", bytes(out)


def timed(work: "Visitor", path: str) -> float:
    """Seconds until a page is there; raises `AssertionError` for one that is not."""
    start = time.monotonic()
    answer = work.get(path)
    if answer.status != 200:
        raise AssertionError(f"{path}: {answer.status}")
    return time.monotonic() - start
