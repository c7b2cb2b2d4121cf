"""Mouth columns edited as sheets are: ranges moved, split, stretched, copied, tapped; and edits that meet or do not."""

import json
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.soundtracks import READ_1, TAKES, S, one_clip
from tests.golden.make_columns import FILE, made
from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext, TakeInfo
from tinfork.core.commands.table import COMMANDS, parse_command
from tinfork.core.errors import FormatError, TimingError, TinForkError
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict, soundtrack_to_dict, to_patch
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.numbers import differing
from tinfork.core.solver.problem import FramePin, Hold
from tinfork.core.solver.solve import drawing_on, solve_incrementally
from tinfork.core.soundtrack.columns import frames_of
from tinfork.core.soundtrack.merging import meeting, touched
from tinfork.core.soundtrack.pinning import mouth_pins
from tinfork.core.soundtrack.project import reading_of

RATE = FrameRate.parse("24")
INFOS = {number: TakeInfo(length, READ_1, S) for number, length in TAKES.items()}
CHARTS = {"1": {"": STARTER}, "2": {"": STARTER}}


def holds(soundtrack, who="1"):
    pins = [
        FramePin(*frames_of(p, RATE), p.mouth.drawing, p.mouth.set, p.mouth.is_exact)
        for p in mouth_pins(soundtrack, who)
    ]
    return solve_incrementally(reading_of(soundtrack), STARTER, RATE, speaker=who, pins=pins).holds


def context_for(soundtrack):
    return EditContext(
        RATE,
        INFOS,
        frozenset({"1", "2"}),
        holds=lambda speaker: holds(soundtrack, speaker),
        charts=CHARTS.__getitem__,
        sounds=lambda text, language: ("m", "ɑ"),
    )


def do(soundtrack, command, who="1", **values):
    named = {"speaker": who} if "speaker" in COMMANDS[command].__struct_fields__ else {}
    edit = parse_command(command, named | values)
    return edit.apply(soundtrack, context_for(soundtrack))


def shown(soundtrack, first, end, who="1"):
    column = holds(soundtrack, who)
    return [drawing_on(column, f).drawing for f in range(first, end)]


def pins(soundtrack, who="1"):
    return [frames_of(p, RATE) for p in mouth_pins(soundtrack, who)]


SHOT = one_clip()
FRAMES = RATE.frames_in(SHOT.duration_us)


def test_a_range_is_written_and_cleared_again():
    written = do(SHOT, "pin", first=30, last=41, drawing=9)
    assert shown(written, 30, 42) == [9] * 12
    half = do(written, "clear", first=34, last=37)
    assert pins(half) == [(30, 34), (38, 42)]
    assert holds(do(written, "clear", first=0, last=FRAMES - 1)) == holds(SHOT)


def test_a_range_is_moved_and_what_it_leaves_is_solved_again():
    was = shown(SHOT, 30, 40)
    assert shown(do(SHOT, "nudge", first=30, last=39, by=5), 35, 45) == was
    assert shown(do(SHOT, "nudge", first=30, last=39, by=-5), 25, 35) == was
    # What reaches over the edge of the shot is cut off; nothing of it left is refused.
    assert shown(do(SHOT, "nudge", first=3, last=9, by=-5), 0, 5) == shown(SHOT, 5, 10)
    assert shown(do(SHOT, "nudge", first=30, last=FRAMES - 1, by=7), 37, FRAMES) == shown(SHOT, 30, FRAMES - 7)
    with pytest.raises(TimingError, match="outside the shot"):
        do(SHOT, "nudge", first=3, last=9, by=-10)


def pinned(*spans):
    """The shot with drawing 9, 10 ... pinned on frames `[first, end)`."""
    soundtrack = SHOT
    for nth, (first, end) in enumerate(spans):
        soundtrack = do(soundtrack, "pin", first=first, last=end - 1, drawing=9 + nth)
    return soundtrack


def keys(soundtrack):
    return [p.key for p in mouth_pins(soundtrack, "1")]


def test_frames_put_in_and_taken_out_move_what_is_pinned_and_pin_nothing_else():
    soundtrack = pinned((10, 16), (30, 36), (40, 44), (90, 95))
    later = do(soundtrack, "insert_frames", at=20, frames=4)
    assert pins(later) == [(10, 16), (34, 40), (44, 48), (94, 99)]
    assert keys(later) == keys(soundtrack)
    assert shown(later, 34, 40) == [10] * 6
    # Put into a pin they make it longer, up to a frame they move no more than to there.
    assert pins(do(soundtrack, "insert_frames", at=32, frames=4)) == [(10, 16), (30, 40), (44, 48), (94, 99)]
    assert pins(do(soundtrack, "insert_frames", at=20, frames=4, until=44)) == [(10, 16), (34, 40), (44, 48), (90, 95)]
    earlier = do(soundtrack, "remove_frames", first=20, last=24)
    assert pins(earlier) == [(10, 16), (25, 31), (35, 39), (85, 90)]
    # Of a pin whose frames go, what is left stays; one without any is gone.
    assert pins(do(soundtrack, "remove_frames", first=34, last=43)) == [(10, 16), (30, 34), (80, 85)]
    assert pins(do(soundtrack, "remove_frames", first=12, last=13)) == [(10, 14), (28, 34), (38, 42), (88, 93)]
    # What is moved out of the shot is cut off there.
    end = pinned((FRAMES - 6, FRAMES - 1))
    assert pins(do(end, "insert_frames", at=0, frames=3)) == [(FRAMES - 3, FRAMES)]


