"""What a hostile file is, and the places where files are taken."""

from dataclasses import dataclass
from random import Random

SOUND, FILM, DRAWINGS, PAGE, FACE, ARCHIVE, SCRIPT = "sound", "film", "drawings", "page", "face", "archive", "script"


@dataclass(frozen=True)
class Hostile:
    """One file: where it is sent, what it is called, its bytes. `is_slow`: opening it takes seconds, as it may."""

    where: str
    name: str
    data: bytes
    is_slow: bool = False


def hurt(data: bytes, dice: Random, bytes_hurt: int = 40) -> bytes:
    """The same with some bytes changed."""
    out = bytearray(data)
    for _ in range(bytes_hurt):
        out[dice.randrange(len(out))] = dice.randrange(256)
    return bytes(out)
