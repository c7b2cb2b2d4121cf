"""Shortening the document of a shot to what is new to a page.

A list that the page has is sent as a splice: `{"at", "gone", "put"}`, the index, the number of removed items, and the
new items. This process stores the lists it sent last; unknown ones are sent whole.
"""

from collections.abc import Iterator
from typing import Any

from tinfork.apps.common.recent_cache import RecentCache
from tinfork.core.kept import common_ends

#: Lists of a document by their paths in it.
_Lists = dict[tuple[str, ...], list[Any]]
#: The lists that may be long.
_OF_SHOT = ("words", "turns", "clips", "looks", "notes")
_OF_CHARACTER = ("holds", "pins")
#: Lists up to this length are sent whole.
_SHORT = 8

#: The lists that pages have, by shot and revision.
_TOLD: RecentCache[tuple[int, int], _Lists] = RecentCache(8)


def remember_whole(shot: int, document: dict[str, Any]) -> None:
    """Store that the whole document of a shot (its key) was sent."""
    people = {str(one["id"]): one for one in document["characters"]}
    _TOLD.put((shot, document["revision"]), dict(_lists({**document, "characters": people})))


def shortened(shot: int, since: int | None, document: dict[str, Any]) -> dict[str, Any]:
    """The changes of a shot (its key) for a page that has revision `since`."""
    now = dict(_lists(document))
    before = _TOLD.get((shot, since)) if since is not None else None
    if before is None:
        if len(now) >= len(_OF_SHOT):
            _TOLD.put((shot, document["revision"]), now)
        return document
    _TOLD.put((shot, document["revision"]), before | now)
    out = {**document, "characters": {who: {**one} for who, one in document["characters"].items()}, "since": since}
    for where, items in now.items():
        if where in before and len(items) > _SHORT:
            place = out if len(where) == 1 else out["characters"][where[0]]
            place[where[-1]] = splice(before[where], items)
    return out


def splice(before: list[Any], after: list[Any]) -> dict[str, Any]:
    """The splice that turns one list into another."""
    shorter = min(len(before), len(after))
    at, same = common_ends(before, after)
    while at < shorter and before[at] == after[at]:
        at += 1
    same = min(same, shorter - at)
    while same < shorter - at and before[-1 - same] == after[-1 - same]:
        same += 1
    return {"at": at, "gone": len(before) - at - same, "put": after[at : len(after) - same]}


def _lists(document: dict[str, Any]) -> Iterator[tuple[tuple[str, ...], list[Any]]]:
    for name in _OF_SHOT:
        if name in document:
            yield (name,), document[name]
    for who, character in document["characters"].items():
        for name in _OF_CHARACTER:
            yield (who, name), character[name]
