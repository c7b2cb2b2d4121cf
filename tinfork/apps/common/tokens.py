"""Secrets in links: told once, of which only a digest is kept."""

import hashlib
import secrets

from django.core.cache import cache
from django.http import HttpRequest

from tinfork.apps.common.gate import NotNowError

#: In a quarter of an hour an address may try so many tokens that open nothing, and send so much through one that does.
_MAX_TRIES, _MAX_SENT, _TRIES_S = 60, 120, 900


def new_token() -> tuple[str, str]:
    """A token (192 random bits, fit for an address), and the digest by which it is found."""
    token = secrets.token_urlsafe(24)
    return token, digest_of(token)


def digest_of(token: str) -> str:
    """SHA-256: a token has too many bits to be guessed from it, and what is compared tells nothing of the token."""
    return hashlib.sha256(token.encode()).hexdigest()


def count_wrong(request: HttpRequest) -> None:
    """Somebody came with a token that opens nothing. Raises `NotNowError` for who does so again and again."""
    if _is_too_much(request, "wrong-tokens", _MAX_TRIES):
        raise NotNowError("Too many wrong links. Wait a quarter of an hour, then try again.")


def count_sent(request: HttpRequest, what: str) -> None:
    """A stranger sends something through a link. Raises `NotNowError` for who does so without end."""
    if _is_too_much(request, f"sent-{what}", _MAX_SENT):
        raise NotNowError("That was a lot at once. Wait a quarter of an hour, then go on.")


def _is_too_much(request: HttpRequest, what: str, most: int) -> bool:
    key = f"{what}-{request.META.get('REMOTE_ADDR', '')}"
    cache.add(key, 0, _TRIES_S)
    return cache.incr(key) > most
