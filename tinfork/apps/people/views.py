"""Whether the site is up."""

from django.contrib.auth.decorators import login_not_required
from django.db import connection
from django.http import HttpRequest, HttpResponse


@login_not_required
def healthy(request: HttpRequest) -> HttpResponse:
    """200 when the database answers; says nothing else."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return HttpResponse("ok", content_type="text/plain")
