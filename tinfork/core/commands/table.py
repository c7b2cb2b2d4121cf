"""All edit commands by name."""

from collections.abc import Mapping
from typing import Any

from tinfork.core.commands.declared import Command, Parameters, SettingsCommand, parse_parameters
from tinfork.core.commands.motion import MOTION
from tinfork.core.commands.mouths import MOUTHS
from tinfork.core.commands.settings import SETTINGS
from tinfork.core.commands.sound import SOUND
from tinfork.core.commands.words import WORDS
from tinfork.core.errors import FormatError

#: Those that change the soundtrack.
COMMANDS: dict[str, type[Command]] = {**SOUND, **MOUTHS, **WORDS, **MOTION}
#: All of them.
ALL: dict[str, type[Parameters]] = {**COMMANDS, **SETTINGS}


def parse_command(name: str, parameters: Mapping[str, Any]) -> Command | SettingsCommand:
    """A command from its name and plain values.

    Raises
    ------
    FormatError
        For one that is none.
    """
    if name in COMMANDS:
        return parse_parameters(COMMANDS[name], parameters)
    if name in SETTINGS:
        return parse_parameters(SETTINGS[name], parameters)
    raise FormatError("edit.unknown")
