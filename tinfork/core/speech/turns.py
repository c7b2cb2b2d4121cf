"""Turns: who talks when.

They are made from lines, changed by hand, and applied to lines. A word belongs to its line's speaker if one of the
speaker's turns covers the middle of the word. Another speaker whose turn covers it too, and who has no words in that
turn, moves with it. If its speaker has no turn there, the word goes to a speaker who has; a word outside all turns is
nobody's, and no mouth moves.
"""

from bisect import bisect_right
from dataclasses import replace
from itertools import accumulate, groupby

from tinfork.core.errors import TimingError
from tinfork.core.kept import kept, of_each
from tinfork.core.speech.reading import Line, Reading, Turn, Word

#: Lines of one speaker with at most this gap are one turn.
JOIN_US = 700_000
#: The least length of a turn set by hand.
SHORTEST_US = 40_000
#: A tapped end of a turn snaps to the edge of a word within this time.
SNAP_US = 350_000
#: The reaction time from hearing a voice to pressing a key: simple reactions to sound take 140 to 200 ms.
REACTION_US = 160_000


@kept
def turns_of(reading: Reading) -> tuple[Turn, ...]:
    """The reading's turns, or, if it has none, those made from its lines."""
    return reading.turns or turns_from_lines(reading.lines)


def turns_from_lines(lines: tuple[Line, ...]) -> tuple[Turn, ...]:
    """A turn for each run of lines of one speaker; its number is the negative of its first line's."""
    places = of_each(_place, lines)
    spoken = sorted((place, at) for at, place in enumerate(places) if lines[at].words)
    # The first line of each turn, its speaker, and the turn's end.
    runs: list[tuple[Line, str, int]] = []
    for (start_us, end_us, speaker, _), at in spoken:
        if runs and runs[-1][1] == speaker and start_us - runs[-1][2] <= JOIN_US:
            runs[-1] = *runs[-1][:2], max(runs[-1][2], end_us)
        else:
            runs.append((lines[at], speaker, end_us))
    return tuple(_turn_from(line, end_us) for line, _, end_us in runs)


@kept
def _place(line: Line) -> tuple[int, int, str, int]:
    return line.start_us, line.end_us, line.speaker, -line.id


@kept
def _turn_from(line: Line, end_us: int) -> Turn:
    """A turn that begins with a line."""
    return Turn(line.speaker, line.start_us, end_us, id=-line.id)


def _middle(word: Word) -> int:
    return (word.start_us + word.end_us) // 2


def apply_turns(reading: Reading) -> Reading:
    """The reading with its turns applied to its lines and then removed: lines are split where the speaker changes."""
    if not reading.turns:
        return reading
    find = _Covering(reading.turns)
    met = [find.near(line) for line in reading.lines]
    # The speakers with words in each turn.
    own: dict[int, set[str]] = {}
    for line, turns in zip(reading.lines, met, strict=True):
        for at in _covered(line, turns):
            own.setdefault(id(turns[at]), set()).add(line.speaker)
    lines: list[Line] = []
    for line, turns in zip(reading.lines, met, strict=True):
        speakers = tuple(frozenset(own.get(id(turn), ())) for turn in turns)
        lines += _settled(line, turns, speakers, reading.duration_us)
    return Reading(reading.duration_us, tuple(lines))


class _Covering:
    """Finds the turns about a time, in order."""

    def __init__(self, turns: tuple[Turn, ...]) -> None:
        self._turns = sorted(turns, key=lambda turn: turn.start_us)
        self._starts = [turn.start_us for turn in self._turns]
        # The latest end so far: nothing before covers later times.
        self._latest = list(accumulate((turn.end_us for turn in self._turns), max))

    def near(self, line: Line) -> tuple[Turn, ...]:
        """The turns that cover any time of a line."""
        if not line.words:
            return ()
        first_us, last_us = min(w.start_us for w in line.words), max(w.end_us for w in line.words)
        out: list[Turn] = []
        at = bisect_right(self._starts, last_us) - 1
        while at >= 0 and self._latest[at] > first_us:
            if self._turns[at].end_us > first_us:
                out.append(self._turns[at])
            at -= 1
        return tuple(reversed(out))


