"""Keys of motion: what is between them, what edits do to them, and that they last."""

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.soundtracks import one_clip
from tests.golden.make_poses import FILE
from tinfork.core.clock import STANDARD_RATES, FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.formats.soundtrack_json import apply_patch, soundtrack_from_dict, soundtrack_to_dict, to_patch
from tinfork.core.motion.curve import WAYS, FrameKey, moving_frames, pose_on, retimed
from tinfork.core.motion.pose import FIELDS, LIMITS, NEUTRAL, Pose, pose_matrix
from tinfork.core.soundtrack.edits import insert_gap, move
from tinfork.core.soundtrack.keys import MotionColumn, column_keys, frame_keys, key_frame
from tinfork.core.soundtrack.merging import meeting, touched
from tinfork.core.soundtrack.renaming import renamed

GOLDEN = json.loads(FILE.read_text(encoding="utf-8"))
RATE = FrameRate.parse("24")
HEAD = MotionColumn("1", "head")
SHOT = one_clip()
FRAMES = RATE.frames_in(SHOT.duration_us)


def test_what_is_between_keys_is_what_other_formulas_of_the_same_curves_give():
    for case in GOLDEN["curves"]:
        keys = [FrameKey(frame, Pose(*pose), *how) for frame, pose, *how in case["keys"]]
        for frame, pose in enumerate(case["poses"]):
            assert pose_on(keys, frame).values == pytest.approx(pose, abs=1e-6), (case["keys"], frame)


def test_what_is_between_bends_is_what_other_formulas_of_the_same_curves_give():
    for case in GOLDEN["bent"]:
        keys = [FrameKey(frame, Pose.of(pose), *how) for frame, pose, *how in case["keys"]]
        for frame, pose in enumerate(case["poses"]):
            found = pose_on(keys, frame).numbers
            assert found + [0.0] * (24 - len(found)) == pytest.approx(pose, abs=1e-6), (case["keys"], frame)


def test_a_pose_is_the_map_that_its_matrices_multiplied_are():
    for case in GOLDEN["matrices"]:
        found = pose_matrix(Pose(*case["pose"]), tuple(case["pivot"]), case["height"])
        values = (found.a, found.b, found.c, found.d, found.e, found.f)
        assert values == pytest.approx(case["matrix"], rel=1e-6, abs=1e-6)


POSES = st.builds(Pose, *(st.floats(low / 4, high / 4) for low, high in LIMITS.values()))


@st.composite
def columns(draw):
    frames = draw(st.lists(st.integers(0, 60), min_size=1, max_size=8, unique=True).map(sorted))
    return [
        FrameKey(frame, draw(POSES), draw(st.sampled_from(WAYS)), draw(st.sampled_from([1, 1, 2, 3])))
        for frame in frames
    ]


@given(columns())
def test_a_curve_passes_through_its_keys_and_stays_inside_its_limits(keys):
    assert [pose_on(keys, key.frame) for key in keys] == [key.pose for key in keys]
    for frame in range(70):
        for name, value in zip(FIELDS, pose_on(keys, frame).values, strict=True):
            assert LIMITS[name][0] <= value <= LIMITS[name][1]
    assert pose_on([], 5) == NEUTRAL


@given(columns())
def test_only_the_frames_that_are_named_show_another_pose(keys):
    moving = set(moving_frames(keys, 70))
    for frame in range(1, 70):
        assert (pose_on(keys, frame) != pose_on(keys, frame - 1)) == (frame in moving)


@given(columns(), st.lists(st.integers(0, 69), min_size=1, max_size=80).map(sorted))
def test_a_shot_at_another_rate_shows_on_each_frame_what_was_seen_then(keys, times):
    again = retimed(keys, times)
    assert [pose_on(again, n) for n in range(len(times))] == [pose_on(keys, was) for was in times]


@given(POSES)
def test_volume_is_kept_whatever_stretches_leans_and_turns(pose):
    one = pose_matrix(replace(pose, size=0.0), (30, 40), 100)
    assert one.a * one.d - one.b * one.c == pytest.approx(1)
    larger = pose_matrix(replace(pose, size=100.0), (30, 40), 100)
    assert larger.a * larger.d - larger.b * larger.c == pytest.approx(4)
    assert one.at(30, 40) == pytest.approx((30 + pose.x, 40 + pose.y))


def test_directions_are_as_they_are_said():
    up = (0, -10)
    assert pose_matrix(Pose(turn=90), (0, 0), 1).at(*up) == pytest.approx((10, 0))
    assert pose_matrix(Pose(lean=45), (0, 0), 1).at(*up) == pytest.approx((10, -10))
    assert pose_matrix(Pose(stretch=100), (0, 0), 1).at(10, 10) == pytest.approx((5, 20))
    assert pose_matrix(Pose(x=50, y=-25), (7, 7), 200).at(7, 7) == pytest.approx((107, -43))


