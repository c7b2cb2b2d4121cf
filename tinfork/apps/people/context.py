"""What every page knows of the site's rules for accounts, and of the studio one looks at."""

from django.conf import settings
from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject

from tinfork.apps.people.access import current_studio
from tinfork.apps.people.models import Studio, User


def accounts(request: HttpRequest) -> dict[str, object]:
    """Whether mail can be sent, and who may make an account."""
    return {
        "has_mail": settings.HAS_MAIL,
        "sign_up": settings.SIGN_UP,
        # Asked for by pages that have the bar, and by nothing else.
        "studio_now": SimpleLazyObject(lambda: _studio(request)),
        "by_invitation": settings.SIGN_UP == "invitation",
    }


def _studio(request: HttpRequest) -> Studio | None:
    return current_studio(request.user) if isinstance(request.user, User) else None
