"""Context processors: the site's rules for accounts, and the current studio."""

from django.conf import settings
from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject

from tinfork.apps.news.queries import unread_of
from tinfork.apps.people.access import studios_of
from tinfork.apps.people.models import Studio, User


def accounts(request: HttpRequest) -> dict[str, object]:
    """Whether mail can be sent, and who may sign up."""
    return {
        "has_mail": settings.HAS_MAIL,
        "sign_up": settings.SIGN_UP,
        # Lazy: only pages with the navigation bar need it.
        "my_studios": SimpleLazyObject(lambda: _studios(request)),
        "unread": SimpleLazyObject(lambda: unread_of(request.user) if isinstance(request.user, User) else 0),
        "by_invitation": settings.SIGN_UP == "invitation",
    }


def _studios(request: HttpRequest) -> list[Studio]:
    """The studios of the user, the current one first."""
    return studios_of(request.user) if isinstance(request.user, User) else []
