"""Telling all processes that something changed, over PostgreSQL's NOTIFY: it is told once the transaction is kept."""

from django.db import connection

#: The channel; what is told is the number of a shot.
SHOTS = "tinfork_shots"


def say_changed(shot: int) -> None:
    """A shot was changed, or something was said of it: pages that show it may want to ask."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [SHOTS, str(shot)])