# edits ----------------------------------------------------------------------------------------------------------------


def do(soundtrack, name, **values):
    command = parse_command(name, {"speaker": "1", "part": "head", **values})
    return command.apply(soundtrack, EditContext(RATE, {}, frozenset({"1", "2", "-5"})))


def rows(soundtrack, column=HEAD):
    return [(key_frame(k, RATE), k.pose.turn, k.way, k.step) for k in column_keys(soundtrack, column)]


def keyed(*turns):
    """Keys of the head on frames, turned: (frame, turn)."""
    soundtrack = SHOT
    for frame, turn in turns:
        soundtrack = do(soundtrack, "key_set", frame=frame, turn=turn)
    return soundtrack


def test_a_key_goes_on_as_the_one_before_it_and_keeps_its_own_way():
    soundtrack = do(keyed((4, 10.0)), "key_set", frame=20, turn=-3, way="smooth", step=2)
    soundtrack = do(soundtrack, "key_set", frame=30, turn=1)
    assert rows(soundtrack) == [(4, 10, "ease", 1), (20, -3, "smooth", 2), (30, 1, "smooth", 2)]
    again = do(soundtrack, "key_set", frame=4, turn=5)
    assert rows(again)[0] == (4, 5, "ease", 1)
    assert rows(do(soundtrack, "key_set", part="-5", frame=4, turn=5), HEAD) == rows(soundtrack)


def test_keys_are_removed_moved_spread_and_go_on_otherwise():
    soundtrack = keyed((4, 1), (10, 2), (16, 3), (40, 4))
    assert [r[0] for r in rows(do(soundtrack, "key_remove", first=5, last=16))] == [4, 40]
    assert [r[:2] for r in rows(do(soundtrack, "key_move", first=4, last=10, by=6))] == [(10, 1), (16, 2), (40, 4)]
    assert [r[:2] for r in rows(do(soundtrack, "key_spread", first=4, last=16, to=28))] == [
        (4, 1),
        (16, 2),
        (28, 3),
        (40, 4),
    ]
    held = do(soundtrack, "key_way", first=0, last=12, way="hold", step=2)
    assert [r[2:] for r in rows(held)] == [("hold", 2), ("hold", 2), ("ease", 1), ("ease", 1)]


def test_copied_keys_take_the_place_of_what_was_there():
    soundtrack = keyed((4, 1), (10, 2), (16, 3), (40, 4))
    copied = [{"frame": 0, "turn": 9, "way": "linear"}, {"frame": 8, "turn": -9, "x": 2.5}]
    pasted = do(soundtrack, "key_paste", at=9, keys=copied)
    assert [r[:2] for r in rows(pasted)] == [(4, 1), (9, 9), (17, -9), (40, 4)]
    assert rows(do(soundtrack, "key_paste", part="face", at=9, keys=copied), MotionColumn("1", "face"))[1][0] == 17
    late = do(soundtrack, "key_paste", at=FRAMES - 4, keys=copied)
    assert [r[0] for r in rows(late)] == [4, 10, 16, 40, FRAMES - 4]


@pytest.mark.parametrize(
    ("name", "values", "says"),
    [
        ("key_set", {"frame": FRAMES, "turn": 1}, "This shot has"),
        ("key_set", {"frame": 1, "turn": 361}, "from -360 to 360"),
        ("key_set", {"frame": 1, "turn": float("nan")}, "from -360 to 360"),
        ("key_set", {"frame": 1, "part": "hat"}, "“part” must be"),
        ("key_set", {"frame": 1, "part": "-6"}, "That part is no longer on this face"),
        ("key_set", {"frame": 1, "speaker": "9"}, "not in this shot"),
        ("key_set", {"frame": 1, "way": "bounce"}, "one of: ease, hold, linear, smooth"),
        ("key_remove", {"first": 50, "last": 60}, "no key"),
        ("key_move", {"first": 4, "last": 4, "by": -5}, "This shot has"),
        ("key_move", {"first": 5, "last": 6, "by": 1}, "no key"),
        ("key_spread", {"first": 4, "last": 4, "to": 9}, "two frames"),
        ("key_way", {"first": 4, "last": 4, "way": "ease"}, "There is no key on these frames, or it already"),
        ("key_paste", {"at": FRAMES, "keys": [{"frame": 0}]}, "This shot has"),
    ],
)
def test_what_cannot_be_is_refused_in_words(name, values, says):
    with pytest.raises((TimingError, FormatError), match=says):
        do(keyed((4, 1)), name, **values)


