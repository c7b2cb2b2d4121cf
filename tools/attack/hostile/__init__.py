"""Generated hostile files; random damage follows from a seed."""

import random

from tools.attack.hostile import archives, pictures, scripts, sounds
from tools.attack.hostile.kinds import Hostile


def hostile_files(seed: int = 18) -> list[Hostile]:
    """All of them."""
    dice = random.Random(seed)
    return [
        *sounds.sounds(dice),
        *sounds.names(),
        *sounds.films(dice),
        *pictures.pictures(dice),
        *pictures.svgs(),
        *archives.layered(),
        *archives.archives(),
        *scripts.scripts(),
    ]
