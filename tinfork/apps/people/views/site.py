"""The site's health."""

import os
from collections.abc import Iterator

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.db import DatabaseError, InterfaceError, connection
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from tinfork.apps.common.disk_space import RESERVE_BYTES, free_bytes
from tinfork.apps.common.storage import the_storage
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.core.messages import Message


@login_not_required
def no_mail(request: HttpRequest) -> HttpResponse:
    """The page that replaces password reset if no mail can be sent."""
    text = Message("This site sends no email, so you cannot reset a password here. Ask its admin to set a new one.")
    return render(request, "common/error.html", {"title": Message("No email here"), "text": text}, status=404)


@login_not_required
def healthy(request: HttpRequest) -> HttpResponse:
    """200 if all services that the site needs are available; else 503, with a line for each that is not."""
    amiss = list(_amiss())
    return HttpResponse("\n".join(amiss) or "ok", content_type="text/plain", status=503 if amiss else 200)


def _amiss() -> Iterator[str]:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        if not is_anyone_working():
            yield Message("no worker is running")
    except (DatabaseError, InterfaceError):
        yield Message("the database does not answer")
    if not os.access(the_storage().location, os.W_OK | os.X_OK):
        yield Message("the stored files cannot be written")
    if free_bytes(settings.DATA) < RESERVE_BYTES:
        yield Message("the disk is nearly full")
