"""Secret tokens in links: shown once; only a digest is stored."""

import hashlib
import secrets

from django.core.cache import cache
from django.http import HttpRequest

from tinfork.apps.common.concurrency import NotNowError

#: Limits for an IP address in a quarter of an hour: wrong tokens, and messages sent through a valid one.
_MAX_TRIES, _MAX_SENT, _COUNTED_S = 60, 120, 900


def new_token() -> tuple[str, str]:
    """A new token (192 random bits, URL-safe), and its digest."""
    token = secrets.token_urlsafe(24)
    return token, digest_of(token)


def digest_of(token: str) -> str:
    """SHA-256, which suffices for a random token, and makes comparison times reveal nothing about it."""
    return hashlib.sha256(token.encode()).hexdigest()


def count_wrong(request: HttpRequest) -> None:
    """Count a wrong token. Raises `NotNowError` after too many."""
    if is_too_often(f"wrong-tokens-{_address(request)}", _MAX_TRIES):
        raise NotNowError("Too many wrong links. Wait a quarter of an hour, then try again.")


def count_sent(request: HttpRequest, what: str) -> None:
    """Count a message that a stranger sends through a link. Raises `NotNowError` after too many."""
    if is_too_often(f"sent-{what}-{_address(request)}", _MAX_SENT):
        raise NotNowError("That was a lot at once. Wait a quarter of an hour, then go on.")


def _address(request: HttpRequest) -> str:
    return str(request.META.get("REMOTE_ADDR", ""))


def is_too_often(what: str, most: int) -> bool:
    """Count an event; returns whether the limit for a quarter of an hour is exceeded."""
    cache.add(what, 0, _COUNTED_S)
    return cache.incr(what) > most


def forget_count(what: str) -> None:
    """Reset a counter."""
    cache.delete(what)
