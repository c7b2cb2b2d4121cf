"""Memoisation for immutable values, by identity; and finding the values that an edit left as they were."""

import weakref
from collections.abc import Callable, Iterable, Sequence
from functools import wraps
from itertools import compress, count, islice
from operator import is_not
from typing import Any, Concatenate, ParamSpec, TypeVar

_V = TypeVar("_V")
_R = TypeVar("_R")
_P = ParamSpec("_P")

#: How many results are kept for one value, if the function has further arguments.
_MOST = 4


def kept(function: Callable[Concatenate[_V, _P], _R]) -> Callable[Concatenate[_V, _P], _R]:
    """Let a function keep its results for as long as its first argument lives; that argument is compared by identity.

    It must be immutable, weakly referenceable and no part of the result; further arguments are compared as values. An
    edit replaces a few values and shares all others with the state before, so most results are known already.
    """
    # Shared by threads: entries are replaced, never changed.
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


#: Shorter sequences are looked up value by value: they would push the long ones out.
_WORTH = 32
#: By function, the last sequences that `of_each` was asked for: further arguments, values, results.
_ASKED: dict[Callable[..., Any], tuple[tuple[tuple[object, ...], Sequence[Any], list[Any]], ...]] = {}


def of_each(function: Callable[..., _R], values: Sequence[Any], *more: object) -> list[_R]:
    """The results of a `kept` function for each of many values, all with the same further arguments.

    The results of the identical values at both ends of a sequence that was asked for recently are taken over at once:
    after an edit, only the values between them are looked up.
    """
    if len(values) < _WORTH:
        return [function(value, *more) for value in values]
    values = tuple(values)
    # Shared by threads: entries are replaced, never changed.
    asked = _ASKED.get(function, ())
    results: list[_R] | None = None
    for context, old, known in asked:
        if context == more:
            first, last = common_ends(old, values)
            if first + last:
                between = values[first : len(values) - last]
                results = [*known[:first], *(function(value, *more) for value in between), *known[len(known) - last :]]
                break
    if results is None:
        results = [function(value, *more) for value in values]
    _ASKED[function] = ((more, values, results), *asked[: _MOST - 1])
    return results.copy()


def common_ends(one: Sequence[Any], other: Sequence[Any]) -> tuple[int, int]:
    """How many items at the start, and how many of the rest at the end, are identical objects in two sequences."""
    if one is other:
        return len(one), 0
    most = min(len(one), len(other))
    first = _same(one, other, most)
    return first, _same(reversed(one), reversed(other), most - first)


def _same(one: Iterable[Any], other: Iterable[Any], most: int) -> int:
    """The index of the first item that is another object in the other sequence; `most` if the items before it agree."""
    differ = islice(map(is_not, one, other), most)
    return next(compress(count(), differ), most)
