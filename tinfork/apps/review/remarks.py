"""Adding remarks and answers, and deciding about shots."""

import hashlib
import logging
import re
from typing import Any

from django.db import transaction
from django.db.models import Count, Max, Prefetch
from django.urls import reverse

from tinfork.apps.common.bus import say_changed
from tinfork.apps.common.sanitising import clean_text
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.news.actions import tell
from tinfork.apps.news.models import News
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.produce.planning import plan
from tinfork.apps.reading.actions.shot_settings import mark_look
from tinfork.apps.reading.actions.versions import keep_version, shot_as_of
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import with_cast
from tinfork.apps.review.models import MAX_REMARK_CHARACTERS, Decision, Remark, ReviewedShot, ReviewLink
from tinfork.apps.review.places import anchor_at, mouths_shown, place_of, words_by_clip
from tinfork.core.errors import TimingError, TinForkError
from tinfork.core.messages import Message
from tinfork.core.solver.looks import REMARK, Look
from tinfork.engines.handover.small import still_webp

log = logging.getLogger("tinfork.review")

#: The most remarks of a shot.
MAX_REMARKS = 1_000
_MAX_NAME = 80
#: The width of a remark's picture in pixels.
PICTURE_WIDTH = 480


def add_remark(
    *,
    shot: Shot,
    text: str,
    name: str,
    frames: tuple[int, int] = (0, 0),
    drawing: list[dict[str, Any]] | None = None,
    reviewed: ReviewedShot | None = None,
    by: User | None = None,
) -> Remark:
    """Add a remark on the current shot, or, through a link, on the `reviewed` state.

    It is about the first to the last of `frames` (from 0). Raises `TimingError` for an empty text or too many remarks.
    """
    row = _taking(shot, text)
    name = _name(name)
    rate = shot.production.rate
    seen = with_cast(shot)
    if reviewed and reviewed.version and reviewed.revision != row.revision:
        seen = shot_as_of(shot, reviewed.version)
    last = max(0, rate.frames_in(seen.soundtrack.duration_us) - 1)
    first, end = (min(max(0, frame), last) for frame in sorted(frames))
    at_us, end_us = rate.first_us(first), rate.first_us(end + 1)
    anchor = anchor_at(words_by_clip(seen), at_us)
    # Do the slow part before taking locks.
    picture = _picture_of(seen, first)
    shown = mouths_shown(seen, at_us, end_us)
    with transaction.atomic():
        remark = Remark.objects.create(
            shot=shot,
            text=clean_text(text).strip(),
            name=name,
            at_us=at_us,
            end_us=end_us,
            word=anchor.word,
            clip=anchor.clip,
            offset_us=anchor.offset_us,
            drawing=drawing or [],
            shown=shown,
            picture=keep_bytes(picture, ".webp") if picture else "",
            link=reviewed.link if reviewed else None,
            by=by,
        )
        remark.mentions.set(_mentioned(remark))
        # The number of open looks has changed.
        Soundtrack.objects.filter(pk=row.pk).update(looks_left=None)
        _tell(remark, News.Kind.REMARK, _concerned(shot, remark.link))
        say_changed(shot.pk)
    return remark


@transaction.atomic
def answer(*, to: Remark, text: str, name: str, link: ReviewLink | None = None, by: User | None = None) -> Remark:
    """Add an answer to a remark. An answer through a link reopens it; raises `TimingError`."""
    row = _taking(to.shot, text)
    said = Remark.objects.create(
        shot=to.shot, answers_to=to, at_us=to.at_us, text=clean_text(text).strip(), name=_name(name), link=link, by=by
    )
    said.mentions.set(_mentioned(said))
    in_talk = [to.by, *(one.by for one in to.answers.select_related("by"))]
    _tell(said, News.Kind.ANSWER, [*in_talk, *_concerned(to.shot, to.link)])
    if link:
        settle(to, is_settled=False)
    else:
        Soundtrack.objects.filter(pk=row.pk).update(looks_left=None)
    say_changed(to.shot_id)
    return said


def _concerned(shot: Shot, link: ReviewLink | None) -> list[User | None]:
    """The people to tell about a remark: the one who does the shot, and the one who sent the link."""
    return [shot.doer, link.by if link else None]


def _tell(remark: Remark, kind: News.Kind, users: list[User | None]) -> None:
    """Tell the people concerned about a remark or answer; those mentioned in it are told that instead."""
    address = reverse("remarks", args=[remark.shot_id])
    mentioned = list(remark.mentions.all())
    values = {"name": remark.name, "text": remark.text[:200]}
    named = Message("{name} names you: “{text}”", **values)
    tell(mentioned, News.Kind.MENTION, named, about=remark.shot, address=address, by=remark.by)
    words = "{name} answers: “{text}”" if kind == News.Kind.ANSWER else "{name} says: “{text}”"
    others = [user for user in users if user not in mentioned]
    tell(others, kind, Message(words, **values), about=remark.shot, address=address, by=remark.by)


def _taking(shot: Shot, text: str) -> Soundtrack:
    """Lock the shot's soundtrack; raises `TimingError` if no remark can be added."""
    if not 0 < len(clean_text(text).strip()) <= MAX_REMARK_CHARACTERS:
        raise TimingError("Write a remark of up to {most} characters.", most=MAX_REMARK_CHARACTERS)
    row = soundtrack_of(shot)
    if not row.is_read:
        raise TimingError("Read this shot first. There is no picture to talk about yet.")
    if shot.remarks.count() >= MAX_REMARKS:
        raise TimingError("This shot has as many remarks as it can have.")
    return row


