import json
from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.soundtracks import READ_1, TAKES, S, heard, heard_at, one_clip, read, soundtracks, word
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.formats.soundtrack_json import (
    patched_document,
    said_first,
    soundtrack_from_dict,
    soundtrack_to_dict,
    to_patch,
)
from tinfork.core.soundtrack import edits
from tinfork.core.soundtrack.merging import touched
from tinfork.core.soundtrack.model import LONGEST_US, Pin, PinnedMouth, Soundtrack
from tinfork.core.soundtrack.pinning import pin_mouth
from tinfork.core.soundtrack.project import clips_of_words, placed_turns, reading_of
from tinfork.core.speech.reading import Extra, Line, Reading
from tinfork.core.speech.rereading import shifted


def times(soundtrack):
    return [(w.text, w.start_us, w.end_us) for w in reading_of(soundtrack).words()]


def test_a_clip_carries_the_words_of_its_take_into_the_shots_time():
    assert times(one_clip(start=2 * S))[0] == ("sit", 3 * S, 3 * S + 666_666)
    assert one_clip(2 * S).duration_us == 12 * S


@given(soundtracks(), st.integers(1, 5 * S))
def test_moving_a_clip_moves_its_words_and_its_pins_and_nothing_else(soundtrack, by):
    clip = soundtrack.clips[-1]
    moved = edits.move(soundtrack, clip.id, clip.start_us + by)
    assert [c for c in moved.clips if c.id != clip.id] == [c for c in soundtrack.clips if c.id != clip.id]
    assert moved.clip(clip.id).start_us == clip.start_us + by
    for before, after in zip(soundtrack.pins, moved.pins, strict=True):
        inside = clip.start_us <= before.start_us and before.end_us <= clip.end_us
        assert after.start_us - before.start_us == (by if inside else 0)
        assert after.end_us - after.start_us == before.end_us - before.start_us


def test_moving_the_sound_alone_leaves_words_and_pins_and_back_again():
    soundtrack = one_clip(start=S)
    soundtrack = Soundtrack(soundtrack.tracks, soundtrack.clips, soundtrack.voices, (Pin(1, 2 * S, 3 * S),))
    alone = edits.move(soundtrack, 1, 3 * S, what=edits.SOUND)
    assert times(alone) == times(soundtrack)
    assert alone.pins == soundtrack.pins
    words = edits.move(soundtrack, 1, 3 * S, what=edits.READING)
    assert [a - b for (_, a, _), (_, b, _) in zip(times(words), times(soundtrack), strict=True)] == [2 * S] * 5
    assert words.clip(1).start_us == S
    assert words.pins[0].start_us == 4 * S
    assert edits.move(words, 1, -S, what=edits.READING).clip(1) == soundtrack.clip(1)


@given(soundtracks(), st.data())
def test_splitting_changes_nothing_that_is_heard_or_read(soundtrack, data):
    clip = data.draw(st.sampled_from(soundtrack.clips))
    assume(clip.length_us >= 20_000)
    at = clip.start_us + data.draw(st.integers(10_000, clip.length_us - 10_000))
    split = edits.split(soundtrack, clip.id, at)
    assert len(split.clips) == len(soundtrack.clips) + 1
    assert heard(split) == heard(soundtrack)
    assert split.duration_us == soundtrack.duration_us
    # A word that lies across the cut is read on one side: its middle's. Voices at once have no order.
    assert sorted(w.text for w in reading_of(split).words()) == sorted(w.text for w in reading_of(soundtrack).words())


