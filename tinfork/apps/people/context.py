"""What every page knows of the site's rules for accounts."""

from django.conf import settings
from django.http import HttpRequest


def accounts(request: HttpRequest) -> dict[str, object]:
    """Whether mail can be sent, and who may make an account."""
    return {
        "has_mail": settings.HAS_MAIL,
        "sign_up": settings.SIGN_UP,
        "by_invitation": settings.SIGN_UP == "invitation",
    }
