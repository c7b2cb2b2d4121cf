"""Forms of takes."""

import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from django import forms
from django.core.files.uploadedfile import TemporaryUploadedFile

from tinfork.apps.cast.forms import NameField
from tinfork.apps.cast.models import Character
from tinfork.apps.common.languages import named_languages
from tinfork.apps.produce.models import Production
from tinfork.apps.sound.actions import Upload
from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.messages import Message
from tinfork.engines import limits
from tinfork.engines.probing import film_info, probe
from tinfork.engines.synthesiser import VARIANTS

#: The file types that browsers offer to choose.
SOUND_TYPES = "audio/*,video/mp4,video/quicktime,video/webm,.wav,.mp3,.flac,.aiff,.aif,.ogg,.opus,.m4a,.mkv,.mov,.caf"
FILM_TYPES = "video/*,.mp4,.mov,.webm,.mkv"

#: The time for checking files in the request (seconds), and how many are checked in parallel.
_LOOK_S = 8
_AT_ONCE = 4


def look_into(uploads: Sequence[TemporaryUploadedFile]) -> tuple[list[Upload], list[str]]:
    """Check uploads; returns the sounds, and error messages for the others.

    Raises `SoundError` if there is no sound.
    """
    if not uploads:
        raise SoundError("Choose the recording: a WAV, MP3 or FLAC file.")
    if len(uploads) > limits.MAX_SOUNDS:
        raise SoundError(
            "These are {count} files; the limit is {max_sounds} at once.",
            count=len(uploads),
            max_sounds=limits.MAX_SOUNDS,
        )
    good, wrong = _try_each(uploads)
    if not good:
        raise SoundError(" ".join(wrong))
    return good, wrong


def look_into_film(upload: TemporaryUploadedFile | None) -> Upload:
    """Check a film; raises `SoundError` if it is not one."""
    if upload is None:
        raise SoundError("Choose the film: MP4, MOV, WebM or MKV.")
    path = Path(upload.temporary_file_path())
    name = upload.name or Message("The film")
    film_info(path, name)
    return Upload(name, path)


def _try_each(uploads: Sequence[TemporaryUploadedFile]) -> tuple[list[Upload], list[str]]:
    """Check files in parallel, since most of the time is spent waiting for another program.

    If there are very many, the last ones are only checked when they are opened.
    """
    until = time.monotonic() + _LOOK_S

    def looked(upload: TemporaryUploadedFile) -> Upload | str:
        name, path = upload.name or Message("The file"), Path(upload.temporary_file_path())
        try:
            return Upload(name, path, probe(path, name) if time.monotonic() < until else None)
        except TinForkError as error:
            return str(error)

    with ThreadPoolExecutor(_AT_ONCE) as pool:
        found = list(pool.map(looked, uploads))
    return [one for one in found if not isinstance(one, str)], [one for one in found if isinstance(one, str)]


class TakeForm(forms.Form):
    """A take's name and whose voice it is."""

    name = NameField(label=Message("Name"))
    speaker = forms.ModelChoiceField(
        Character.objects.none(), label=Message("Who speaks"), required=False, empty_label="–"
    )

    def __init__(self, *args: Any, production: Production, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        field = self.fields["speaker"]
        assert isinstance(field, forms.ModelChoiceField)
        field.queryset = production.studio.characters.filter(archived_at=None)


class SpeakForm(forms.Form):
    """A text to synthesise, and how."""

    name = NameField(label=Message("Name"), required=False)
    text = forms.CharField(label=Message("Text"), max_length=20_000, widget=forms.Textarea(attrs={"rows": 5}))
    language = forms.ChoiceField(label=Message("Language"), initial="en-us")
    variant = forms.ChoiceField(label=Message("Voice"), required=False, choices=list(VARIANTS.items()))
    words_per_minute = forms.IntegerField(label=Message("Words per minute"), min_value=80, max_value=400, initial=160)
    pitch = forms.IntegerField(label=Message("Pitch"), min_value=0, max_value=99, initial=50)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        field = self.fields["language"]
        assert isinstance(field, forms.ChoiceField)
        field.choices = named_languages()