@pytest.mark.parametrize("command", ["insert_frames", "remove_frames"])
def test_where_nothing_is_pinned_there_is_nothing_to_move(command):
    values = {"at": 30, "frames": 4} if command == "insert_frames" else {"first": 30, "last": 33}
    for soundtrack in (SHOT, pinned((10, 16))):
        with pytest.raises(TimingError, match="Nothing is pinned from here on"):
            do(soundtrack, command, **values)


@given(
    st.lists(st.tuples(st.integers(0, 80), st.integers(1, 12)), min_size=1, max_size=8),
    st.integers(0, 90),
    st.integers(1, 20),
)
def test_frames_put_in_and_taken_out_again_change_no_pin(spans, at, frames):
    """As far as nothing is pushed out of the shot, and no two pins become one."""
    soundtrack = pinned(*((first, first + length) for first, length in spans))
    before = pins(soundtrack)
    if all(end <= at for _, end in before) or before[-1][1] + frames > FRAMES:
        return
    wider = do(soundtrack, "insert_frames", at=at, frames=frames)
    assert [end - start for start, end in pins(wider)] == [
        end - start + (frames if start < at < end else 0) for start, end in before
    ]
    assert pins(do(wider, "remove_frames", first=at, last=at + frames - 1)) == before


def test_a_hold_is_stretched_split_and_given_to_the_one_before():
    hold = drawing_on(holds(SHOT), 36)
    longer = do(SHOT, "stretch", frame=36, to=hold.end + 6)
    assert shown(longer, hold.start, hold.end + 6) == [hold.drawing] * (hold.end + 6 - hold.start)
    earlier = do(SHOT, "stretch", frame=36, to=hold.start - 3, at_start=True)
    assert pins(earlier) == [(hold.start - 3, hold.end)]
    assert pins(do(longer, "stretch", frame=36, to=hold.end + 2)) == [(hold.start, hold.end + 2)]
    halves = do(longer, "split_hold", frame=hold.end)
    assert pins(halves) == [(hold.start, hold.end), (hold.end, hold.end + 6)]
    with pytest.raises(TimingError, match="past its first frame"):
        do(longer, "split_hold", frame=hold.start)
    given_ = do(SHOT, "give_to_before", first=hold.start, last=hold.end - 1)
    assert set(shown(given_, hold.start, hold.end)) == set(shown(SHOT, hold.start - 1, hold.start))
    with pytest.raises(TimingError, match="There is no hold before these frames to join"):
        do(SHOT, "give_to_before", first=0, last=3)


def test_copied_mouths_are_laid_down_elsewhere_and_in_anothers_drawings():
    copied = [{"frames": 3, "drawing": 9}, {"frames": 2, "drawing": -1}, {"frames": 4, "drawing": 2}]
    assert shown(do(SHOT, "paste", at=100, holds=copied), 100, 109) == [9] * 3 + [-1] * 2 + [2] * 4
    theirs = do(SHOT, "paste", "2", at=100, of="1", holds=copied)
    assert shown(theirs, 100, 109, "2") == [9] * 3 + [-1] * 2 + [2] * 4
    with pytest.raises(FormatError, match="no longer in this shot"):
        do(SHOT, "paste", at=1, of="7", holds=copied)
    with pytest.raises(FormatError, match="must be a list"):
        do(SHOT, "paste", at=1, holds=[])


def test_what_the_other_chart_has_nothing_for_is_left_to_the_solver():
    from tinfork.core.mouths.chart import Chart, Drawing
    from tinfork.core.soundtrack.columns import UNMATCHED, Copied, matched

    of = {"": Chart((Drawing(1, "shut", ("bilabial",)), Drawing(5, "whistle")))}
    to = Chart((Drawing(30, "wide", ("open",)), Drawing(31, "lips", ("bilabial",))))
    found = matched([Copied(2, 1), Copied(3, 5), Copied(1, -1)], of, to)
    assert [c.drawing for c in found] == [31, UNMATCHED, -1]


def test_tapped_mouths_come_earlier_by_the_reaction_at_the_speed_it_played():
    taps = [{"start_us": 2_000_000, "end_us": 2_500_000, "drawing": 9}]
    assert pins(do(SHOT, "tap_mouths", taps=taps, speed=1)) == [(44, 56)]
    assert pins(do(SHOT, "tap_mouths", taps=taps, speed=0.25)) == [(47, 59)]


