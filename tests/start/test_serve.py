"""The web process by itself: what it does with slow, large and strange clients, without Django behind it."""

import socket
import threading
from contextlib import suppress

import pytest
from waitress import create_server

from tinfork.site import serve


def application(environ, start_response):
    """Says what arrived: how long the body was, and whether it was refused."""
    body = environ["wsgi.input"].read()
    told = f"{len(body)} {environ.get('HTTP_TINFORK_REFUSED', '-')} {environ['REMOTE_ADDR']}".encode()
    start_response("200 OK", [("Content-Length", str(len(told)))])
    return [told]


def until_closed(server):
    """The loop trips over what is closed under it: that is how it ends here."""
    with suppress(OSError):
        server.run()


@pytest.fixture
def served(monkeypatch):
    """The server on a port of its own; gives back the port."""
    running = []

    def start(**more):
        bound = serve.listening_socket("127.0.0.1:0")
        server = create_server(application, sockets=[bound], threads=2, max_request_body_size=50_000_000, **more)
        server.channel_class = serve.Channel
        server.add_task = serve._by_lane(server.task_dispatcher)
        thread = threading.Thread(target=until_closed, args=(server,), daemon=True)
        thread.start()
        running.append((server, thread))
        return bound.getsockname()[1]

    yield start
    for server, thread in running:
        server.close()
        thread.join(5)


def ask(port, *parts):
    with socket.create_connection(("127.0.0.1", port), timeout=20) as client:
        for part in parts:
            client.sendall(part)
        out = b""
        while data := client.recv(65536):
            out += data
        return out


def head(length, *more):
    return "\r\n".join(
        ["POST / HTTP/1.1", "Host: x", "Connection: close", f"Content-Length: {length}", *more, "", ""]
    ).encode()


def test_a_strangers_large_body_is_thrown_away_and_a_members_is_taken(served):
    port = served()
    body = b"x" * 3_000_000
    assert ask(port, head(len(body)), body).endswith(b"0 stranger 127.0.0.1")
    assert ask(port, head(len(body), "Cookie: sessionid=a"), body).endswith(b"3000000 - 127.0.0.1")


def test_a_body_without_room_is_read_to_its_end_and_said_to_be_refused(served, monkeypatch):
    monkeypatch.setattr(serve.Parser, "is_room_for", staticmethod(lambda size: size < 1000))
    port = served()
    body = b"x" * 2_500_000
    assert b"0 room" in ask(port, head(len(body), "Cookie: sessionid=a"), body)
    assert b"900 -" in ask(port, head(900), b"x" * 900)


def test_a_disk_that_fills_up_while_a_body_comes_is_noticed(served, monkeypatch):
    monkeypatch.setattr(serve, "_LOOK_EVERY", 1_000_000)
    monkeypatch.setattr(serve.Parser, "is_room_for", staticmethod(lambda size: size > 20_000_000))
    port = served()
    body = b"x" * 30_000_000
    assert b"0 room" in ask(port, head(len(body), "Cookie: sessionid=a"), body)


def test_a_large_body_of_no_length_is_refused(served):
    start = (
        b"POST / HTTP/1.1\r\nHost: x\r\nConnection: close\r\nCookie: sessionid=a\r\nTransfer-Encoding: chunked\r\n\r\n"
    )
    small = b"5\r\nhello\r\n0\r\n\r\n"
    assert b"5 -" in ask(served(), start, small)
    # No more than is needed: what is not read any more would cut the answer off.
    assert b" 413 " in ask(served(), start, b"300000\r\n" + b"x" * serve.STRANGERS_BYTES)


def test_nobody_says_for_themselves_that_they_were_refused(served):
    assert b"0 -" in ask(served(), head(0, "Tinfork-Refused: room"))


def test_only_a_proxy_that_is_named_is_believed_about_addresses(served):
    headers = ["X-Forwarded-For: 192.0.2.7"]
    clear = {"clear_untrusted_proxy_headers": True}
    assert ask(served(**clear), head(0, *headers)).endswith(b"127.0.0.1")
    trusted = {"trusted_proxy": "127.0.0.1", "trusted_proxy_headers": "x-forwarded-for", **clear}
    assert ask(served(**trusted), head(0, *headers)).endswith(b"192.0.2.7")


def test_who_never_finishes_the_head_of_a_request_is_let_go(served, monkeypatch):
    monkeypatch.setattr(serve, "HEAD_S", 0)
    assert ask(served(), b"GET / HT") == b""


def test_who_sends_too_slowly_is_let_go_and_who_is_slow_but_steady_is_not(monkeypatch):
    from types import SimpleNamespace

    now = [0.0]
    monkeypatch.setattr(serve.time, "monotonic", lambda: now[0])
    adj = SimpleNamespace(
        max_request_header_size=65536, max_request_body_size=10**9, inbuf_overflow=10**6, url_scheme="http"
    )
    parser = serve.Parser(adj)
    parser.received(head(10_000_000, "Cookie: sessionid=a"))
    parser.received(b"x" * 100)
    for now[0], is_slow in ((serve.PATIENCE_S - 1, False), (serve.PATIENCE_S + 1, True)):
        assert parser.is_too_slow is is_slow
    parser.received(b"x" * serve.LEAST_BYTES_PER_S * 10)
    assert not parser.is_too_slow


def test_health_is_said_while_every_thread_is_busy(served):
    """Two threads, both held: the answer comes all the same."""
    held, port = threading.Event(), None
    inside = threading.Semaphore(0)

    def slow(environ, start_response):
        if environ["PATH_INFO"] != serve.HEALTH:
            inside.release()
            held.wait(20)
        start_response("200 OK", [("Content-Length", "2")])
        return [b"ok"]

    bound = serve.listening_socket("127.0.0.1:0")
    server = create_server(slow, sockets=[bound], threads=2)
    server.channel_class = serve.Channel
    server.add_task = serve._by_lane(server.task_dispatcher)
    thread = threading.Thread(target=until_closed, args=(server,), daemon=True)
    thread.start()
    port = bound.getsockname()[1]
    busy = [threading.Thread(target=ask, args=(port, b"GET / HTTP/1.0\r\n\r\n")) for _ in range(2)]
    try:
        for one in busy:
            one.start()
        for _ in busy:
            assert inside.acquire(timeout=20)
        assert ask(port, b"GET /healthy HTTP/1.0\r\n\r\n").endswith(b"ok")
    finally:
        held.set()
        for one in busy:
            one.join(20)
        server.close()
        thread.join(5)
