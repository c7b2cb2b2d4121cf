"""Lasting numbers: what is named by one is the same thing after whatever was done meanwhile."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.soundtracks import S, one_clip, read, soundtracks
from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import TinForkError
from tinfork.core.formats.soundtrack_json import apply_patch, soundtrack_from_dict, soundtrack_to_dict
from tinfork.core.soundtrack.edits import duplicate, set_reading
from tinfork.core.soundtrack.model import Note, Soundtrack
from tinfork.core.soundtrack.numbering import numbered

RATE = FrameRate.parse("24")


def edited(soundtrack, next_id, name, **values):
    context = EditContext(RATE, {}, frozenset({"1", "2"}), sounds=lambda text, language: tuple(text.replace(" ", "")))
    return numbered(soundtrack, parse_command(name, values).apply(soundtrack, context), next_id)


def everything(soundtrack):
    """All that has a number: its number, and what it is."""
    for voice in soundtrack.voices:
        yield from ((turn.id, turn) for turn in voice.reading.turns)
        for line in voice.reading.lines:
            yield line.id, line
            yield from ((word.id, word) for word in line.words)


def words(soundtrack):
    return {word.id: word.text for voice in soundtrack.voices for word in voice.reading.words()}


def in_words(soundtrack):
    return [[sound.id for sound in word.phonemes] for voice in soundtrack.voices for word in voice.reading.words()]


@given(soundtracks())
def test_everything_has_a_number_of_its_own_and_keeps_it_in_the_document(soundtrack):
    done, next_id = numbered(Soundtrack(), soundtrack, 1)
    numbers = [number for number, _ in everything(done)]
    assert sorted(numbers) == list(range(1, next_id))
    assert all(len(set(sounds)) == len(sounds) and all(sounds) for sounds in in_words(done))
    assert done == soundtrack
    again = soundtrack_from_dict(soundtrack_to_dict(done))
    assert list(everything(again)) == list(everything(done))
    assert [n for n, _ in everything(again)] == numbers
    assert numbered(done, again, next_id) == (again, next_id)


@given(
    st.lists(
        st.tuples(
            st.sampled_from(["edge", "slide", "retype", "word_remove", "word_add", "sound_remove", "sound_insert"]),
            st.integers(0, 4),
            st.integers(-400_000, 400_000),
        ),
        max_size=8,
    )
)
def test_numbers_are_never_given_twice_and_what_was_not_touched_keeps_its_own(steps):
    soundtrack, next_id = one_clip(), 100
    ever = dict(words(soundtrack))
    for name, at, by in steps:
        there = list(words(soundtrack))
        if not there:
            break
        own = there[at % len(there)]
        values = {
            "edge": {"edge": "end", "at_us": max(0, 2 * S + by)},
            "slide": {"by_us": by},
            "retype": {"text": f"om{abs(by)}a"[:6]},
            "word_add": {"speaker": "1", "text": "ma", "start_us": 8 * S + by, "end_us": 8 * S + by + 300_000},
            "sound_remove": {"sound": 1},
            "sound_insert": {"sound": 2, "ipa": "o"},
        }.get(name, {})
        before = words(soundtrack)
        try:
            soundtrack, next_id = edited(soundtrack, next_id, name, word=own, **values)
        except TinForkError:
            continue
        now = words(soundtrack)
        assert len(now) == sum(1 for v in soundtrack.voices for _ in v.reading.words())
        # Whoever came is new; who stays is the same word, but for the one that was typed anew.
        for number in now.keys() - before.keys():
            assert number not in ever
        for number in now.keys() & before.keys():
            assert now[number] == before[number] or (name, number) == ("retype", own)
        ever |= now
        assert all(len(set(sounds)) == len(sounds) and all(sounds) for sounds in in_words(soundtrack))


def test_what_is_read_again_takes_over_the_numbers_of_the_same_words():
    soundtrack = one_clip()
    was = words(soundtrack)
    again = read(1, ("sit right down now", 1 * S, 3 * S), ("oh", 4 * S, 4 * S + 300_000), ("good night", 5 * S, 7 * S))
    now, next_id = numbered(soundtrack, set_reading(soundtrack, 1, again), 100)
    texts = {text: number for number, text in words(now).items()}
    assert {texts[text] for text in ("sit", "down", "now", "good", "night")} == set(was)
    assert {texts["right"], texts["oh"]} <= set(range(100, next_id))
    assert [line.id for line in now.voices[0].reading.lines][2] == soundtrack.voices[0].reading.lines[1].id


def test_words_that_come_into_another_line_are_still_themselves():
    soundtrack = one_clip()
    joined = read(1, ("sit down now good night", 1 * S, 6 * S))
    now, _ = numbered(soundtrack, set_reading(soundtrack, 1, joined), 100)
    assert words(now) == words(soundtrack)


def test_a_line_that_is_said_once_more_is_another_one():
    soundtrack = one_clip()
    twice = read(1, ("sit down now", 1 * S, 3 * S), ("good night", 5 * S, 7 * S), ("good night", 7 * S, 9 * S))
    now, _ = numbered(soundtrack, set_reading(soundtrack, 1, twice), 100)
    again, _ = numbered(now, set_reading(now, 1, replace(now.voices[0].reading, lines=twice.lines[:2])), 200)
    for one in (now, again):
        numbers = [number for number, _ in everything(one)]
        assert len(set(numbers)) == len(numbers)
    # One that keeps its number leaves none for another with the same text.
    kept = now.voices[0].reading.lines
    third, _ = numbered(now, set_reading(now, 1, replace(twice, lines=(*kept[:2], twice.lines[2]))), 300)
    assert [line.id for line in third.voices[0].reading.lines] == [line.id for line in kept]


def test_a_word_that_is_typed_anew_is_the_same_word():
    soundtrack = one_clip()
    own = next(iter(words(soundtrack)))
    typed, _ = edited(soundtrack, 100, "retype", word=own, text="oma")
    assert words(typed) == words(soundtrack) | {own: "oma"}


def test_a_copy_of_a_voice_has_numbers_of_its_own():
    soundtrack = one_clip()
    twice, _ = numbered(soundtrack, duplicate(soundtrack, 1, 12 * S), 100)
    assert len(words(twice)) == 2 * len(words(soundtrack))
    assert twice.voices[0] is soundtrack.voices[0]


def test_a_note_is_the_same_one_wherever_frames_put_it_and_whatever_it_says():
    noted, next_id = edited(one_clip(), 1, "note", frame=4, text="blink")
    noted, next_id = edited(noted, next_id, "note", frame=12, text="nod")
    first, second = (note.id for note in noted.notes)
    assert first != second and first and second
    later, next_id = edited(noted, next_id, "gap", frame=6, frames=10)
    assert [(RATE.frame_at(n.at_us), n.id) for n in later.notes] == [(4, first), (22, second)]
    # The page still has it on frame 12.
    told, next_id = edited(later, next_id, "note", frame=12, text="nods twice", note=second)
    assert [(RATE.frame_at(n.at_us), n.text, n.id) for n in told.notes] == [
        (4, "blink", first),
        (22, "nods twice", second),
    ]
    gone, next_id = edited(told, next_id, "note", frame=12, text="", note=second)
    assert [n.text for n in gone.notes] == ["blink"]
    with pytest.raises(TinForkError, match="removed meanwhile"):
        edited(gone, next_id, "note", frame=12, text="again", note=second)
    new, _ = edited(gone, next_id, "note", frame=12, text="again")
    assert new.notes[1].id not in (first, second)


def test_notes_of_before_they_had_numbers_get_them_and_can_still_be_taken_back():
    old = replace(one_clip(), notes=(Note(500_000, "blink"), Note(900_000, "nod")))
    stored = soundtrack_to_dict(old)
    assert stored["notes"] == [[500_000, "blink"], [900_000, "nod"]]
    done, next_id = numbered(old, old, 7)
    assert [note.id for note in done.notes] == [7, 8] and next_id == 9 and done == old
    # An edit that was kept when notes had no numbers is undone.
    back = apply_patch(done, lambda: stored, {"notes": [[900_000, "nod"]]}, {"notes": []})
    assert [(note.text, note.id) for note in back.notes] == [("blink", 7)]


def test_what_comes_back_has_the_number_it_had():
    soundtrack = one_clip()
    own = next(iter(words(soundtrack)))
    without, next_id = edited(soundtrack, 100, "word_remove", word=own)
    assert own not in words(without)
    back, _ = numbered(without, replace(soundtrack), next_id)
    assert words(back) == words(soundtrack)


def bare(line):
    """A line without any numbers."""
    words = (replace(w, id=0, phonemes=tuple(replace(p, id=0) for p in w.phonemes)) for w in line.words)
    return replace(line, id=0, words=tuple(words))


def test_lines_that_an_edit_left_are_numbered_too_where_they_have_no_numbers():
    """As from a backup of before there were any."""
    old = one_clip()
    voice = old.voices[0]
    lines = tuple(map(bare, voice.reading.lines))
    before = set_reading(old, voice.id, replace(voice.reading, lines=lines))
    after = set_reading(before, voice.id, replace(voice.reading, lines=(*lines, replace(lines[0], text="once more"))))
    done, next_id = numbered(before, after, 1)
    numbers = [number for number, _ in everything(done)]
    assert sorted(numbers) == list(range(1, next_id))
    assert all(all(sounds) for sounds in in_words(done))
