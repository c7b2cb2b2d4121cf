"""What a reading needs: a sound and its words."""

from pathlib import Path
from typing import Any

from django import forms
from django.core.files.uploadedfile import TemporaryUploadedFile

from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import open_job
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions import Brought
from tinfork.core.errors import TinForkError
from tinfork.engines import limits
from tinfork.engines.decode import probe
from tinfork.engines.reader import lines_from_text


class ReadForm(forms.Form):
    """A sound (unless the shot has one) and the words said in it."""

    sound = forms.FileField(label="Sound", required=False, allow_empty_file=True, max_length=200)
    words = forms.CharField(
        label="Words",
        required=False,
        max_length=limits.MAX_TEXT_CHARACTERS,
        widget=forms.Textarea(attrs={"rows": 9, "spellcheck": "true"}),
    )

    def __init__(self, *args: Any, shot: Shot, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.shot = shot
        self.brought: Brought | None = None

    def clean(self) -> dict[str, Any]:
        """One reading of a shot at a time: words sent meanwhile would be taken for read."""
        if open_job(self.shot, Job.Kind.READ):
            self.add_error(
                "words", "This shot is being read now. Cancel that reading, or wait for its end, then read again."
            )
        return self.cleaned_data

    def clean_sound(self) -> TemporaryUploadedFile | None:
        """Look into the file before it is taken: a wrong one is refused at once."""
        upload: TemporaryUploadedFile | None = self.cleaned_data["sound"]
        if upload is None:
            if self.shot.take is None:
                raise forms.ValidationError("Choose the recording: a WAV, MP3 or FLAC file.")
            return None
        try:
            path = Path(upload.temporary_file_path())
            name = upload.name or "The file"
            self.brought = Brought(name, path, probe(path, name))
        except TinForkError as error:
            raise forms.ValidationError(str(error)) from error
        return upload

    def clean_words(self) -> str:
        """There must be something to say."""
        words: str = self.cleaned_data["words"]
        if not lines_from_text(words):
            raise forms.ValidationError("Type what is said in the sound, a line for each phrase.")
        return words
