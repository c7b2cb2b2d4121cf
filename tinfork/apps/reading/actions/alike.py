"""Correcting a word everywhere in a production after it was corrected in one place."""

from dataclasses import replace

from django.db import transaction

from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.actions.soundtracks import follow_words, locked, record_edit
from tinfork.apps.reading.models import Soundtrack
from tinfork.core.errors import WordsError
from tinfork.core.speech.alike import places_of, retyped
from tinfork.core.speech.handwork import MAX_LETTERS
from tinfork.core.speech.lexicon import fold_word
from tinfork.engines.wording import is_unknown, sounds_of

#: Known words of up to this many letters ("is", "the", "and") are not offered: a name is not always heard as one.
_SHORT = 3
#: The most shots that are corrected at once.
MAX_SHOTS = 500


def is_worth_asking(was: str, now: str, language: str) -> bool:
    """Whether the correction may be of a name that was heard wrong.

    Replacing one common word by another is not, nor is a short, frequent word.
    """
    old, new = fold_word(was), fold_word(now)
    if not old or not new or old == new:
        return False
    is_odd = is_unknown(old, language)
    return is_odd or (len(old) > _SHORT and (now[:1].isupper() or is_unknown(new, language)))


def places_alike(shot: Shot, word: str) -> dict[int, int]:
    """How often a word occurs in each of the production's shots, by their keys; shots without it are left out."""
    rows = Soundtrack.objects.filter(shot__in=shot.production.shots.all(), is_read=True).select_related("shot")
    found = {row.shot_id: len(places_of(row.reading, word)) for row in rows[:MAX_SHOTS]}
    return {key: count for key, count in found.items() if count}


@transaction.atomic
def correct_alike(*, shot: Shot, was: str, now: str, by: User) -> int:
    """Replace a word everywhere in the production's shots, with one edit in each shot; returns the number of places.

    Raises `WordsError` for an invalid word.
    """
    if not fold_word(was) or not fold_word(now) or len(now) > MAX_LETTERS:
        raise WordsError("Type the word and its replacement.")
    lexicon = lexicon_of(shot.production)
    places = places_alike(shot, was)
    for other in Shot.objects.filter(pk__in=places).order_by("pk"):
        row = locked(other)
        before = row.content
        voices = tuple(
            replace(v, reading=retyped(v.reading, was, now, lambda text, language: sounds_of(text, language, lexicon)))
            for v in before.voices
        )
        after = replace(before, voices=voices)
        record_edit(row, after, name="retype_alike", by=by, parameters={"was": was, "now": now})
        follow_words(other, before, after)
    return sum(places.values())
