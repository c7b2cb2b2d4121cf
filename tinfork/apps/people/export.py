"""A person's own data as an open format."""

from datetime import datetime
from typing import Any

from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.reading.models import Edit
from tinfork.apps.review.models import Decision, Remark


def personal_data(user: User) -> dict[str, Any]:
    """Account, studios, and all data about a person in every part of the site; times in ISO 8601."""
    edits = Edit.objects.filter(by=user).values_list("soundtrack__shot__name", "name", "made_at")
    remarks = Remark.objects.filter(by=user).values_list("shot__name", "text", "made_at")
    decisions = Decision.objects.filter(by=user).values_list("shot__name", "verdict", "made_at")
    return {
        "email": user.email,
        "name": user.name,
        "joined": _said(user.date_joined),
        "last_sign_in": _said(user.last_login),
        "studios": [
            {"name": one.studio.name, "role": one.role, "since": _said(one.since)}
            for one in user.memberships.select_related("studio")
        ],
        "edits": [{"shot": shot, "edit": name, "at": _said(at)} for shot, name, at in edits],
        "remarks": [{"shot": shot, "text": text, "at": _said(at)} for shot, text, at in remarks],
        "decisions": [{"shot": shot, "verdict": verdict, "at": _said(at)} for shot, verdict, at in decisions],
        "jobs": [
            {"kind": kind, "state": state, "at": _said(at)}
            for kind, state, at in Job.objects.filter(by=user).values_list("kind", "state", "created_at")
        ],
    }


def _said(moment: datetime | None) -> str | None:
    return moment.isoformat(timespec="seconds") if moment else None
