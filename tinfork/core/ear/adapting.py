"""The ear adapts to a voice: a sound that somebody pronounces in an unusual way fits badly wherever they say it.

After a first pass, the mean fit of each sound of a speaker is compared with the mean of all their sounds. A sound that
fits worse gets the difference as a gain, and more of it the more often the sound was heard (shrinkage; a maximum a
posteriori estimate of an offset for each sound, Gauvain and Lee 1994).
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import Alignment, shares_of
from tinfork.core.ear.phones import BREATH, HEARD, SILENCE

#: With this many frames a sound gets half of its gain; the largest gain, up and down.
_HALF_WAY, _MOST, _LEAST = 60.0, 1.5, -0.5
#: A fit worse than this counts as this: it is another sound.
_FLOOR = -6.0


class SoundGains:
    """How well the sounds of one speaker fitted so far."""

    def __init__(self) -> None:
        self._total = np.zeros(len(HEARD))
        self._frames = np.zeros(len(HEARD))

    def add(self, found: Alignment, ipa: Sequence[Sequence[str]], evidence: Evidence) -> None:
        """Take the sounds of some aligned words into account."""
        for spans, symbols in zip(found.words, ipa, strict=True):
            for span, symbol in zip(spans, symbols, strict=True) if spans else ():
                for part, first, last in shares_of(symbol, span.first, span.last) if span else ():
                    self._total[part] += np.maximum(evidence.heard[first:last, part], _FLOOR).sum()
                    self._frames[part] += last - first

    def gains(self) -> NDArray[np.float32]:
        """The gain of each sound (log probability), shape (sounds,)."""
        if not self._frames.any():
            return np.zeros(len(HEARD), dtype=np.float32)
        usual = self._total.sum() / self._frames.sum()
        own = np.divide(self._total, self._frames, out=np.full(len(HEARD), usual), where=self._frames > 0)
        out = np.clip((usual - own) * self._frames / (self._frames + _HALF_WAY), _LEAST, _MOST)
        out[[HEARD.index(SILENCE), HEARD.index(BREATH)]] = 0.0
        return np.asarray(out, dtype=np.float32)
