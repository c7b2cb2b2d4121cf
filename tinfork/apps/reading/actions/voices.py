"""Remembering characters' voices, to recognise them in later recordings."""

from collections.abc import Mapping

from tinfork.apps.cast.models import Character
from tinfork.apps.produce.models import Production
from tinfork.apps.reading.models import KnownVoice
from tinfork.core.sound.voiceprint import Voiceprint, recognised


def remember_voices(production: Production, voices: Mapping[str, Voiceprint]) -> None:
    """Store voiceprints of characters, by their keys; existing ones are extended."""
    own = Character.objects.filter(studio=production.studio)
    for key, character in ((key, own.filter(pk=key).first()) for key in voices if key.isdigit()):
        if character is None:
            continue
        row, is_new = KnownVoice.objects.get_or_create(
            production=production, character=character, defaults={"voice": voices[key].kept()}
        )
        if not is_new:
            row.voice = Voiceprint.of(row.voice).with_more(voices[key]).kept()
            row.save(update_fields=["voice"])


def who_is_heard(production: Production, voices: Mapping[str, Voiceprint]) -> dict[str, str]:
    """Recognise voices: the keys of their characters; unknown voices are left out."""
    rows = production.known_voices.filter(character__archived_at=None)
    return recognised(voices, {str(row.character_id): Voiceprint.of(row.voice) for row in rows})
