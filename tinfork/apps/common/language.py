"""The texts of scripts in the reader's language."""

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.views.decorators.cache import cache_control
from django.views.i18n import JavaScriptCatalog

_catalogue = JavaScriptCatalog.as_view(domain="djangojs")


@login_not_required
@cache_control(private=True, max_age=3600)
def messages_script(request: HttpRequest) -> HttpResponseBase:
    """The texts of scripts in the request's language; not needed for English."""
    return _catalogue(request)
