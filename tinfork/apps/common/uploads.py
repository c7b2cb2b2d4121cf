"""Uploads go to disk as they arrive.

One that announces too much, that a stranger sends, or for which there is no room is refused before it does.
"""

from typing import Any

from django.conf import settings
from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.core.files.uploadhandler import TemporaryFileUploadHandler

from tinfork.apps.common.room import STRANGERS_BYTES, need_room_for
from tinfork.core.messages import Message


class LimitedUploadHandler(TemporaryFileUploadHandler):
    """A temporary file for each upload, up to the largest sound there may be."""

    def handle_raw_input(self, input_data: Any, META: Any, content_length: int, *rest: Any, **more: Any) -> None:  # noqa: N803
        """Refuse by the announced length; the body is not read."""
        if content_length > settings.MOST_SENT_BYTES:
            raise RequestDataTooBig(f"Uploads end at {settings.MOST_SENT_BYTES} bytes.")
        user = getattr(self.request, "user", None)
        if content_length > STRANGERS_BYTES and not (user and user.is_authenticated):
            raise PermissionDenied(Message("Sign in before you send files."))
        need_room_for(content_length)
        super().handle_raw_input(input_data, META, content_length, *rest, **more)