def _covering(turns: tuple[Turn, ...], at_us: int) -> list[int]:
    """The indices of the turns that cover a time."""
    return [at for at, turn in enumerate(turns) if turn.start_us <= at_us < turn.end_us]


@kept
def _covered(line: Line, turns: tuple[Turn, ...]) -> frozenset[int]:
    """The indices of the turns, of those near, that a word of the line is in."""
    return frozenset(at for word in line.words for at in _covering(turns, _middle(word)))


@kept
def _settled(
    line: Line, turns: tuple[Turn, ...], own: tuple[frozenset[str], ...], duration_us: int
) -> tuple[Line, ...]:
    """A line split where the speaker changes; `own` are the speakers with words in each of the turns near it."""
    said = [(_sayers(line, [(turns[at], own[at]) for at in _covering(turns, _middle(w))]), w) for w in line.words]
    runs = [(sayers, tuple(w for _, w in run)) for sayers, run in groupby(said, key=lambda pair: pair[0]) if sayers]
    out: list[Line] = []
    for nth, (sayers, words) in enumerate(runs):
        text = line.text if len(words) == len(line.words) else " ".join(w.text for w in words)
        # Speech without words goes with the words before it; words that are not heard belong to no part in particular.
        since_us = words[0].start_us if nth else 0
        until_us = runs[nth + 1][1][0].start_us if nth + 1 < len(runs) else duration_us
        extras = tuple(e for e in line.extras if since_us <= e.start_us < until_us)
        unsaid = () if nth else line.missing_words
        out.append(Line(sayers[0], text, line.language, words, sayers[1:], unsaid, line.method, extras, line.id))
    return tuple(out)


def _sayers(line: Line, covering: list[tuple[Turn, frozenset[str]]]) -> tuple[str, ...]:
    """The speakers whose mouths move on a word, its own speaker first, by the turns that cover it."""
    speakers = list(dict.fromkeys(turn.speaker for turn, _ in covering))
    if line.speaker not in speakers:
        return tuple(speakers)
    with_it = [turn.speaker for turn, own in covering if turn.speaker != line.speaker and turn.speaker not in own]
    return (line.speaker, *dict.fromkeys(with_it))


def with_turns(reading: Reading, turns: list[Turn]) -> Reading:
    """The reading with these turns in time order; overlapping turns of one speaker are joined."""
    out: list[Turn] = []
    for turn in sorted(turns, key=lambda t: (t.speaker, t.start_us, t.end_us)):
        last = out[-1] if out else None
        if last and last.speaker == turn.speaker and turn.start_us < last.end_us:
            out[-1] = replace(last, end_us=max(last.end_us, turn.end_us), by_hand=last.by_hand or turn.by_hand)
        else:
            out.append(turn)
    return replace(reading, turns=tuple(sorted(out, key=lambda t: (t.start_us, t.end_us, t.speaker))))


def _pick(reading: Reading, number: int) -> tuple[list[Turn], int]:
    """All turns, and the index of one of them.

    Raises
    ------
    TimingError
        For a turn that is gone.
    """
    turns = list(turns_of(reading))
    at = next((at for at, turn in enumerate(turns) if turn.id == number), None)
    if at is None:
        raise TimingError("turn.removed")
    return turns, at


def trim_turn(reading: Reading, number: int, start_us: int, end_us: int) -> Reading:
    """Trim a turn to `start_us` and `end_us`, clamped to the sound; other turns do not change.

    Raises
    ------
    TimingError
        Where it would be too short.
    """
    turns, at = _pick(reading, number)
    start_us, end_us = max(0, start_us), min(reading.duration_us, end_us)
    if end_us - start_us < SHORTEST_US:
        raise TimingError("turn.too_short")
    turns[at] = replace(turns[at], start_us=start_us, end_us=end_us, by_hand=True)
    return with_turns(reading, turns)


def split_turn(reading: Reading, number: int, at_us: int) -> Reading:
    """Split a turn in two at a time; both parts keep its speaker.

    Raises
    ------
    TimingError
        For a time too near to its ends, or outside.
    """
    turns, at = _pick(reading, number)
    turn = turns[at]
    if not turn.start_us + SHORTEST_US <= at_us <= turn.end_us - SHORTEST_US:
        raise TimingError("turn.split_outside")
    turns[at : at + 1] = [
        replace(turn, end_us=at_us, by_hand=True),
        replace(turn, start_us=at_us, by_hand=True, id=0),
    ]
    return with_turns(reading, turns)


