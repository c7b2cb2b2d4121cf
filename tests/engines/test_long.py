"""Long recordings and many speakers, on a small scale: the bench has the large one."""

import itertools

import numpy as np
import pytest

from tests import sounds
from tinfork.core.errors import Cancelled
from tinfork.core.speech.rereading import Change
from tinfork.engines.decode import Sound
from tinfork.engines.isolated import run_isolated
from tinfork.engines.reading import layout, reader
from tinfork.engines.reading.reader import read_changes, read_track
from tinfork.engines.wording import LineText
from tools.bench.speech import converse

VOICES = (("en-us+f2", 60), ("en-gb+m3", 40))


@pytest.fixture(scope="module")
def talk():
    return run_isolated(compose, progress=lambda phase, done: None)


def compose(report):
    return converse(VOICES, 70.0, seed=5)


@pytest.fixture
def small_windows(monkeypatch):
    """Half a minute is long already."""
    monkeypatch.setattr(reader, "WHOLE_S", 20.0)


def texts(talk):
    return [LineText(s.text, str(s.who)) for s in talk.said]


def worst_start(lines, talk):
    return max(abs(line.start_us / 1e6 - s.start_s) for line, s in zip(lines, talk.said, strict=True))


def test_a_recording_read_window_by_window_has_every_line_where_it_is(talk, small_windows):
    seen = []

    def keep(phase, done, part=None):
        seen.extend(part or ())

    result = read_track(Sound(talk.samples[:, None], 16_000), texts(talk), keep)
    assert worst_start(result.reading.lines, talk) < 0.4
    assert [at for at, _ in seen] == list(range(len(seen)))
    assert len(seen) == len(talk.said)
    words = list(result.reading.words())
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(words))


def test_lines_that_are_not_said_are_left_out_and_named(talk, small_windows):
    wrong = texts(talk)
    wrong.insert(3, LineText("Purple engineers measured several expensive bridges yesterday."))
    result = read_track(Sound(talk.samples[:, None], 16_000), wrong)
    assert not result.reading.lines[3].words
    assert "Purple engineers" in result.warnings[0]
    assert worst_start([x for n, x in enumerate(result.reading.lines) if n != 3], talk) < 0.4


def test_speech_that_no_line_has_is_stepped_over(talk, small_windows):
    kept = [n for n in range(len(talk.said)) if n not in (4, 5)]
    result = read_track(Sound(talk.samples[:, None], 16_000), [texts(talk)[n] for n in kept])
    late = [abs(result.reading.lines[at].start_us / 1e6 - talk.said[n].start_s) for at, n in enumerate(kept)]
    assert sorted(late)[len(late) * 8 // 10] < 0.4


def test_changes_are_read_in_their_own_places(talk, tmp_path):
    path = tmp_path / "voice.npy"
    np.save(path, talk.samples)
    at = 6
    before, after = talk.said[at - 1], talk.said[at + 1]
    change = Change(at, at + 1, round(before.end_s * 1e6), round(after.start_s * 1e6))
    lines, _ = read_changes(path, texts(talk), [change])
    assert list(lines) == [at]
    assert abs(lines[at].start_us / 1e6 - talk.said[at].start_s) < 0.15


def test_lines_come_through_from_a_process_of_its_own_before_it_is_stopped(tmp_path):
    said = sounds.spoken()
    twice = np.concatenate([sounds.as_sound(said).mono_at(16_000)] * 2)
    path = tmp_path / "voice.npy"
    np.save(path, twice)
    half = len(twice) // 2 * 1_000_000 // 16_000
    parts = []

    def stop_after_the_first(phase, done):
        if parts:
            raise Cancelled("Cancelled.")

    changes = [Change(0, 1, 0, half), Change(1, 2, half, 2 * half)]
    with pytest.raises(Cancelled):
        run_isolated(
            read_changes, path, [LineText(sounds.SENTENCE)] * 2, changes, False, None,
            progress=stop_after_the_first, keep=parts.extend,
        )  # fmt: skip
    assert [at for at, _ in parts] == [0]


def test_a_window_never_ends_inside_what_is_still_unsure(talk):
    from tinfork.engines.wording import spell

    wording = spell(texts(talk))
    plan = layout.LineLayout(talk.samples, [[s.word.ipa for s in line] for line in wording.by_line()])
    ends = []
    while not plan.is_done:
        laid = plan.find()
        plan.accept(laid)
        ends.append(laid.upto_s)
    assert ends == sorted(ends)
    assert plan.done == 1.0 or plan.line == len(talk.said)
