"""The methods by which a shot can be read."""

from dataclasses import dataclass

from django.db import models

from tinfork.core.messages import Message


class ReadingMethod(models.TextChoices):
    """With its words, or, where nobody typed them, in one of three other ways; what each gives is its label."""

    WORDS = "words", Message("Words above: most precise")
    HEARD = "heard", Message("Hear the words: Tin Fork writes them down, in any language")
    EAR = "ear", Message("Sounds only (no words): rougher, any language")
    FLAP = "flap", Message("Flap: opens with loudness, for crowds")


@dataclass(frozen=True, slots=True)
class ReadingRequest:
    """What a shot's reading is to be.

    Its words, the language of lines that name none ("": as before), the method, whether lines that have not changed are
    read again too, and the language that is heard ("": found by itself). `is_dropped`: the shot was made for its
    recording, and goes with it. `acts`: acting is proposed with the reading.
    """

    words: str
    language: str = ""
    method: ReadingMethod = ReadingMethod.WORDS
    everything: bool = False
    spoken: str = ""
    is_dropped: bool = False
    acts: bool = False
