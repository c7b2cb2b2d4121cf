"""How accounts are made and signed in to on this site."""

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from django.conf import settings
from django.http import HttpRequest

from tinfork.apps.people.invitations import invitation_of


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    """Sign-up by the site's rule; wrong passwords are counted for an account and an address together."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Whether this visitor may make an account."""
        return settings.SIGN_UP == "open" or (settings.SIGN_UP == "invitation" and invitation_of(request) is not None)

    def _get_login_attempts_cache_key(self, request: HttpRequest, **credentials: Any) -> str:
        """Wrong passwords of a stranger, from elsewhere, do not lock the right person out."""
        return f"{super()._get_login_attempts_cache_key(request, **credentials)}|{self.get_client_ip(request)}"