def test_a_note_is_written_changed_and_taken_away():
    noted = do(do(SHOT, "note", frame=12, text=" looks\n up "), "note", frame=4, text="blink")
    assert [(RATE.frame_at(n.at_us), n.text) for n in noted.notes] == [(4, "blink"), (12, "looks up")]
    assert soundtrack_from_dict(soundtrack_to_dict(noted)) == noted
    assert [n.text for n in do(noted, "note", frame=4, text="").notes] == ["looks up"]
    moved = do(noted, "gap", frame=10, frames=5)
    assert [RATE.frame_at(n.at_us) for n in moved.notes] == [4, 17]
    with pytest.raises(FormatError, match="up to 400"):
        do(SHOT, "note", frame=1, text="x" * 401)


@given(
    st.lists(
        st.tuples(
            st.sampled_from(["nudge", "clear", "give_to_before", "pin"]),
            st.integers(8, 190),
            st.integers(0, 20),
            st.integers(-8, 8),
        ),
        max_size=6,
    )
)
def test_whatever_is_done_the_column_covers_every_frame_once(steps):
    soundtrack = SHOT
    for command, first, length, by in steps:
        more = {"nudge": {"by": by}, "pin": {"drawing": 4}}.get(command, {})
        soundtrack = do(soundtrack, command, first=first, last=first + length, **more)
    column = holds(soundtrack)
    assert [h.start for h in column] == [0, *(h.end for h in column[:-1])]
    assert column[-1].end == FRAMES
    spans = pins(soundtrack)
    assert all(a[1] <= b[0] for a, b in pairwise(spans))


def test_the_edits_that_the_page_draws_at_once_are_what_the_core_makes_of_them():
    """Made anew by `python -m tests.golden.make_columns`, which asks the core."""
    assert json.loads(FILE.read_text()) == made()


def touch(before, after):
    return touched(*to_patch(before, after))


def test_edits_of_different_frames_people_and_words_are_apart():
    one = touch(SHOT, do(SHOT, "pin", first=10, last=20, drawing=9))
    assert not meeting(one, touch(SHOT, do(SHOT, "pin", first=21, last=25, drawing=9)))
    assert not meeting(one, touch(SHOT, do(SHOT, "pin", "2", first=10, last=20, drawing=9)))
    assert not meeting(one, touch(SHOT, do(SHOT, "note", frame=12, text="x")))
    assert meeting(one, touch(SHOT, do(SHOT, "clear", first=0, last=3))) is None
    met = meeting(touch(SHOT, do(SHOT, "pin", first=20, last=21, drawing=3)), one)
    assert (met.what, met.who, RATE.frame_at(met.start_us)) == ("pins", "1", 10)
    words = list(reading_of(SHOT).words())
    first, last = ({"word": w.id, "text": "oh"} for w in (words[0], words[-1]))
    typed = touch(SHOT, do(SHOT, "retype", **first))
    assert not meeting(typed, touch(SHOT, do(SHOT, "retype", **last)))
    assert meeting(typed, touch(SHOT, do(SHOT, "retype", **first | {"text": "ah"})))
    assert meeting(one, touch(SHOT, do(SHOT, "gap", frame=100, frames=3)))


def test_two_columns_differ_where_their_mouths_do():
    one = (Hold(0, 4, 1, "rest"), Hold(4, 9, 2, "open"))
    other = (Hold(0, 3, 1, "rest"), Hold(3, 6, 2, "open"), Hold(6, 12, 3, "mid"))
    assert differing(one, other) == [(3, 4), (6, 12)]
    assert differing(one, one) == []


#: What may come instead of what is asked for: whatever JSON can say.
_JUNK = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**70), 2**70) | st.floats() | st.text(max_size=8) | st.just("1"),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)
_FIELDS = (
    "speaker", "first", "last", "frame", "frames", "at", "until", "to", "by", "at_start", "drawing", "set", "exact",
    "pin", "holds", "of", "taps", "speed", "text", "take", "in_us", "out_us", "track", "kind", "clip", "what",
    "start", "end", "fade_in_us", "fade_out_us", "db", "name", "muted", "turn", "word", "sound", "after",
    "start_us", "end_us", "edge", "gap",
    "sound", "at_us", "by_us", "ipa", "start_frame", "end_frame",
)  # fmt: skip


@pytest.mark.parametrize("command", sorted(COMMANDS))
@settings(max_examples=40)
@given(st.data())
def test_whatever_is_sent_with_an_edit_is_done_or_refused_in_words(command, data):
    """What is right, of which some is replaced by what nobody would send."""
    right = {
        "speaker": "1", "first": 10, "last": 20, "frame": 12, "at": 12, "to": 30, "by": 2, "drawing": 9, "clip": 1,
        "text": "now", "take": 1, "start_us": S, "end_us": S + 666_666, "at_us": 1_200_000, "by_us": 9, "ipa": "a",
        "frames": 5, "turn": 0, "db": 3, "speed": 1, "name": "x", "track": 1, "sound": 0,
    }  # fmt: skip
    wrong = data.draw(st.dictionaries(st.sampled_from(_FIELDS), _JUNK, max_size=4))
    values = {**right, **wrong}
    try:
        after = parse_command(command, values).apply(SHOT, context_for(SHOT))
    except TinForkError as error:
        assert str(error)
    else:
        assert soundtrack_from_dict(json.loads(json.dumps(soundtrack_to_dict(after)))) == after
