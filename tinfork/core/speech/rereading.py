"""Reading only changed lines again, and transferring hand work from one reading to the next."""

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from itertools import pairwise

from tinfork.core.speech.keeping import keep_words
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.core.speech.unworded import BY_EAR

#: What identifies a line: its speaker, words and language.
Key = tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class Change:
    """Lines `[first, last)` of the new text that must be read, between two times of the sound."""

    first: int
    last: int
    start_us: int
    end_us: int


@dataclass(frozen=True)
class Plan:
    """`kept` has for each new line its old line (None: to be read); `changes` are the lines to read."""

    kept: tuple[int | None, ...]
    changes: tuple[Change, ...]


def plan_rereading(old: Reading, new: Sequence[Key], is_stale: Callable[[Line], bool] = lambda line: False) -> Plan:
    """Decide which lines are kept, and between which times the others are: between the kept lines around them.

    Stale lines are read again even if their text is the same. A line that only changed its speaker is kept, since it
    sounds the same.
    """
    old_keys = [(line.text, line.language) for line in old.lines]
    new_keys = [(text, language) for _, text, language in new]
    kept: list[int | None] = [None] * len(new)
    for block in SequenceMatcher(a=old_keys, b=new_keys, autojunk=False).get_matching_blocks():
        for step in range(block.size):
            line = old.lines[block.a + step]
            if line.words and not is_stale(line):
                kept[block.b + step] = block.a + step
    return _plan(old, kept)


def whole_plan(old: Reading, new: Sequence[Key]) -> Plan:
    """A plan that reads everything again."""
    return _plan(old, [None] * len(new))


def widened(old: Reading, plan: Plan) -> Plan | None:
    """A plan that also reads the neighbours of the lines it reads; None if it reads everything already."""
    kept = plan.kept
    near = {at + step for at, found in enumerate(kept) if found is None for step in (-1, 0, 1)}
    wider = [None if at in near else found for at, found in enumerate(kept)]
    return _plan(old, wider) if any(a != b for a, b in zip(kept, wider, strict=True)) else None


def _plan(old: Reading, kept: list[int | None]) -> Plan:
    changes: list[Change] = []
    at = 0
    while at < len(kept):
        if kept[at] is not None:
            at += 1
            continue
        last = at
        while last < len(kept) and kept[last] is None:
            last += 1
        before = kept[at - 1] if at else None
        after = kept[last] if last < len(kept) else None
        start_us = old.lines[before].end_us if before is not None else 0
        end_us = old.lines[after].start_us if after is not None else old.duration_us
        changes.append(Change(at, last, start_us, end_us))
        at = last
    return Plan(tuple(kept), tuple(changes))


def apply_plan(
    old: Reading,
    new: Sequence[Key],
    plan: Plan,
    read: Callable[[Change], Sequence[Line]],
    is_free: Callable[[Word], bool] | None = None,
) -> tuple[Line, ...]:
    """The new lines: kept ones unchanged but for their speaker, the others from `read`.

    In a line that was there before, unchanged words stay, and pinned ones always do; see `keep_words`.
    """
    lines: dict[int, Line] = {
        at: replace(old.lines[kept], speaker=new[at][0]) for at, kept in enumerate(plan.kept) if kept is not None
    }
    for change in plan.changes:
        olds = _before(old, plan, change)
        for at, line in zip(range(change.first, change.last), read(change), strict=True):
            was = olds.get(at)
            lines[at] = keep_words(was, line, is_free=is_free) if was and line.words else line
    return tuple(lines[at] for at in range(len(new)))


def _before(old: Reading, plan: Plan, change: Change) -> dict[int, Line]:
    """The old lines of a change, if they can be told: those in the same place."""
    before = plan.kept[change.first - 1] if change.first else None
    after = plan.kept[change.last] if change.last < len(plan.kept) else None
    olds = old.lines[0 if before is None else before + 1 : after]
    if len(olds) == change.last - change.first:
        return dict(zip(range(change.first, change.last), olds, strict=True))
    return {}


def with_unworded(old: Reading, new: Reading) -> Reading:
    """A new reading of words, with the sounds by ear between words of the old one: a laugh, a scream.

    They are dropped where there are new words; if all of the reading was by ear, the words replace it.
    """
    by_ear = [line for line in old.lines if line.method == BY_EAR]
    if len(by_ear) == len(old.lines):
        return new
    said = [(word.start_us, word.end_us) for word in new.words()]
    kept = [line for line in by_ear if not any(a < line.end_us and line.start_us < b for a, b in said)]
    lines: list[Line] = []
    for line in new.lines:
        while kept and line.words and kept[0].start_us < line.start_us:
            lines.append(kept.pop(0))
        lines.append(line)
    return replace(new, lines=(*lines, *kept))


def shifted(line: Line, by_us: int) -> Line:
    """A line shifted in time."""
    return replace(
        line,
        words=tuple(
            replace(
                word,
                start_us=word.start_us + by_us,
                end_us=word.end_us + by_us,
                phonemes=tuple(replace(p, start_us=p.start_us + by_us, end_us=p.end_us + by_us) for p in word.phonemes),
            )
            for word in line.words
        ),
        extras=tuple(replace(e, start_us=e.start_us + by_us, end_us=e.end_us + by_us) for e in line.extras),
    )


def text_time_map(old: Reading, new: Reading) -> Callable[[int], int]:
    """Maps a time of one take to the same place of the text in another take: by words, in proportion inside a word.

    Times before the first common word and after the last are shifted like it. Without a common word, times do not
    change.
    """
    olds, news = list(old.words()), list(new.words())
    points: list[tuple[int, int]] = []
    keys = [[word.text.casefold() for word in words] for words in (olds, news)]
    for block in SequenceMatcher(a=keys[0], b=keys[1], autojunk=False).get_matching_blocks():
        for step in range(block.size):
            a, b = olds[block.a + step], news[block.b + step]
            points += [(a.start_us, b.start_us), (a.end_us, b.end_us)]
    points = _rising(points)

    def carry(time_us: int) -> int:
        if not points:
            return min(time_us, new.duration_us)
        at = bisect_right(points, (time_us, new.duration_us + 1))
        if at == 0:
            moved = time_us + points[0][1] - points[0][0]
        elif at == len(points):
            moved = time_us + points[-1][1] - points[-1][0]
        else:
            (a0, b0), (a1, b1) = points[at - 1], points[at]
            moved = b0 + (time_us - a0) * (b1 - b0) // (a1 - a0)
        return max(0, min(moved, new.duration_us))

    return carry


def _rising(points: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Points in which both times increase; where two words touch, the later one counts."""
    out: list[tuple[int, int]] = []
    for point in sorted(points):
        if out and point[0] == out[-1][0]:
            continue
        if not out or point[1] >= out[-1][1]:
            out.append(point)
    assert all(a[0] < b[0] and a[1] <= b[1] for a, b in pairwise(out))
    return out
