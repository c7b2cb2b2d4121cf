"""Model fields for messages: stored as code and values, and shown in the reader's language."""

import json
from typing import Any

from django.db import models

from tinfork.core.messages import Message

_MARK = '{"code"'


class MessageField(models.TextField):  # type: ignore[type-arg]
    """A message, or plain text."""

    def from_db_value(self, value: str | None, *_: Any) -> str | None:
        """The stored message or text."""
        return Message.from_dict(json.loads(value)) if value and value.startswith(_MARK) else value

    def get_prep_value(self, value: Any) -> Any:
        """A message as plain values."""
        return json.dumps(value.to_dict()) if isinstance(value, Message) else super().get_prep_value(value)


class MessagesField(models.JSONField):
    """A list of messages and texts."""

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """The stored messages and texts."""
        return [Message.from_dict(one) for one in super().from_db_value(value, expression, connection) or ()]

    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        """Messages as plain values."""
        if isinstance(value, list | tuple):
            value = [one.to_dict() if isinstance(one, Message) else one for one in value]
        return super().get_db_prep_value(value, connection, prepared)
