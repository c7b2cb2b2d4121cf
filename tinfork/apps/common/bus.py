"""Notifying all processes of changes with PostgreSQL's NOTIFY, which is sent when the transaction commits."""

from django.db import connection

#: The channel; a message is the number of a shot and its new revision, or 0 for a new remark.
SHOTS = "tinfork_shots"


def say_changed(shot: int, revision: int = 0) -> None:
    """Notify the pages that show a shot of a change.

    `revision` is its new revision; 0 means a new remark.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [SHOTS, f"{shot} {revision}"])
