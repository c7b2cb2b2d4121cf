"""The activity of a production as readable lines, from existing rows."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from heapq import merge
from itertools import groupby, islice

from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot, StatusChange
from tinfork.apps.produce.planning import status_names
from tinfork.apps.reading.models import Edit
from tinfork.apps.review.models import Decision, Remark, ReviewLink
from tinfork.core.messages import Message

#: The number of lines, and of rows of each kind that are read for them.
LISTED = 200
_LOOKED = 2000
#: Successive edits by one person in one shot within this time are one line.
_TOGETHER = timedelta(minutes=30)

#: Names of groups of edits; all others are changes of mouths.
_WORDS = {"edge", "slide", "retype", "retype_alike", "sound_set", "sound_insert", "sound_remove", "word_remove"}
_WORDS |= {"word_add"}
_SOUND = {"place", "move", "trim", "split", "fade", "gain", "duplicate", "remove", "gap", "begin", "length", "replace"}
_SOUND |= {"add_track", "remove_track", "mute_track", "turn_trim", "turn_split", "turn_merge", "turn_give", "turn_put"}
_SOUND |= {"turn_remove", "tap", "speakers"}
_MOTION = {"key_set", "key_remove", "key_move", "key_spread", "key_way", "key_paste", "key_perform", "act", "pass_note"}
_MOTION |= {"follow_film"}
_PICTURE = {"stand", "ground", "boil", "background"}
_NOTES, _LOOKS = {"note"}, {"settle"}
_OF = {
    **dict.fromkeys(_WORDS, Message("words")),
    **dict.fromkeys(_SOUND, Message("sound")),
    **dict.fromkeys(_MOTION, Message("movement")),
    **dict.fromkeys(_PICTURE, Message("picture")),
    **dict.fromkeys(_NOTES, Message("notes")),
    **dict.fromkeys(_LOOKS, Message("second looks")),
    "dials": Message("settings"),
    "read": Message("a reading"),
    "return": Message("a return to a version"),
    "import": Message("an imported file"),
}
_MOUTHS = Message("mouths")


@dataclass(frozen=True, slots=True)
class ActivityLine:
    """An event: its time, person, shot and description."""

    at: datetime
    who: str
    shot: Shot | None
    what: str


def activity_of(production: Production) -> list[ActivityLine]:
    """The latest events, the newest first."""
    rows = (_edits(production), _statuses(production), _remarks(production), _decisions(production), _links(production))
    return list(islice(merge(*rows, key=lambda line: line.at, reverse=True), LISTED))


def _name(user: User | None) -> str:
    return user.called if user else ""


def _edits(production: Production) -> Iterator[ActivityLine]:
    """Group successive edits by one person in one shot into one line about what they changed."""
    rows = Edit.objects.filter(soundtrack__shot__production=production, is_undone=False)
    rows = rows.select_related("by", "soundtrack__shot").defer("before", "after", "parameters").order_by("-made_at")
    rows = rows.defer("soundtrack__timeline", "soundtrack__annotations", "soundtrack__proposal")[:_LOOKED]
    for (_, shot), same in groupby(rows, key=lambda one: (one.by_id, one.soundtrack.shot)):
        together: list[Edit] = []
        for one in same:
            if together and together[-1].made_at - one.made_at > _TOGETHER:
                yield _one_line(together, shot)
                together = []
            together.append(one)
        yield _one_line(together, shot)


def _one_line(edits: list[Edit], shot: Shot) -> ActivityLine:
    kinds = dict.fromkeys(str(_OF.get(one.name, _MOUTHS)) for one in edits)
    said = Message("{count} edits: {kinds}", count=len(edits), kinds=", ".join(kinds))
    if len(edits) == 1:
        said = Message("1 edit: {kinds}", kinds=next(iter(kinds)))
    return ActivityLine(edits[0].made_at, _name(edits[0].by), shot, str(said))


def _statuses(production: Production) -> Iterator[ActivityLine]:
    names = status_names(production.studio)
    rows = StatusChange.objects.filter(shot__production=production).select_related("by", "shot").order_by("-made_at")
    for one in rows[:_LOOKED]:
        yield ActivityLine(
            one.made_at, _name(one.by), one.shot, str(Message("status: {status}", status=names[one.status]))
        )


def _remarks(production: Production) -> Iterator[ActivityLine]:
    rows = Remark.objects.filter(shot__production=production).select_related("shot").order_by("-made_at")
    for one in rows[:_LOOKED]:
        said = Message("answer: “{text}”" if one.answers_to_id else "remark: “{text}”", text=one.text[:120])
        yield ActivityLine(one.made_at, one.name, one.shot, str(said))


def _decisions(production: Production) -> Iterator[ActivityLine]:
    rows = Decision.objects.filter(shot__production=production).select_related("shot").order_by("-made_at")
    for one in rows[:_LOOKED]:
        yield ActivityLine(one.made_at, one.name, one.shot, str(one.get_verdict_display()))


def _links(production: Production) -> Iterator[ActivityLine]:
    rows = ReviewLink.objects.filter(production=production).select_related("by").order_by("-made_at")
    for one in rows[:_LOOKED]:
        said = Message("review link for {whom}", whom=one.for_whom) if one.for_whom else Message("review link")
        yield ActivityLine(one.made_at, _name(one.by), None, str(said))
