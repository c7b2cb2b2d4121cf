"""A mail server that keeps what it is given (RFC 5321, as much of it as is needed)."""

import email
import email.policy
import socketserver
import threading
from contextlib import contextmanager


class _Post(socketserver.StreamRequestHandler):
    def handle(self):
        self.say("220 post")
        while line := self.rfile.readline().decode().strip():
            word = line[:4].upper()
            if word == "DATA":
                self.say("354 go on")
                data = b""
                while (row := self.rfile.readline()) != b".\r\n":
                    data += row.removeprefix(b".")
                self.server.kept.append(email.message_from_bytes(data, policy=email.policy.default))
            self.say("221 bye" if word == "QUIT" else "250 ok")
            if word == "QUIT":
                return

    def say(self, text):
        self.wfile.write(f"{text}\r\n".encode())


@contextmanager
def post_office():
    """The settings of a mail server on a port of its own, and the list of messages that it was given."""
    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), _Post) as server:
        server.kept = []
        threading.Thread(target=server.serve_forever, daemon=True).start()
        settings = {
            "HAS_MAIL": True,
            "EMAIL_BACKEND": "django.core.mail.backends.smtp.EmailBackend",
            "EMAIL_HOST": "127.0.0.1",
            "EMAIL_PORT": server.server_address[1],
            "DEFAULT_FROM_EMAIL": "oven@tinfork.example",
            "SITE_ADDRESS": "https://tinfork.example",
        }
        yield settings, server.kept
        server.shutdown()
