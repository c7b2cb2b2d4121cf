"""Acting proposed by rule: where it is, that it repeats, and that it leaves a person's keys alone."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import FormatError
from tinfork.core.motion.acting import KINDS, propose
from tinfork.core.motion.curve import FrameKey, pose_on
from tinfork.core.motion.gestures import Gesture, keys_of
from tinfork.core.motion.pose import NEUTRAL, Pose
from tinfork.core.motion.stage import Stage
from tinfork.core.soundtrack.keys import MotionColumn, column_keys, frame_keys
from tinfork.core.soundtrack.model import Clip, Soundtrack, Track
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word

S = 1_000_000
RATE = FrameRate.parse("24")
ALL = dict.fromkeys(KINDS, 100)


def word(text, start_s, end_s):
    """A word of one syllable, its vowel stressed."""
    start, end = round(start_s * S), round(end_s * S)
    middle = (start + end) // 2
    sounds = (Phoneme("t", start, middle), Phoneme("ˈæ", middle, end))
    return Word(text, start, end, sounds)


def line(who, text, *words):
    return Line(who, text, "en-us", tuple(words))


def said(*lines, seconds=20):
    return Reading(seconds * S, tuple(lines))


TALK = said(
    line("1", "Bread now", word("Bread", 2, 2.4), word("now", 2.4, 3)),
    line("2", "For whom?", word("For", 5, 5.3), word("whom", 5.3, 6.5)),
    line("1", "Us", word("Us", 8, 9)),
)


def stage(who="1", reading=TALK, rate=RATE, loud=(), **more):
    """A stage on which everything is as loud, but for words at these seconds."""
    frames = rate.frames_in(reading.duration_us)
    levels = np.full(reading.duration_us // 10_000, -30.0)
    for start, end in loud:
        levels[round(start * 100) : round(end * 100)] = -12.0
    return Stage(who, reading, rate, frames, levels, **more)


def of(gestures, what):
    return [g for g in gestures if what in g.why]


@given(st.integers(0, 300))
def test_pupils_go_to_who_speaks_and_back_to_who_is_next_and_away_before_an_answer(seed):
    looks = propose(stage(pupils=("-9",), others={"2": 1.0}), only("gaze"), 100, seed)
    assert {g.part for g in looks} <= {"-9"}
    at = {g.why: g for g in looks}
    # The other speaks from 5 s to 6.5 s; one's own turns end at 3 s and are begun at 2 s and 8 s.
    speaks = at["looks at who speaks"]
    assert 5 * 24 < speaks.start < 5.5 * 24
    assert 6.4 * 24 <= speaks.end <= 6.6 * 24 + 3
    assert all(look["x"] > 1.5 for _, look in speaks.steps[1:3])
    following = at["looks at who is next"]
    assert 2.4 * 24 - 1 <= following.start < 3 * 24 < following.end < 4 * 24
    assert following.steps[1][1]["x"] > 1.5
    for why, look in at.items():
        if why.startswith("looks away"):
            assert why == "looks away before “Us”"
            assert 6.5 * 24 < look.start < 8 * 24 < look.end < 8.5 * 24
            assert abs(look.steps[1][1]["x"]) > 1
    spans = sorted((g.start, g.end) for g in looks)
    assert all(a[1] < b[0] for a, b in pairwise(spans))


@given(st.integers(0, 100))
def test_who_is_interrupted_looks_at_one_thing_at_a_time(seed):
    talk = said(
        line("1", "Bread now", word("Bread", 2, 2.6), word("now", 2.6, 4)),
        line("2", "For whom?", word("For", 2.9, 3.6), word("whom", 3.6, 5)),
        line("1", "Us", word("Us", 4.6, 5.5)),
    )
    looks = propose(stage(reading=talk, pupils=("-9",), others={"2": 1.0}), only("gaze"), 100, seed)
    spans = sorted((g.start, g.end) for g in looks)
    assert spans
    assert all(a[1] <= b[0] for a, b in pairwise(spans))


def test_without_pupils_nothing_looks_and_nobody_looks_at_no_one():
    assert propose(stage(others={"2": 1.0}), only("gaze"), 100, 1) == []
    alone = [g.why for seed in range(30) for g in propose(stage(pupils=("-9",)), only("gaze"), 100, seed)]
    assert set(alone) == {"looks away before “Us”"}


def test_pupils_are_shut_with_their_eyes():
    blinks = propose(stage(eyes=("-5",), pupils=("-9",)), only("blinks"), 100, 4)
    steps = {part: [g.steps for g in blinks if g.part == part] for part in ("-5", "-9")}
    assert steps["-5"] == steps["-9"] != []


def only(kind, amount=100):
    return {kind: amount}


# the rules ------------------------------------------------------------------------------------------------------------


@given(st.integers(0, 500), st.integers(20, 100))
def test_two_blinks_are_never_near_each_other_and_are_shut_between_their_ends(seed, amount):
    eyes = propose(stage(eyes=("-5", "-6")), only("blinks", amount), 100, seed)
    for part in ("-5", "-6"):
        starts = [g.start for g in eyes if g.part == part]
        assert all(b - a >= 12 for a, b in pairwise(sorted(starts)))
    assert {g.start for g in eyes if g.part == "-5"} == {g.start for g in eyes if g.part == "-6"}
    for g in eyes:
        assert 4 <= g.end - g.start <= 9
        shut = Pose(**g.steps[1][1])
        assert 2 ** ((shut.size + shut.stretch) / 100) < 0.2
        assert g.steps[0][1] == g.steps[-1][1] == {}


def test_people_blink_about_as_often_as_was_counted():
    """Some 26 times a minute while they talk, 17 at rest (70 is as counted), at intervals that are not even."""
    long = said(*(line("1", "a", word("a", n * 10, n * 10 + 9.5)) for n in range(60)), seconds=600)
    talks, listens = (propose(stage(who, long, eyes=("-5",)), only("blinks", 70), 100, 3) for who in ("1", "2"))
    assert 22 * 10 <= len(talks) <= 32 * 10
    assert 13 * 10 <= len(listens) <= 19 * 10
    gaps = np.log([b.start - a.start for a, b in pairwise(listens)])
    assert 0.25 < gaps.std() < 0.7


def test_blinks_come_where_phrases_end_and_not_without_eyes():
    found = of(propose(stage(eyes=("-5",)), ALL, 100, 1), "phrase ends")
    assert [round(g.start / 24) for g in found] == [3, 9]
    assert not of(propose(stage(), ALL, 100, 1), "blink")


def test_the_loud_word_has_the_accent_after_a_movement_the_other_way():
    loud = stage(loud=[(2.4, 3)])
    first = of(propose(loud, only("accents", 40), 100, 1), "accent")
    assert [g.why for g in first] == ["accent on “now”"]
    vowel = math.floor(2.7 * 24)
    steps = first[0].steps
    up, down = steps[1], steps[2]
    assert up[1]["y"] < 0 < down[1]["y"]
    assert 2 <= vowel - up[0] <= 4
    assert steps[0][0] < up[0] < down[0] < steps[3][0] < steps[4][0]


def test_a_question_raises_the_brows_at_its_last_word():
    found = propose(stage("2", brows=("-7",)), only("brows", 10), 100, 1)
    assert [(g.part, g.why) for g in found] == [("-7", "brows: a question")]
    assert found[0].start <= 5.3 * 24 <= found[0].end
    assert min(pose.get("y", 0) for _, pose in found[0].steps) == -6
    assert not of(propose(stage("1", brows=("-7",)), only("brows", 10), 100, 1), "question")


def test_one_breathes_before_a_phrase_after_silence_and_is_done_by_it():
    found = propose(stage(), only("breath"), 100, 1)
    assert [g.why for g in found] == ["breath before “Bread”", "breath before “Us”"]
    for g, start_s in zip(found, (2, 8), strict=True):
        peak = max(g.steps, key=lambda step: step[1].get("stretch", 0))
        assert g.start < peak[0] < start_s * 24 < g.end


def test_a_wide_mouth_is_prepared_a_frame_before_it():
    found = propose(stage(), only("openings"), 100, 1)
    frames = [RATE.frame_at(p.start_us) for p in TALK.phonemes("1") if p.viseme == "open"]
    for g in found:
        (before, small), (after, large) = g.steps[1:3]
        assert before + 1 in frames and after - 1 in frames
        assert small["stretch"] < 0 < large["stretch"]


def test_who_listens_turns_to_who_speaks_and_nods_when_they_are_done():
    found = propose(stage("1", others={"2": 1.0}), only("listening"), 100, 1)
    (turn,) = of(found, "turns")
    assert 5 * 24 < turn.start < 6 * 24
    assert max(pose.get("turn", 0) for _, pose in turn.steps) > 0
    tries = [propose(stage("1", others={"2": 1.0}), only("listening"), 100, seed) for seed in range(6)]
    nods = [g for one in tries for g in of(one, "nods")]
    assert nods and all(6.5 * 24 <= g.start <= 7 * 24 for g in nods)
    left = of(propose(stage("1", others={"2": -1.0}), only("listening"), 100, 1), "turns")
    assert min(pose.get("turn", 0) for _, pose in left[0].steps) < 0


@given(st.integers(0, 50), st.integers(10, 100))
def test_who_sways_goes_from_side_to_side_and_comes_to_rest(seed, amount):
    (sway,) = propose(stage(), only("sway", amount), 100, seed)
    turns = [pose["turn"] for _, pose in sway.steps[1:-1]]
    assert turns[::2] == turns[1::2] and len(turns) > 4
    assert all(a * b < 0 for a, b in pairwise(turns[::2]))
    assert sway.end - sway.start > 10 * 24


# all together ---------------------------------------------------------------------------------------------------------

AMOUNTS = st.dictionaries(st.sampled_from(list(KINDS)), st.integers(0, 100))


@given(AMOUNTS, st.integers(0, 99), st.integers(0, 200), st.sampled_from(["23.976", "24", "25", "60"]))
def test_the_same_dice_give_the_same_and_all_of_it_lies_in_the_shot(amounts, seed, strength, rate):
    where = stage("1", rate=FrameRate.parse(rate), eyes=("-5",), brows=("-6",), others={"2": 1.0})
    found = propose(where, amounts, strength, seed)
    assert found == propose(where, amounts, strength, seed)
    for g in found:
        frames = [frame for frame, _ in g.steps]
        assert frames == sorted(set(frames))
        assert frames[0] >= 0 and frames[-1] < where.frames
        assert not any(g.steps[0][1].values()) and not any(g.steps[-1][1].values())


@given(st.integers(0, 99))
def test_turning_one_dial_changes_nothing_of_the_others(seed):
    where = stage("1", eyes=("-5",), brows=("-6",))
    whole = propose(where, ALL, 100, seed)
    fewer = propose(where, ALL | {"accents": 30}, 100, seed)
    assert [g for g in whole if "accent on" not in g.why] == [g for g in fewer if "accent on" not in g.why]
    assert len(of(fewer, "accent on")) <= len(of(whole, "accent on"))


def test_strength_makes_movements_larger_but_a_shut_eye_no_more_shut():
    where = stage("1", eyes=("-5",))
    usual, strong = (propose(where, ALL, strength, 4) for strength in (100, 200))
    pairs = list(zip(usual, strong, strict=True))
    assert all(a.steps == b.steps for a, b in pairs if a.why.startswith("blink"))
    accents = [(a, b) for a, b in pairs if a.why.startswith("accent")]
    assert accents
    for a, b in accents:
        assert [2 * value for value in a.steps[2][1].values()] == list(b.steps[2][1].values())
    assert all(not any(pose.values()) for g in propose(where, only("accents"), 0, 4) for _, pose in g.steps)


@st.composite
def hands(draw):
    frames = draw(st.lists(st.integers(0, 470), max_size=6, unique=True).map(sorted))
    ways = st.sampled_from(["hold", "linear", "ease", "smooth"])
    return [FrameKey(f, Pose(turn=draw(st.sampled_from([0.0, 0.0, 9.0]))), draw(ways)) for f in frames]


@given(hands(), st.integers(0, 30))
def test_what_a_person_set_moves_as_it_did(by_hand, seed):
    """Between and at their keys nothing is other than before, wherever no proposal is laid."""
    gestures = [g for g in propose(stage("1", others={"2": 1.0}), ALL, 100, seed) if g.part == "head"]
    new = [key for key, _ in keys_of(gestures, by_hand)]
    assert all(key.is_proposed for key in new)
    whole = sorted([*by_hand, *new], key=lambda key: key.frame)
    assert len({key.frame for key in whole}) == len(whole)
    covered = {f for g in gestures for f in range(g.start, g.end + 1)}
    for frame in range(480):
        if frame not in covered:
            assert pose_on(whole, frame).values == pytest.approx(pose_on(by_hand, frame).values, abs=0.011)
    for key in by_hand:
        assert pose_on(whole, key.frame) == key.pose


def test_gestures_that_meet_are_added():
    one = Gesture("head", "one", ((0, {}), (10, {"y": 4.0}), (20, {})))
    two = Gesture("head", "two", ((10, {}), (15, {"y": 2.0, "turn": 1.0}), (30, {})))
    keys = {key.frame: key.pose for key, _ in keys_of([one, two], [])}
    assert sorted(keys) == [0, 10, 15, 20, 30]
    assert keys[10] == Pose(y=4) and keys[15] == Pose(y=2 + 2, turn=1)
    assert keys[0] == keys[30] == NEUTRAL


# as an edit -----------------------------------------------------------------------------------------------------------

CLIP = Clip(1, 1, 1, 20 * S, 0, 0, 20 * S)
SHOT = Soundtrack((Track(1, "Voice", "effects"),), (CLIP,))
CONTEXT = EditContext(
    RATE, {}, frozenset({"1", "2", "-5"}), stage=lambda who: stage(who, eyes=("-5",), others={"2": 1.0, "1": -1.0})
)


def do(soundtrack, name, **values):
    return parse_command(name, {"speaker": "1", **values}).apply(soundtrack, CONTEXT)


def test_acting_is_one_edit_that_another_try_takes_the_place_of():
    acted = do(SHOT, "act", kinds=ALL, seed=1)
    assert {k.part for k in acted.keys} == {"head", "face", "-5"}
    assert all(k.made_by for k in acted.keys)
    assert do(acted, "act", kinds=ALL, seed=1) == acted
    other = do(acted, "act", kinds=ALL, seed=2)
    assert other.keys != acted.keys
    both = do(acted, "act", speaker="2", kinds=ALL)
    assert [k for k in both.keys if k.character == "1"] == list(acted.keys)
    assert not do(acted, "act", kinds={}).keys


def test_locked_parts_stay_as_they_are():
    acted = do(SHOT, "act", kinds=ALL, seed=1)
    other = do(acted, "act", kinds=ALL, seed=2, locked=["head", "-5"])
    for part in ("head", "-5"):
        assert column_keys(other, MotionColumn("1", part)) == column_keys(acted, MotionColumn("1", part))
    assert column_keys(other, MotionColumn("1", "face")) != column_keys(acted, MotionColumn("1", "face"))


def test_a_key_that_is_changed_is_a_persons_and_stays():
    acted = do(SHOT, "act", kinds=ALL, seed=1)
    column = MotionColumn("1", "head")
    frame = frame_keys(column_keys(acted, column), RATE)[1].frame
    mine = do(acted, "key_set", part="head", frame=frame, turn=30)
    assert [k.pose.turn for k in column_keys(mine, column) if not k.made_by] == [30]
    again = do(mine, "act", kinds=ALL, seed=5)
    kept = [k for k in column_keys(again, column) if not k.made_by]
    assert [(k.at_us, k.pose) for k in kept] == [(RATE.first_us(frame), Pose(turn=30))]
    assert list(do(mine, "act", kinds={}).keys) == kept


def test_kinds_that_there_are_none_of_are_refused():
    with pytest.raises(FormatError, match="no acting rule called “juggling”"):
        do(SHOT, "act", kinds={"juggling": 5})
    with pytest.raises(FormatError, match="“kinds” must be"):
        do(SHOT, "act", kinds={"blinks": 101})
