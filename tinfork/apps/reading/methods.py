"""The methods of reading a shot."""

from dataclasses import dataclass

from django.db import models

from tinfork.core.messages import Message


class ReadingMethod(models.TextChoices):
    """With typed words, or without them in one of three ways; the labels describe the results."""

    WORDS = "words", Message("Words above: most precise")
    HEARD = "heard", Message("Hear the words: Tin Fork writes them down, in any language")
    EAR = "ear", Message("Sounds only (no words): rougher, any language")
    FLAP = "flap", Message("Flap: opens with loudness, for crowds")


@dataclass(frozen=True, slots=True)
class ReadingRequest:
    """A request to read a shot.

    Its words, the default language of lines ("": unchanged), the method, whether unchanged lines are read again, and
    the spoken language ("": detect it). `is_dropped`: the shot was made for its recording, and is deleted with it.
    `acts`: propose acting with the reading.
    """

    words: str
    language: str = ""
    method: ReadingMethod = ReadingMethod.WORDS
    everything: bool = False
    spoken: str = ""
    is_dropped: bool = False
    acts: bool = False
