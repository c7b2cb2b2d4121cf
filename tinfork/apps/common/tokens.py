"""Secrets in links: told once, of which only a digest is kept."""

import hashlib
import secrets

from django.core.cache import cache
from django.http import HttpRequest

from tinfork.apps.common.gate import NotNowError

#: In a quarter of an hour an address may try so many tokens that open nothing, and send so much through one that does.
_MAX_TRIES, _MAX_SENT, _COUNTED_S = 60, 120, 900


def new_token() -> tuple[str, str]:
    """A token (192 random bits, fit for an address), and the digest by which it is found."""
    token = secrets.token_urlsafe(24)
    return token, digest_of(token)


def digest_of(token: str) -> str:
    """SHA-256: a token has too many bits to be guessed from it, and what is compared tells nothing of the token."""
    return hashlib.sha256(token.encode()).hexdigest()


def count_wrong(request: HttpRequest) -> None:
    """Somebody came with a token that opens nothing. Raises `NotNowError` for who does so again and again."""
    if is_too_often(f"wrong-tokens-{_address(request)}", _MAX_TRIES):
        raise NotNowError("Too many wrong links. Wait a quarter of an hour, then try again.")


def count_sent(request: HttpRequest, what: str) -> None:
    """A stranger sends something through a link. Raises `NotNowError` for who does so without end."""
    if is_too_often(f"sent-{what}-{_address(request)}", _MAX_SENT):
        raise NotNowError("That was a lot at once. Wait a quarter of an hour, then go on.")


def _address(request: HttpRequest) -> str:
    return str(request.META.get("REMOTE_ADDR", ""))


def is_too_often(what: str, most: int) -> bool:
    """Count something; whether it happened more than so often in a quarter of an hour."""
    cache.add(what, 0, _COUNTED_S)
    return cache.incr(what) > most


def forget_count(what: str) -> None:
    """Begin to count something anew."""
    cache.delete(what)
