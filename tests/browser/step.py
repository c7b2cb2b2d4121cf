"""Whether what is drawn keeps step with the sound."""

from collections.abc import Callable, Sequence
from itertools import pairwise


def check_step(seen: Sequence[tuple[float, int]], due: Callable[[float], int]) -> None:
    """`seen`: for each picture, right after it was drawn, the sound clock (s) and the frame it shows; `due`: the frame
    of a time.

    A picture shows a frame that was due since the picture before it. Where the machine kept pace, that is at most one
    from what is due when it can be seen; where it did not, it was drawn late, as anything would be.
    """
    errors, paced = [], []
    for (earlier, _), (clock, shown) in pairwise(seen):
        if clock < earlier:
            continue
        errors.append(max(0, due(earlier) - shown, shown - due(clock)))
        if due(clock) - due(earlier) <= 1:
            paced.append(abs(due(clock) - shown))
    print(f"\n{len(seen)} pictures, {len(paced)} in pace, off by at most {max(paced)}, of all {max(errors)}")
    assert len(paced) > 60
    assert max(paced) <= 1
    assert max(errors) <= 1
