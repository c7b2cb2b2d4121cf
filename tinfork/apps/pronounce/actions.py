"""Changing pronunciations."""

from django.db import transaction

from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production
from tinfork.apps.pronounce.models import Pronunciation
from tinfork.apps.pronounce.queries import shots_saying
from tinfork.apps.reading.actions.reading import read_again
from tinfork.apps.reading.looks import count_anew
from tinfork.core.errors import WordsError
from tinfork.core.speech.lexicon import base_language, fold_word, parse_pronunciation


@transaction.atomic
def set_pronunciation(*, production: Production, language: str, word: str, sounds: str, by: User) -> list[Job]:
    """Set the pronunciation of a word and re-read the lines that have it; returns the jobs.

    Raises `WordsError` for an invalid pronunciation.
    """
    folded = fold_word(word)
    if not folded or len(folded) > 120:
        raise WordsError("Name the word.")
    symbols = " ".join(parse_pronunciation(sounds))
    Pronunciation.objects.update_or_create(
        production=production,
        language=base_language(language),
        word=folded,
        defaults={"sounds": symbols, "by": by},
    )
    return _read_again(production, language, folded, by)


@transaction.atomic
def drop_pronunciation(*, production: Production, language: str, word: str, by: User) -> list[Job]:
    """Reset a word to its default pronunciation."""
    folded = fold_word(word)
    production.pronunciations.filter(language=base_language(language), word=folded).delete()
    return _read_again(production, language, folded, by)


def _read_again(production: Production, language: str, word: str, by: User) -> list[Job]:
    """Re-read the lines with the word, in shots that have been read."""
    count_anew(production.shots.all())
    jobs = (
        read_again(shot=shot, word=word, language=language, by=by) for shot in shots_saying(production, language, word)
    )
    return [job for job in jobs if job]
