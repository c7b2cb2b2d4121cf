"""Sounds that scripts have in brackets: breaths and laughter.

They move the mouth, but cannot be aligned as words.
"""

import re

BREATH, LAUGH = "breath", "laugh"
_CUES = {
    BREATH: "sigh sighs sighing gasp gasps gasping breath breathes breathing inhale inhales exhale exhales pant pants "
    "panting yawn yawns huff huffs puff puffs sniff sniffs breathless",
    LAUGH: "laugh laughs laughing laughter chuckle chuckles chuckling giggle giggles giggling cackle cackles snigger "
    "sniggers titter titters",
}
_KIND = {word: kind for kind, words in _CUES.items() for word in words.split()}
BRACKETS = re.compile(r"\[[^\]]*\]|\([^)]*\)")


def cue_of(bracket: str) -> str | None:
    """`BREATH` or `LAUGH` if the words in brackets name such a sound ("[sighs deeply]", "(laughter)"); else None."""
    words = re.findall(r"[a-z]+", bracket.casefold())
    found = [_KIND[word] for word in words if word in _KIND]
    return found[0] if found and len(words) <= 3 else None


def without_comments(text: str) -> str:
    """The text without the brackets, except for cues."""
    kept = BRACKETS.sub(lambda match: match[0] if cue_of(match[0]) else " ", text)
    return " ".join(kept.split())
