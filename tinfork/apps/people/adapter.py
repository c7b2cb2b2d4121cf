"""The site's rules for signing up and signing in."""

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from django.conf import settings
from django.http import HttpRequest

from tinfork.apps.people.invitations import invitation_of


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    """Sign-up by the site's rule; wrong passwords are counted per account and IP address."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Whether this visitor may sign up."""
        return settings.SIGN_UP == "open" or (settings.SIGN_UP == "invitation" and invitation_of(request) is not None)

    def _get_login_attempts_cache_key(self, request: HttpRequest, **credentials: Any) -> str:
        """A key with the IP address, so that a stranger's wrong passwords do not lock out the owner."""
        return f"{super()._get_login_attempts_cache_key(request, **credentials)}|{self.get_client_ip(request)}"