@given(soundtracks(), st.integers(0, 12 * S), st.integers(1, 200))
def test_room_for_action_moves_all_that_is_after_it_and_loses_no_sample(soundtrack, at, frames):
    length = frames * 41_667
    cut = [c for c in soundtrack.clips if c.start_us < at < c.end_us]
    assume(all(at - c.start_us >= 10_000 and c.end_us - at >= 10_000 for c in cut))
    wider = edits.insert_gap(soundtrack, at, length)
    for time in range(0, soundtrack.duration_us, 370_000):
        assert heard_at(wider, time + (length if time >= at else 0)) == heard_at(soundtrack, time)
    assert not any(heard_at(wider, at + length * part // 7) for part in range(7))
    assert sum(c.length_us for c in wider.clips) == sum(c.length_us for c in soundtrack.clips)
    # A mouth covers the frames that it was set on: it is moved or split, and never lasts longer.
    for mouth in {p.mouth for p in soundtrack.pins if p.mouth}:
        was, now = ([p for p in one.pins if p.mouth == mouth] for one in (soundtrack, wider))
        assert sum(p.end_us - p.start_us for p in now) == sum(p.end_us - p.start_us for p in was)
        for time in range(0, soundtrack.duration_us, 370_000):
            there = time + (length if time >= at else 0)
            assert sum(p.start_us <= there < p.end_us for p in now) == sum(p.start_us <= time < p.end_us for p in was)
        assert not any(p.start_us < at + length and at < p.end_us for p in now)
    assert len({p.key for p in wider.pins}) == len(wider.pins)
    for before in (p for p in soundtrack.pins if not p.mouth):
        (after,) = (p for p in wider.pins if p.key == before.key)
        assert after.start_us == before.start_us + (length if before.start_us >= at else 0)
        assert after.end_us == before.end_us + (length if before.end_us > at else 0)


@given(soundtracks(), st.data())
def test_trimming_hides_words_and_trimming_back_shows_them_again(soundtrack, data):
    clip = data.draw(st.sampled_from(soundtrack.clips))
    assume(clip.length_us >= 100_000)
    part = data.draw(st.integers(10_000, clip.length_us - 20_000))
    shorter = edits.trim(soundtrack, clip.id, end_us=clip.start_us + part)
    assert shorter.clip(clip.id).in_us == clip.in_us
    assert edits.trim(shorter, clip.id, end_us=clip.end_us) == soundtrack
    later = edits.trim(soundtrack, clip.id, start_us=clip.start_us + part)
    assert later.clip(clip.id).shot_time(0) == clip.shot_time(0)
    assert edits.trim(later, clip.id, start_us=clip.start_us) == soundtrack


def test_a_clip_is_never_trimmed_past_its_take_or_to_nothing():
    soundtrack = one_clip(start=2 * S)
    assert edits.trim(soundtrack, 1, start_us=0, end_us=99 * S) == soundtrack
    with pytest.raises(TimingError, match="The clip would be empty"):
        edits.trim(soundtrack, 1, start_us=12 * S)


def test_clips_do_not_overlap_on_a_track_nor_change_the_kind_of_track():
    soundtrack = edits.place(one_clip(), 2, TAKES[2], 10 * S, track=1, reading=read(2, ("hm", 0, S)))
    with pytest.raises(TimingError, match="Move it first, or use another track"):
        edits.move(soundtrack, 2, 9 * S)
    soundtrack = edits.place(soundtrack, 3, TAKES[3], 0, kind="effects")
    with pytest.raises(TimingError, match="Voices go on voice tracks, effects on effects"):
        edits.move(soundtrack, 1, 0, track=2)
    with pytest.raises(TimingError, match="before the first frame"):
        edits.move(soundtrack, 1, -1)


def test_effects_are_heard_and_never_read():
    soundtrack = edits.place(Soundtrack(), 1, TAKES[1], 0, kind="effects", reading=READ_1)
    assert not list(reading_of(soundtrack).words())
    assert soundtrack.voices == ()
    assert heard_at(soundtrack, S) == {(1, S)}


def test_a_duplicate_has_words_of_its_own_and_finds_room():
    soundtrack = edits.duplicate(one_clip(), 1, 5 * S)
    assert [c.track for c in soundtrack.clips] == [1, 2]
    changed = edits.set_reading(soundtrack, 2, read(1, ("other words", S, 2 * S)))
    assert [t for t, *_ in times(changed)][:3] == ["sit", "down", "now"]
    assert "other" in [t for t, *_ in times(changed)]


@given(st.integers(0, 300))
def test_speech_begins_where_it_is_told_to(frame):
    at = frame * 41_667
    soundtrack = edits.begin_speech(one_clip(start=S), at)
    assert times(soundtrack)[0][1] == at


def test_words_are_never_trimmed_off_to_begin_earlier():
    soundtrack = edits.begin_speech(one_clip(), 0)
    assert times(soundtrack)[0][1] == 0
    assert soundtrack.clip(1).in_us == S
    with_bell = edits.place(one_clip(), 3, TAKES[3], 0, kind="effects")
    with pytest.raises(TimingError, match="would be lost"):
        edits.begin_speech(with_bell, 0)
    with pytest.raises(TimingError, match="no speech"):
        edits.begin_speech(Soundtrack(), 0)


def test_a_set_length_cuts_or_fills_and_grows_with_room_for_action():
    soundtrack = edits.set_length(one_clip(), 6 * S)
    assert soundtrack.duration_us == 6 * S
    assert [t for t, *_ in times(soundtrack)] == ["sit", "down", "now", "good"]
    assert edits.insert_gap(soundtrack, S, S).duration_us == 7 * S
    assert edits.set_length(soundtrack, 0).duration_us == 10 * S


@given(soundtracks(), st.integers(0, 12 * S), st.integers(1, 4 * S))
def test_a_gap_that_is_closed_again_leaves_everything_where_it_was(soundtrack, at, length):
    # A word that lies across a cut is trimmed by it.
    assume(not any(c.start_us < at < c.end_us for c in soundtrack.clips))
    wider = edits.insert_gap(soundtrack, at, length)
    closed = edits.close_gap(wider, at, at + length)
    assert sorted(times(closed)) == sorted(times(soundtrack))
    assert closed.duration_us == soundtrack.duration_us
    assert sorted(closed.notes, key=lambda n: n.at_us) == sorted(soundtrack.notes, key=lambda n: n.at_us)
    shown = {at_us for pin in soundtrack.pins for at_us in range(pin.start_us, pin.end_us, 97_001)}
    assert shown == {one for one in shown if any(p.start_us <= one < p.end_us for p in closed.pins)}


def test_a_clip_goes_and_what_follows_comes_up_with_its_words_pins_and_notes():
    # "sit down" twice: the second clip right behind the first, which is 10 s long.
    twice = edits.duplicate(one_clip(), one_clip().clips[0].id, 12 * S)
    mouth = PinnedMouth("7", 3)
    twice = pin_mouth(pin_mouth(twice, S, 2 * S, mouth), 13 * S, 14 * S, mouth)
    twice = edits.write_note(edits.write_note(twice, 15 * S, 15 * S + 2, "look up"), 4 * S, 4 * S + 2, "gone with it")
    second = twice.clips[1]
    after = edits.remove(twice, twice.clips[0].id, closes=True)
    assert [(c.id, c.start_us) for c in after.clips] == [(second.id, 2 * S)]
    assert [(p.start_us, p.end_us) for p in after.pins] == [(3 * S, 4 * S)]
    assert [(n.at_us, n.text) for n in after.notes] == [(0, "gone with it"), (5 * S + 1, "look up")]
    assert times(after) == [
        (text, start - 10 * S, end - 10 * S) for text, start, end in times(twice) if start >= 12 * S
    ]
    plain = edits.remove(twice, twice.clips[0].id)
    assert plain.clips[0].start_us == 12 * S


def test_a_gap_in_which_another_clip_plays_does_not_close():
    both = edits.place(one_clip(), 2, 3 * S, 4 * S, kind="effects")
    with pytest.raises(TimingError, match="Another clip plays at that time"):
        edits.remove(both, both.clips[0].id, closes=True)


def test_turns_lie_where_their_clips_are_heard():
    soundtrack = edits.insert_gap(one_clip(start=S), 5 * S, 2 * S)
    assert [(p.turn.start_us, p.turn.end_us) for p in placed_turns(soundtrack)] == [
        (2 * S, 3_999_998),
        (8 * S, 10 * S),
    ]


@given(soundtracks())
def test_a_soundtrack_survives_its_document_and_any_edit_its_undoing(soundtrack):
    document = soundtrack_to_dict(soundtrack)
    assert soundtrack_from_dict(document) == soundtrack
    after = edits.remove(edits.insert_gap(soundtrack, soundtrack.clips[0].start_us, S), soundtrack.clips[0].id)
    new = soundtrack_to_dict(after)
    before_parts, after_parts = to_patch(soundtrack, after)
    # Rows that the edit left alone stay in the order in which they were.
    assert in_order(patched_document(new, after_parts, before_parts)) == in_order(document)
    assert in_order(patched_document(document, before_parts, after_parts)) == in_order(new)


def in_order(document):
    """A document with its pins and notes in order of time, as edits leave them."""
    return document | {"pins": sorted(document["pins"], key=lambda p: (p[1], p[0])), "notes": sorted(document["notes"])}


def test_an_edit_keeps_only_the_pins_it_changed_and_their_undo_leaves_the_others():
    mouth = PinnedMouth("7", 3)
    many = one_clip()
    for at in range(200):
        many = pin_mouth(many, at * 40_000, at * 40_000 + 40_000, mouth)
    after = pin_mouth(many, 400_000, 480_000, PinnedMouth("7", 5))
    gone, come = to_patch(many, after)
    assert (len(gone["pins"]), len(come["pins"])) == (2, 1)
    document, new = soundtrack_to_dict(many), soundtrack_to_dict(after)
    # As a database gives it back: names in another order.
    stored = json.loads(json.dumps(new, sort_keys=True))
    assert patched_document(stored, come, gone) == in_order(document)
    assert patched_document(document, gone, come) == in_order(new)


@pytest.mark.parametrize(
    "document",
    [None, [], {}, {"version": 2}, {"version": 1, "tracks": [], "clips": [{"id": 1}], "voices": [], "length": 0}],
)
def test_what_is_no_soundtrack_is_refused(document):
    with pytest.raises(FormatError):
        soundtrack_from_dict(document)


def test_a_soundtrack_that_contradicts_itself_is_refused():
    document = soundtrack_to_dict(one_clip())
    document["clips"][0]["length"] = 99 * S
    with pytest.raises(FormatError, match="contradicts itself"):
        soundtrack_from_dict(document)


def test_what_no_word_has_is_moved_with_its_clip_and_cut_off_with_it():
    read = one_clip(start=S)
    voice = read.voices[0]
    extras = (Extra(2 * S, 3 * S, "now"), Extra(60 * S, 61 * S))
    lines = (replace(voice.reading.lines[0], extras=extras), *voice.reading.lines[1:])
    longer = replace(voice.reading, lines=lines, duration_us=70 * S)
    shot = reading_of(replace(read, voices=(replace(voice, reading=longer),)))
    (extra,) = shot.lines[0].extras
    clip = read.clip(1)
    assert (extra.start_us, extra.end_us) == (clip.shot_time(2 * S), clip.shot_time(3 * S))
    assert extra.heard == "now"


def test_lines_that_are_moved_take_what_no_word_has_with_them():
    line = Line("", "", "en-us", (), extras=(Extra(S, 2 * S, "now"),))
    assert shifted(line, S).extras == (Extra(2 * S, 3 * S, "now"),)


def long_shot(lines):
    """A shot with so many lines of four words, two seconds each."""
    texts = ["one", "two", "three", "four"]
    rows = [
        tuple(word(text, (20 * n + 4 * at) * S // 10, (20 * n + 4 * at + 4) * S // 10) for at, text in enumerate(texts))
        for n in range(lines)
    ]
    reading = Reading(2 * lines * S, tuple(Line("1", " ".join(texts), "en-us", row) for row in rows))
    return edits.place(Soundtrack(), 1, 2 * lines * S, 0, reading=reading)


@given(st.integers(1, 12), st.data())
def test_an_edit_of_words_keeps_the_lines_it_changed_and_can_be_undone(count, data):
    before = long_shot(count)
    lines = list(before.voices[0].reading.lines)
    first = data.draw(st.integers(0, count - 1))
    last = data.draw(st.integers(first, count))
    new = [replace(line, text=f"{line.text}!") for line in lines[first:last]][: data.draw(st.integers(0, count))]
    changed = replace(before.voices[0].reading, lines=(*lines[:first], *new, *lines[last:]))
    after = edits.set_reading(before, before.voices[0].id, changed)
    gone, come = to_patch(before, after)
    whole, then = soundtrack_to_dict(before), soundtrack_to_dict(after)
    assert patched_document(whole, gone, come) == then
    assert patched_document(then, come, gone) == whole
    assert set(gone) == set(come) == ({"lines 1"} if changed != before.voices[0].reading else set())
    if gone:
        assert [line["text"] for line in come["lines 1"]["lines"]] == [line.text for line in new]
        assert len(gone["lines 1"]["lines"]) == last - first


def test_a_thousand_nudges_in_an_hour_are_kept_in_five_megabytes():
    shot = long_shot(1800)
    line = shot.voices[0].reading.lines[900]
    moved = replace(line, words=(replace(line.words[0], is_pinned=True), *line.words[1:]))
    lines = shot.voices[0].reading.lines
    after = edits.set_reading(shot, 1, replace(shot.voices[0].reading, lines=(*lines[:900], moved, *lines[901:])))
    gone, come = to_patch(shot, after)
    assert len(json.dumps([gone, come])) * 1000 < 5_000_000
    (touch,) = touched(gone, come)
    assert (touch.what, touch.start_us, touch.end_us) == ("voice 1", line.start_us, line.words[0].end_us)


def test_each_word_is_known_with_the_clip_it_is_heard_in():
    split = edits.split(one_clip(), 1, 4 * S)
    clip_of = clips_of_words(split)
    heard_in = {word.text: clip_of(word) for word in reading_of(split).words()}
    assert heard_in == {"sit": 1, "down": 1, "now": 1, "good": 2, "night": 2}


def test_a_shot_is_two_hours_long_at_the_most():
    assert replace(one_clip(), length_us=LONGEST_US).duration_us == LONGEST_US
    for length in (LONGEST_US + 1, -1):
        with pytest.raises(TimingError, match="two hours"):
            replace(one_clip(), length_us=length)


def test_the_first_words_are_told_from_later_ones():
    silent = {"clips": []}
    bare, spoken = ({"reading": {"lines": [{"words": words}]}} for words in ([], [{"text": "tram"}]))
    for gone, come, is_first in (
        ({"voice 1": None}, {"voice 1": spoken}, True),
        ({"voice 1": bare}, {"voice 1": spoken}, True),
        ({"voice 1": spoken}, {"voice 1": spoken}, False),
        ({"voice 1": spoken}, {"voice 1": None}, False),
        ({"voice 1": None}, {"voice 1": bare}, False),
        (silent, silent, False),
        ({"lines 1": {"at": 0, "lines": []}}, {"lines 1": {"at": 0, "lines": [{"words": [1]}]}}, True),
        ({"lines 1": {"at": 0, "lines": [{"words": [1]}]}}, {"lines 1": {"at": 0, "lines": [{"words": [2]}]}}, False),
    ):
        assert said_first(gone, come) is is_first
