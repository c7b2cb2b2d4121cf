import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.soundtracks import READ_1, TAKES, S, one_clip, read
from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext, TakeInfo
from tinfork.core.commands.sound import Gap
from tinfork.core.commands.table import COMMANDS, parse_command
from tinfork.core.errors import FormatError, TimingError, TinForkError
from tinfork.core.soundtrack.model import Soundtrack
from tinfork.core.soundtrack.numbering import numbered
from tinfork.core.soundtrack.project import placed_turns, reading_of

RATE = FrameRate.parse("24")
INFOS = {number: TakeInfo(length, READ_1 if number == 1 else None, S) for number, length in TAKES.items()}


def do(soundtrack, command, **values):
    return parse_command(command, values).apply(soundtrack, EditContext(RATE, INFOS, frozenset({"1", "2"})))


def spans(soundtrack):
    return [(p.turn.speaker, p.turn.start_us, p.turn.end_us) for p in placed_turns(soundtrack)]


def test_clips_are_placed_to_the_frame():
    soundtrack = do(do(Soundtrack(), "place", take=1, frame=54), "place", take=2, frame=7, kind="effects")
    assert [(c.take, c.start_us) for c in soundtrack.clips] == [(2, RATE.first_us(7)), (1, RATE.first_us(54))]
    assert [t.kind for t in soundtrack.tracks] == ["voice", "effects"]
    assert next(w.text for w in reading_of(soundtrack).words()) == "sit"


def test_a_part_of_a_take_is_placed_with_the_words_in_it():
    soundtrack = do(Soundtrack(), "place", take=1, frame=0, in_us=4 * S, out_us=8 * S)
    assert [w.text for w in reading_of(soundtrack).words()] == ["good", "night"]
    assert soundtrack.duration_us == 4 * S


def test_room_for_action_is_as_many_frames_as_asked_for_at_any_rate():
    for rate in ("24", "23.976", "29.97"):
        clock = FrameRate.parse(rate)
        wider = Gap(101, 13).apply(one_clip(), EditContext(clock, INFOS, frozenset()))
        assert wider.clips[1].start_us == clock.first_us(114)


def test_speech_begins_on_a_frame_also_before_it_is_read():
    unread = do(Soundtrack(), "place", take=2, frame=0)
    assert do(unread, "begin", frame=55).clip(1).start_us == RATE.first_us(55) - S


def numbers(soundtrack):
    return [p.turn.id for p in placed_turns(soundtrack)]


def test_turns_are_edited_in_the_shots_time():
    soundtrack = one_clip(start=2 * S)
    clip = {"clip": 1, "turn": numbers(soundtrack)[0]}
    assert spans(do(soundtrack, "turn_trim", **clip, start_us=3 * S, end_us=4 * S))[0] == ("1", 3 * S, 4 * S)
    split = do(soundtrack, "turn_split", **clip, at_us=4 * S)
    assert [s[1:] for s in spans(split)][:2] == [(3 * S, 4 * S), (4 * S, 4_999_998)]
    split = numbered(soundtrack, split, 100)[0]
    given_ = do(split, "turn_give", clip=1, turn=numbers(split)[1], speaker="2")
    assert [line.speaker for line in reading_of(given_).lines][:2] == ["1", "2"]
    assert len(spans(do(split, "turn_merge", **clip))) == len(spans(soundtrack))
    assert len(spans(do(split, "turn_remove", **clip))) == 2


def test_overlapping_turns_move_both_mouths():
    both = do(one_clip(), "turn_put", speaker="2", start_us=S, end_us=3 * S)
    lines = reading_of(both).lines
    assert (lines[0].speaker, lines[0].co_speakers) == ("1", ("2",))
    assert len(list(reading_of(both).phonemes("2"))) == 6
    assert len(list(reading_of(both).phonemes("1"))) == 10