def test_ten_thousand_keys_are_one_edit_and_more_than_a_shot_has_are_refused():
    keys = [{"frame": frame, "turn": frame % 7} for frame in range(FRAMES)]
    full = do(SHOT, "key_paste", at=0, keys=keys)
    assert len(full.keys) == FRAMES
    with pytest.raises(TimingError, match="20,000 keys"):
        replace(full, keys=full.keys * (20_001 // FRAMES + 1))


# lasting --------------------------------------------------------------------------------------------------------------


def test_keys_are_kept_in_the_document_and_edits_keep_what_they_changed_of_them():
    before = keyed((4, 1.25), (10, 2))
    after = do(do(before, "key_set", frame=7, turn=3), "key_remove", first=10, last=10)
    document = soundtrack_to_dict(after)
    assert soundtrack_from_dict(json.loads(json.dumps(document))) == after
    gone, come = to_patch(before, after)
    assert set(come) == {"keys"}
    assert [row[2] for row in gone["keys"]] == [RATE.first_us(10)]
    assert apply_patch(before, lambda: soundtrack_to_dict(before), gone, come) == after
    assert apply_patch(after, lambda: document, come, gone) == before


def test_a_document_of_before_there_were_keys_has_none():
    document = soundtrack_to_dict(SHOT)
    del document["keys"]
    assert soundtrack_from_dict(document) == SHOT


@pytest.mark.parametrize(
    "row", [["1", "head", 0, [0] * 5, "ease", 1, ""], ["1", "head", 0, [0] * 6, "bounce", 1, ""], [1]]
)
def test_damaged_keys_are_refused(row):
    with pytest.raises(FormatError):
        soundtrack_from_dict(soundtrack_to_dict(SHOT) | {"keys": [row]})


def test_a_note_about_a_pass_is_one_for_each_and_an_empty_one_takes_it_away():
    one = do(keyed((4, 1)), "pass_note", text="  calmer,\nplease ")
    assert [(n.character, n.part, n.text) for n in one.pass_notes] == [("1", "head", "calmer, please")]
    both = do(do(one, "pass_note", part="face", text="fine"), "pass_note", text="much calmer")
    assert [(n.part, n.text) for n in both.pass_notes] == [("face", "fine"), ("head", "much calmer")]
    assert [n.part for n in do(both, "pass_note", text="").pass_notes] == ["face"]
    assert both.keys == one.keys
    document = soundtrack_to_dict(both)
    assert soundtrack_from_dict(json.loads(json.dumps(document))) == both
    gone, come = to_patch(one, both)
    assert set(come) == {"pass_notes"}
    assert apply_patch(one, lambda: soundtrack_to_dict(one), gone, come) == both
    assert apply_patch(both, lambda: document, come, gone) == one
    assert meeting(touched(gone, come), touched(*to_patch(one, do(one, "pass_note", text="no"))))
    assert not meeting(touched(gone, come), touched(*to_patch(one, do(one, "key_set", frame=4, turn=5))))
    there = renamed(both, {}, {"1": "88"})
    assert {n.character for n in there.pass_notes} == {"88"}


def test_keys_move_with_their_clip_and_with_room_that_is_put_in_before_them():
    soundtrack = keyed((4, 1), (10, 2))
    moved = move(soundtrack, 1, RATE.first_us(12))
    assert [r[:2] for r in rows(moved)] == [(16, 1), (22, 2)]
    wider = insert_gap(soundtrack, RATE.first_us(6), RATE.first_us(5))
    assert [r[:2] for r in rows(wider)] == [(4, 1), (15, 2)]


@given(columns(), st.sampled_from(sorted(STANDARD_RATES)))
def test_at_another_rate_and_back_keys_are_where_they_were(keys, other):
    soundtrack = SHOT
    for key in keys:
        soundtrack = do(soundtrack, "key_set", frame=key.frame, turn=key.pose.turn, way=key.way, step=key.step)
    own = column_keys(soundtrack, HEAD)
    frame_keys(own, FrameRate.parse(other))
    assert [(k.frame, k.pose.turn) for k in frame_keys(own, RATE)] == [(k.frame, k.pose.turn) for k in keys]
    # On another rate's frames each is within half a frame of its time.
    rate = FrameRate.parse(other)
    for key in own:
        assert abs(rate.first_us(key_frame(key, rate)) - key.at_us) <= rate.first_us(1) / 2 + 1


def test_two_people_at_two_columns_or_two_frames_do_not_meet():
    before = keyed((4, 1), (10, 2))
    mine = touched(*to_patch(before, do(before, "key_set", frame=4, turn=5)))
    theirs = touched(*to_patch(before, do(before, "key_set", frame=4, part="face", turn=5)))
    later = touched(*to_patch(before, do(before, "key_remove", first=10, last=10)))
    same = touched(*to_patch(before, do(before, "key_remove", first=4, last=4)))
    assert not meeting(mine, theirs)
    assert not meeting(mine, later)
    assert meeting(mine, same)


def test_a_circle_turned_full_ends_where_it_began():
    whole = pose_matrix(Pose(turn=360), (5, 5), 10)
    assert whole.at(9, 2) == pytest.approx((9, 2))
    assert whole.a == pytest.approx(1)
