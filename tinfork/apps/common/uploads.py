"""Uploads go to disk as they arrive, and one that announces too much is refused before it does."""

from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.core.files.uploadhandler import TemporaryFileUploadHandler

from tinfork.engines.limits import MAX_SOUND_BYTES

#: What a form adds around its file.
_FORM_BYTES = 1024 * 1024


class LimitedUploadHandler(TemporaryFileUploadHandler):
    """A temporary file for each upload, up to the largest sound there may be."""

    def handle_raw_input(self, input_data: Any, META: Any, content_length: int, *rest: Any, **more: Any) -> None:  # noqa: N803
        """Refuse (400) by the announced length; the body is not read."""
        if content_length > MAX_SOUND_BYTES + _FORM_BYTES:
            raise RequestDataTooBig(f"Uploads end at {MAX_SOUND_BYTES} bytes.")
        super().handle_raw_input(input_data, META, content_length, *rest, **more)