def test_tapped_turns_are_moved_back_by_the_reaction_and_put_on_words():
    late = 160_000
    taps = [
        {"speaker": "2", "start_us": S + late + 90_000, "end_us": 3 * S + late - 120_000},
        {"speaker": "1", "start_us": 5 * S + late, "end_us": 7 * S + late},
    ]
    soundtrack = do(one_clip(), "tap", taps=taps, speed=1)
    assert spans(soundtrack) == [("2", S, 2_999_998), ("1", 5 * S, 7 * S)]


def test_a_turn_goes_to_the_voice_that_has_the_speakers_words():
    soundtrack = do(one_clip(), "place", take=2, frame=0, track=None)
    soundtrack = do(soundtrack, "turn_put", speaker="1", start_us=8 * S, end_us=9 * S)
    assert len(soundtrack.voice(1).reading.turns) == 3
    assert not soundtrack.voice(2).reading.turns


@pytest.mark.parametrize(
    ("name", "values", "message"),
    [
        ("paint", {}, "no such edit"),
        ("move", {"clip": 9, "frame": 1}, "removed|deleted"),
        ("move", {"clip": 1, "frame": -1}, "whole number"),
        ("move", {"clip": 1, "frame": 1.5}, "whole number"),
        ("move", {"clip": 1, "frame": True}, "whole number"),
        ("move", {"clip": 1, "frame": 1, "what": "all"}, "one of"),
        ("place", {"take": 77, "frame": 0}, "removed|deleted"),
        ("place", {"take": 1, "frame": 0, "in_us": 5, "out_us": 5}, "must have a length"),
        ("split", {"clip": 1, "frame": 0}, "To split a clip"),
        (
            "fade",
            {"clip": 1, "fade_in_us": 6 * S, "fade_out_us": 6 * S},
            "The two fades together cannot be longer than",
        ),
        ("gain", {"clip": 1, "db": 90}, "from -24 to 24"),
        ("gain", {"clip": 1, "db": float("nan")}, "from -24 to 24"),
        ("gap", {"frame": 0, "frames": 0}, "from 1"),
        ("add_track", {"name": "", "kind": "voice"}, "must be a text"),
        ("remove_track", {"track": 1}, "clips on this track"),
        ("turn_give", {"clip": 1, "turn": 0, "speaker": "9"}, "not in this shot"),
        ("turn_trim", {"clip": 1, "turn": 7, "start_us": 0, "end_us": S}, "That turn was removed meanwhile"),
        ("turn_put", {"speaker": "1", "start_us": 50 * S, "end_us": 51 * S}, "no voice there"),
        ("tap", {"speed": 1, "taps": []}, "must be a list"),
        ("tap", {"speed": 1, "taps": ["x"]}, "must be a list"),
        ("tap", {"speed": 1, "taps": [{"speaker": "1", "start_us": 5, "end_us": 5}]}, "end after"),
    ],
)
def test_what_cannot_be_is_refused_in_words(name, values, message):
    with pytest.raises((TimingError, FormatError), match=message):
        do(one_clip(), name, **values)


JUNK = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner, max_size=3),
    max_leaves=6,
)
NAMES = ["clip", "frame", "take", "track", "turn", "speaker", "start_us", "end_us", "at_us", "taps", "db", "frames"]


@given(st.sampled_from(sorted(COMMANDS)), st.dictionaries(st.sampled_from(NAMES), JUNK, max_size=6))
def test_nothing_that_is_sent_breaks_an_edit(name, values):
    try:
        after = do(one_clip(), name, **values)
    except TinForkError as error:
        assert str(error)
    else:
        assert after.duration_us >= 0


def test_a_turn_without_words_still_waits_for_them():
    soundtrack = do(Soundtrack(), "place", take=2, frame=0)
    soundtrack = do(soundtrack, "turn_put", speaker="2", start_us=0, end_us=2 * S)
    assert spans(soundtrack) == [("2", 0, 2 * S)]
    assert not list(read(2, ("a", 0, S)).turns)
