"""What follows from values that never change, worked out once for each of them; and which of them an edit left."""

import weakref
from collections.abc import Callable, Sequence
from functools import wraps
from operator import is_
from typing import Any, Concatenate, ParamSpec, TypeVar

_V = TypeVar("_V")
_R = TypeVar("_R")
_P = ParamSpec("_P")

#: For so many different further arguments the results of one value are kept.
_MOST = 4


def kept(function: Callable[Concatenate[_V, _P], _R]) -> Callable[Concatenate[_V, _P], _R]:
    """Let a function keep its results for as long as its first argument lives, which is told by identity.

    That argument never changes, takes weak references, and is no part of its result; the further ones are compared as
    values. An edit makes a few values anew and takes over all others: what follows from those is known already.
    """
    # Threads share it: what is there is replaced, never changed.
    known: dict[int, tuple[weakref.ref[Any], tuple[tuple[object, _R], ...]]] = {}

    @wraps(function)
    def found(value: _V, /, *more: _P.args, **named: _P.kwargs) -> _R:
        key = id(value)
        asked = (more, named) if named else more
        entry = known.get(key)
        if entry is not None:
            for context, result in entry[1]:
                if context == asked:
                    return result
        result = function(value, *more, **named)
        mark, results = entry or (weakref.ref(value, lambda _: known.pop(key, None)), ())
        known[key] = mark, ((asked, result), *results[: _MOST - 1])
        return result

    return found


def common_ends(one: Sequence[Any], other: Sequence[Any]) -> tuple[int, int]:
    """How many of the first, and of the other last items of two rows are the very same ones."""
    most = min(len(one), len(other))
    first = _same(one, other, most, lambda row, at, until: row[at:until])
    most -= first
    return first, _same(one, other, most, lambda row, at, until: row[len(row) - until : len(row) - at])


def _same(
    one: Sequence[Any], other: Sequence[Any], most: int, part: Callable[[Sequence[Any], int, int], Sequence[Any]]
) -> int:
    """How many items from one end on are the very same, of `most`; whole parts are compared at once."""
    at, step = 0, most
    while step:
        parts = [part(row, at, at + step) for row in (one, other)]
        if all(map(is_, *parts)):
            at += step
            step = min(step, most - at)
        else:
            step //= 2
    return at