def merge_turns(reading: Reading, number: int) -> Reading:
    """Join a turn with the next one of the same speaker; turns of others between them stay.

    Raises
    ------
    TimingError
        Where no turn of the same speaker follows.
    """
    turns, at = _pick(reading, number)
    turn = turns[at]
    after = next((i for i in range(at + 1, len(turns)) if turns[i].speaker == turn.speaker), None)
    if after is None:
        raise TimingError("turn.none_to_join")
    turns[at] = replace(turn, end_us=max(turn.end_us, turns[after].end_us), by_hand=True)
    del turns[after]
    return with_turns(reading, turns)


def give_turn(reading: Reading, number: int, speaker: str) -> Reading:
    """Give a turn to another speaker."""
    turns, at = _pick(reading, number)
    turns[at] = replace(turns[at], speaker=speaker, by_hand=True)
    return with_turns(reading, turns)


def remove_turn(reading: Reading, number: int) -> Reading:
    """Remove a turn: nobody speaks there.

    Raises
    ------
    TimingError
        For the last turn: none at all would mean what the lines say.
    """
    turns, at = _pick(reading, number)
    if len(turns) == 1:
        # An empty list of turns would mean those of the lines.
        raise TimingError("turn.last")
    del turns[at]
    return with_turns(reading, turns)


def put_turn(reading: Reading, speaker: str, start_us: int, end_us: int) -> Reading:
    """Add a turn over whatever is there: both mouths move.

    Raises
    ------
    TimingError
        For one that is too short.
    """
    start_us, end_us = max(0, start_us), min(reading.duration_us, end_us)
    if end_us - start_us < SHORTEST_US:
        raise TimingError("turn.one_frame")
    return with_turns(reading, [*turns_of(reading), Turn(speaker, start_us, end_us, by_hand=True)])


def tap_turns(reading: Reading, taps: list[Turn], speed: float) -> Reading:
    """Replace all turns between the first and the last tap by turns tapped during playback at a speed.

    The reaction time is subtracted, and ends snap to the edge of a word nearby.
    """
    if not taps:
        return reading
    late = round(REACTION_US * speed)
    edges = sorted({edge for word in reading.words() for edge in (word.start_us, word.end_us)})
    new: list[Turn] = []
    for tap in taps:
        start = _snap(max(0, tap.start_us - late), edges)
        end = _snap(min(max(0, tap.end_us - late), reading.duration_us), edges)
        if end - start >= SHORTEST_US:
            new.append(Turn(tap.speaker, start, end, by_hand=True))
    if not new:
        return reading
    first, last = min(t.start_us for t in new), max(t.end_us for t in new)
    kept: list[Turn] = []
    for turn in turns_of(reading):
        for start, end in ((turn.start_us, min(turn.end_us, first)), (max(turn.start_us, last), turn.end_us)):
            if end - start >= SHORTEST_US:
                kept.append(replace(turn, start_us=start, end_us=end))
    return with_turns(reading, [*kept, *new])


def _snap(at_us: int, edges: list[int]) -> int:
    nearest = min(edges, key=lambda edge: abs(edge - at_us), default=at_us)
    return nearest if abs(nearest - at_us) <= SNAP_US else at_us


def renew_turns(old: Reading, new: Reading) -> Reading:
    """A new reading with the turns set by hand before; elsewhere, turns come from the new lines."""
    by_hand = [t for t in old.turns if t.by_hand and t.start_us < new.duration_us]
    if not by_hand:
        return replace(new, turns=())
    kept = [replace(t, end_us=min(t.end_us, new.duration_us)) for t in by_hand]
    free: list[Turn] = []
    for turn in turns_from_lines(new.lines):
        pieces = [(turn.start_us, turn.end_us)]
        for hand in kept:
            pieces = [
                piece
                for start, end in pieces
                for piece in ((start, min(end, hand.start_us)), (max(start, hand.end_us), end))
                if piece[1] - piece[0] >= SHORTEST_US
            ]
        free += [replace(turn, start_us=start, end_us=end) for start, end in pieces]
    return with_turns(new, [*free, *kept])
