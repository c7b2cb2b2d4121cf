"""The type of hostile files, and the targets of uploads."""

from dataclasses import dataclass
from random import Random

SOUND, FILM, DRAWINGS, PAGE, FACE, ARCHIVE, SCRIPT = "sound", "film", "drawings", "page", "face", "archive", "script"


@dataclass(frozen=True)
class Hostile:
    """A hostile file: its target, name and bytes. `is_slow`: opening it may take seconds."""

    where: str
    name: str
    data: bytes
    is_slow: bool = False


def hurt(data: bytes, dice: Random, bytes_hurt: int = 40) -> bytes:
    """A copy with some bytes changed."""
    out = bytearray(data)
    for _ in range(bytes_hurt):
        out[dice.randrange(len(out))] = dice.randrange(256)
    return bytes(out)
