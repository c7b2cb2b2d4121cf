"""Proposals of who speaks when, and accepting them."""

from collections import defaultdict
from collections.abc import Mapping, Sequence

from django.db import transaction

from tinfork.apps.people.models import User
from tinfork.apps.produce.actions import add_to_cast
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.reading.actions.voices import remember_voices, who_is_heard
from tinfork.apps.reading.models import Soundtrack
from tinfork.core.errors import TimingError
from tinfork.core.sound.speakers import Voiced
from tinfork.core.sound.voiceprint import Voiceprint
from tinfork.core.soundtrack.assembly import Region
from tinfork.core.soundtrack.edits import set_reading
from tinfork.core.speech.reading import Turn
from tinfork.core.speech.turns import with_turns


@transaction.atomic
def keep_proposal(
    *, shot: Shot, regions: Sequence[Region], spans: Sequence[Voiced], voices: Mapping[str, Voiceprint]
) -> dict[str, str]:
    """Store a proposal, in the time of each voice's take, until it is accepted or dropped.

    `voices` are voiceprints by number. Returns the characters of known voices.
    """
    row = locked(shot)
    found = []
    for span in spans:
        for region in regions:
            start, end = max(span.start_us, region.at_us), min(span.end_us, region.end_us)
            if start < end:
                by_us = region.in_us - region.at_us
                found.append({"who": span.voice, "voice": region.voice, "start": start + by_us, "end": end + by_us})
    known = who_is_heard(shot.production, voices)
    Soundtrack.objects.filter(pk=row.pk).update(
        proposal={
            "spans": found,
            "guess": _guess(row, found, known),
            "count": len({s["who"] for s in found}),
            "voices": {who: voice.kept() for who, voice in voices.items()},
        }
    )
    return known


def _guess(row: Soundtrack, spans: Sequence[Mapping[str, int]], recognised: Mapping[str, str]) -> dict[str, str]:
    """Guess the character of each voice: from known lines, or else in the order of the cast."""
    shared: dict[tuple[int, str], int] = defaultdict(int)
    readings = {v.id: v.reading for v in row.content.voices}
    for span in spans:
        for line in readings[span["voice"]].lines if span["voice"] in readings else ():
            for word in line.words:
                if span["start"] <= (word.start_us + word.end_us) // 2 < span["end"]:
                    shared[span["who"], line.speaker] += 1
    cast = [str(c.pk) for c in row.shot.characters]
    out: dict[str, str] = dict(recognised)
    known = {speaker for _, speaker in shared}
    if len(known) > 1:
        for (who, speaker), _ in sorted(shared.items(), key=lambda item: -item[1]):
            if str(who) not in out and speaker not in out.values() and speaker in cast:
                out[str(who)] = speaker
    for who in sorted({s["who"] for s in spans}):
        if str(who) not in out:
            out[str(who)] = next((c for c in cast if c not in out.values()), "")
    return out


@transaction.atomic
def accept_speakers(*, shot: Shot, cast: Mapping[str, str], by: User | None) -> None:
    """Turn the proposal into turns; `cast` has the character's id for each voice, "" for nobody."""
    row = locked(shot)
    if not row.proposal:
        raise TimingError("That suggestion is no longer there. Run it again.")
    people = {str(c.pk): c for c in shot.production.studio.characters.all()}
    if any(number not in people for number in cast.values() if number):
        raise TimingError("A character of that suggestion is not in this studio.")
    add_to_cast(shot, [people[number] for number in cast.values() if number])
    st = row.content
    there = {v.id for v in st.voices}
    turns: dict[int, list[Turn]] = defaultdict(list)
    for span in row.proposal["spans"]:
        who = cast.get(str(span["who"]), "")
        if who and span["voice"] in there:
            own = turns[span["voice"]]
            if own and own[-1].speaker == who and span["start"] - own[-1].end_us < 300_000:
                own[-1] = Turn(who, own[-1].start_us, span["end"], by_hand=True)
            else:
                own.append(Turn(who, span["start"], span["end"], by_hand=True))
    for number, own in turns.items():
        st = set_reading(st, number, with_turns(st.voice(number).reading, own))
    record_edit(row, st, name="speakers", by=by, parameters=dict(cast))
    heard = row.proposal.get("voices", {})
    given = {number: Voiceprint.of(heard[who]) for who, number in cast.items() if number and who in heard}
    remember_voices(shot.production, given)
    Soundtrack.objects.filter(pk=row.pk).update(proposal=None)


def drop_proposal(shot: Shot) -> None:
    """Discard the proposal."""
    Soundtrack.objects.filter(shot=shot).update(proposal=None)
