"""Telling all processes that something changed, over PostgreSQL's NOTIFY: it is told once the transaction is kept."""

from django.db import connection

#: The channel; what is told is the number of a shot and the revision that it has now, 0 where something was said of it.
SHOTS = "tinfork_shots"


def say_changed(shot: int, revision: int = 0) -> None:
    """Tell pages that show a shot that it was changed: they may want to ask for it.

    `revision` is the one it has now; 0 means that something was said of it.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [SHOTS, f"{shot} {revision}"])
