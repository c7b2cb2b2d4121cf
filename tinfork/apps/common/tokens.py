"""Secrets in links: told once, of which only a digest is kept."""

import hashlib
import secrets

from django.core.cache import cache
from django.http import HttpRequest

from tinfork.apps.common.gate import NotNowError

#: Tokens that open nothing which an address may try in a quarter of an hour.
_MAX_TRIES, _TRIES_S = 60, 900


def new_token() -> tuple[str, str]:
    """A token (192 random bits, fit for an address), and the digest by which it is found."""
    token = secrets.token_urlsafe(24)
    return token, digest_of(token)


def digest_of(token: str) -> str:
    """SHA-256: a token has too many bits to be guessed from it, and what is compared tells nothing of the token."""
    return hashlib.sha256(token.encode()).hexdigest()


def count_wrong(request: HttpRequest) -> None:
    """Somebody came with a token that opens nothing. Raises `NotNowError` for who does so again and again."""
    key = f"wrong-tokens-{request.META.get('REMOTE_ADDR', '')}"
    cache.add(key, 0, _TRIES_S)
    if cache.incr(key) > _MAX_TRIES:
        raise NotNowError("Too many wrong links. Wait a quarter of an hour, then try again.")