def _picture_of(shot: Shot, frame: int) -> bytes:
    """The picture of a frame; if it cannot be made, the remark is saved without it."""
    try:
        return still_webp(scene_of(shot), frame, PICTURE_WIDTH)
    except (TinForkError, OSError):
        log.exception("the picture of a remark on shot %s could not be made", shot.pk)
        return b""


def _name(name: str) -> str:
    name = " ".join(clean_text(name).split())[:_MAX_NAME]
    if not name:
        raise TimingError("Say your name, so that the animators know who asks.")
    return name


def _mentioned(remark: Remark) -> list[User]:
    """The members mentioned in a remark: @ and their name, or the first part of their address."""
    text = remark.text.lower()
    if "@" not in text:
        return []
    members = remark.shot.production.studio.members.all()
    return [one for one in members if re.search(rf"@{re.escape(one.called.lower())}(?!\w)", text)]


@transaction.atomic
def settle(remark: Remark, *, is_settled: bool) -> None:
    """Settle or reopen a remark."""
    row = Soundtrack.objects.select_for_update().get(shot=remark.shot)
    mark_look(row, key_of(remark), is_settled=is_settled)
    row.looks_left = None
    row.save(update_fields=["settled", "looks_left"])
    say_changed(remark.shot_id)


@transaction.atomic
def decide(
    *, shot: Shot, verdict: str, name: str, reviewed: ReviewedShot | None = None, by: User | None = None
) -> Decision:
    """Approve a shot, or request changes.

    This is about the state that a link shows, or else the current shot, which is saved as a version.
    """
    if verdict not in Decision.Verdict.values:
        raise TimingError("A shot can be approved, or changes can be requested.")
    if reviewed:
        version, revision = reviewed.version, reviewed.revision
    else:
        revision = soundtrack_of(shot).revision
        assert by is not None
        version = keep_version(shot=shot, name=_version_name(shot, verdict), by=by, is_kept=True)
    made = Decision.objects.create(
        shot=shot,
        link=reviewed.link if reviewed else None,
        version=version,
        revision=revision,
        verdict=verdict,
        name=_name(name),
        by=by,
    )
    status = Shot.Status.APPROVED if verdict == Decision.Verdict.APPROVED else Shot.Status.CHANGES
    plan([shot], by=by, status=status)
    words = "{name} approves {shot}" if status == Shot.Status.APPROVED else "{name} requests changes of {shot}"
    said = Message(words, name=made.name, shot=shot.name)
    concerned = _concerned(shot, made.link)
    tell(concerned, News.Kind.DECISION, said, about=shot, address=reverse("remarks", args=[shot.pk]), by=by)
    return made


def _version_name(shot: Shot, verdict: str) -> str:
    """A free name for the version of a decision."""
    said = str(Decision.Verdict(verdict).label)
    taken = set(soundtrack_of(shot).versions.values_list("name", flat=True))
    numbers = (f"{said} {number}" for number in range(1, len(taken) + 2))
    return next(name for name in numbers if name not in taken)


def key_of(remark: Remark) -> str:
    """The key of a remark among second looks, under which settled ones are stored."""
    return hashlib.sha256(f"remark {remark.pk}".encode()).hexdigest()[:16]


def looks_at_remarks(shot: Shot) -> list[Look]:
    """The remarks on a shot as second looks, which can be visited and settled like others."""
    remarks = list(shot.remarks.filter(answers_to=None))
    words = words_by_clip(shot) if remarks else {}
    out = []
    for remark in remarks:
        start, end = place_of(remark, words)
        said = Message("{name}: “{text}”", name=remark.name, text=remark.text[:300])
        out.append(Look(REMARK, start, end, said, 1.0, key_of(remark)))
    return out


def mark_of_remarks(shot: Shot) -> str:
    """A hash of the remarks on a shot: it changes when one is added, removed, settled or reopened."""
    said = shot.remarks.aggregate(count=Count("pk"), newest=Max("pk"))
    settled = soundtrack_of(shot).settled
    return f"{said['count']}.{said['newest'] or 0}.{len(settled)}.{settled[-1] if settled else ''}"


def drawings_of_remarks(shot: Shot) -> dict[str, list[dict[str, Any]]]:
    """The drawings of remarks, by their keys among second looks."""
    return {key_of(one): one.drawing for one in shot.remarks.filter(answers_to=None).exclude(drawing=[])}


def remarks_document(shot: Shot, link: ReviewLink | None = None) -> list[dict[str, Any]]:
    """The remarks on a shot, or on one link, with their answers, in order of time.

    Frames from 0: a remark's present place, or, through a link, the original one.
    """
    rate, settled = shot.production.rate, set(soundtrack_of(shot).settled)
    found = shot.remarks.filter(answers_to=None)
    if link:
        found = found.filter(link=link)
    remarks = list(found.prefetch_related(Prefetch("answers", Remark.objects.order_by("pk"))))
    words = words_by_clip(with_cast(shot)) if remarks else {}
    out = []
    for remark in remarks:
        start, end = place_of(remark, words)
        # In an older film remarks stay at their original place.
        seen, last = (remark.at_us, remark.end_us) if link and not link.is_newest else (start, end)
        out.append({
            "id": remark.pk,
            "shot": shot.pk,
            "frame": rate.frame_at(seen),
            "last": rate.frame_at(max(seen, last - 1)),
            "name": remark.name,
            "text": remark.text,
            "drawing": remark.drawing,
            "made": remark.made_at.isoformat(timespec="minutes"),
            "settled": key_of(remark) in settled,
            "changed": bool(remark.shown) and remark.shown != mouths_shown(shot, start, end),
            "answers": [{"name": one.name, "text": one.text} for one in remark.answers.all()],
        })  # fmt: skip
    return out
