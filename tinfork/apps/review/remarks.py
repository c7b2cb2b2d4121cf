"""Saying something to a frame, answering, deciding."""

import hashlib
from typing import Any

from django.db import transaction
from django.db.models import Prefetch

from tinfork.apps.common.door import clean_text
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.review.models import MAX_REMARK_CHARACTERS, Decision, Remark, ReviewedShot, ReviewLink
from tinfork.core.errors import TimingError
from tinfork.core.messages import Message
from tinfork.core.solver.looks import REMARK, Look

#: Remarks that a shot may have.
MAX_REMARKS = 1_000
_MAX_NAME = 80


@transaction.atomic
def add_remark(
    *,
    shot: Shot,
    text: str,
    name: str,
    frame: int = 0,
    link: ReviewLink | None = None,
    by: User | None = None,
    answers_to: Remark | None = None,
) -> Remark:
    """A remark on a frame of the shot (from 0), or an answer; raises `TimingError` for none or too many."""
    text, name = clean_text(text).strip(), _name(name)
    if not 0 < len(text) <= MAX_REMARK_CHARACTERS:
        raise TimingError("Write a remark of up to {most} characters.", most=MAX_REMARK_CHARACTERS)
    row = Soundtrack.objects.select_for_update().filter(shot=shot).first()
    if row is None or shot.remarks.count() >= MAX_REMARKS:
        raise TimingError("This shot has as many remarks as it can have.")
    rate = shot.production.rate
    last = max(0, rate.frames_in(row.duration_us) - 1)
    at_us = answers_to.at_us if answers_to else rate.first_us(min(max(0, frame), last))
    remark = Remark.objects.create(
        shot=shot, text=text, name=name, at_us=at_us, link=link, by=by, answers_to=answers_to
    )
    # What is open on the Desk is counted anew.
    Soundtrack.objects.filter(pk=row.pk).update(looks_left=None)
    return remark


def _name(name: str) -> str:
    name = " ".join(clean_text(name).split())[:_MAX_NAME]
    if not name:
        raise TimingError("Say your name, so that the animators know who asks.")
    return name


def decide(*, reviewed: ReviewedShot, verdict: str, name: str) -> Decision:
    """A yes to what a link shows of a shot, or the wish for changes."""
    if verdict not in Decision.Verdict.values:
        raise TimingError("A shot can be approved, or changes can be requested.")
    return Decision.objects.create(
        shot=reviewed.shot,
        link=reviewed.link,
        version=reviewed.version,
        revision=soundtrack_of(reviewed.shot).revision,
        verdict=verdict,
        name=_name(name),
    )


def key_of(remark: Remark) -> str:
    """What a remark is called among second looks: settled ones are remembered by it."""
    return hashlib.sha256(f"remark {remark.pk}".encode()).hexdigest()[:16]


def looks_at_remarks(shot: Shot) -> list[Look]:
    """The remarks on a shot as second looks: they are walked to, and settled, like these."""
    rate = shot.production.rate
    out = []
    for remark in shot.remarks.filter(answers_to=None):
        end_us = rate.first_us(rate.frame_at(remark.at_us) + 1)
        said = Message("{name}: “{text}”", name=remark.name, text=remark.text[:300])
        out.append(Look(REMARK, remark.at_us, end_us, said, 1.0, key_of(remark)))
    return out


def remarks_document(shot: Shot, link: ReviewLink | None = None) -> list[dict[str, Any]]:
    """The remarks on a shot with their answers, in order of time; those of one link, or all. Frames from 0."""
    rate, settled = shot.production.rate, set(soundtrack_of(shot).settled)
    found = shot.remarks.filter(answers_to=None)
    if link:
        found = found.filter(link=link)
    answered = found.prefetch_related(Prefetch("answers", Remark.objects.order_by("pk")))
    return [
        {
            "id": remark.pk,
            "shot": shot.pk,
            "frame": rate.frame_at(remark.at_us),
            "name": remark.name,
            "text": remark.text,
            "made": remark.made_at.isoformat(timespec="minutes"),
            "settled": key_of(remark) in settled,
            "answers": [{"name": one.name, "text": one.text} for one in remark.answers.all()],
        }
        for remark in answered
    ]
