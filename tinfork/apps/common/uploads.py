"""Uploads are streamed to disk.

Those that are too large, from strangers, or without disk space are refused before.
"""

from typing import Any

from django.conf import settings
from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.core.files.uploadhandler import TemporaryFileUploadHandler

from tinfork.apps.common.disk_space import STRANGERS_BYTES, need_room_for
from tinfork.core.messages import Message


class LimitedUploadHandler(TemporaryFileUploadHandler):
    """Stores each upload in a temporary file, up to the size limit of sounds."""

    def handle_raw_input(self, input_data: Any, META: Any, content_length: int, *rest: Any, **more: Any) -> None:  # noqa: N803
        """Refuse by the declared length, without reading the body."""
        if content_length > settings.MOST_SENT_BYTES:
            raise RequestDataTooBig(f"Uploads end at {settings.MOST_SENT_BYTES} bytes.")
        user = getattr(self.request, "user", None)
        if content_length > STRANGERS_BYTES and not (user and user.is_authenticated):
            raise PermissionDenied(Message("Sign in before you send files."))
        need_room_for(content_length)
        super().handle_raw_input(input_data, META, content_length, *rest, **more)
