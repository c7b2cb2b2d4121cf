import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.soundtracks import TAKES, S, one_clip, read, soundtracks
from tinfork.core.soundtrack import edits
from tinfork.core.soundtrack.assembly import assemble, gather, spread
from tinfork.core.soundtrack.mix import BLOCK, clip_samples, mix, mix_peaks
from tinfork.core.soundtrack.model import Soundtrack
from tinfork.core.soundtrack.project import reading_of
from tinfork.core.soundtrack.replacing import replace_take
from tinfork.core.speech.reading import Turn
from tinfork.core.speech.turns import with_turns

RATE = 8_000


@given(soundtracks())
def test_the_row_has_every_voice_once_in_the_order_it_is_heard(soundtrack):
    regions = assemble(soundtrack)
    assert [r.at_us for r in regions] == list(
        np.cumsum([0, *[r.out_us - r.in_us for r in regions[:-1]]])
    ) or not regions
    for clip, voice in soundtrack.voice_clips():
        covered = sum(
            max(0, min(r.out_us, clip.out_us) - max(r.in_us, clip.in_us)) for r in regions if r.voice == voice.id
        )
        assert covered == clip.length_us


@given(soundtracks())
def test_what_is_gathered_and_spread_again_is_the_same(soundtrack):
    regions = assemble(soundtrack)
    whole = all(c.length_us == c.take_us for c, _ in soundtrack.voice_clips())
    again = spread(soundtrack, regions, gather(soundtrack, regions))
    assert [w.text for w in reading_of(again).words()] == [w.text for w in reading_of(soundtrack).words()]
    if whole:
        assert again.voices == soundtrack.voices


def test_words_that_no_clip_plays_stay_hidden_and_are_not_lost():
    soundtrack = edits.trim(one_clip(), 1, end_us=4 * S)
    regions = assemble(soundtrack)
    new = read(2, ("come in", S, 2 * S))
    again = spread(soundtrack, regions, new)
    assert [w.text for w in reading_of(again).words()] == ["come", "in"]
    back = edits.trim(again, 1, end_us=10 * S)
    assert [w.text for w in reading_of(back).words()] == ["come", "in", "good", "night"]


def test_a_clip_that_was_split_and_moved_apart_is_still_read_as_one():
    soundtrack = edits.insert_gap(one_clip(), 4 * S, 3 * S)
    regions = assemble(soundtrack)
    assert [(r.in_us, r.out_us) for r in regions] == [(0, 4 * S), (4 * S, 10 * S)]
    assert gather(soundtrack, regions).duration_us == 10 * S


@given(soundtracks(), st.integers(0, 3))
def test_the_mix_has_every_sample_of_every_clip_where_it_belongs(soundtrack, seed):
    assume(soundtrack.duration_us < 40 * S)
    noise = np.random.default_rng(seed)
    takes = {t: (noise.uniform(-0.1, 0.1, (us * RATE // S, 1))).astype(np.float32) for t, us in TAKES.items()}

    def open_clip(clip):
        first, count = clip_samples(clip, RATE)
        part = takes[clip.take][first : first + count]
        yield from (part[n : n + 1000] for n in range(0, len(part), 1000))

    blocks = list(mix(soundtrack, open_clip, RATE))
    assert all(len(b) == BLOCK for b in blocks[:-1])
    whole = np.concatenate(blocks)
    due = np.zeros_like(whole)
    for clip in soundtrack.clips:
        first, count = clip_samples(clip, RATE)
        at = clip.start_us * RATE // S
        part = takes[clip.take][first : first + count]
        due[at : at + len(part)] += part
    assert np.abs(whole - due).max() < 1e-6


def test_fades_gains_and_silenced_tracks_are_heard_in_the_mix():
    ones = np.ones((10 * RATE, 1), dtype=np.float32) * 0.5
    soundtrack = edits.set_gain(edits.fade(one_clip(), 1, 2 * S, 4 * S), 1, -6.0)

    def whole(st_):
        return np.concatenate(list(mix(st_, lambda clip: iter([ones]), RATE)))[:, 0]

    sound = whole(soundtrack)
    level = 0.5 * 10 ** (-6 / 20)
    assert abs(sound[RATE] - level / 2) < 1e-3
    assert np.allclose(sound[3 * RATE : 5 * RATE], level, atol=1e-3)
    assert abs(sound[8 * RATE] - level / 2) < 1e-3
    assert not whole(edits.mute_track(soundtrack, 1, True)).any()
    louder = np.concatenate(list(mix(soundtrack, lambda clip: iter([ones]), RATE, gains_db={1: 6.0})))[:, 0]
    assert np.allclose(louder[3 * RATE : 5 * RATE], 0.5, atol=1e-3)


def test_the_waveform_of_a_shot_is_its_takes_in_their_places():
    peaks = np.zeros((10_000, 2), dtype=np.int8)
    peaks[1_000:2_000] = (-50, 60)
    levels = mix_peaks(one_clip(start=3 * S), {1: peaks})
    assert levels[0].shape == (13_000, 2)
    assert not levels[0][:4_000].any()
    assert (levels[0][4_000:5_000] == (-50, 60)).all()
    assert not mix_peaks(edits.place(Soundtrack(), 1, TAKES[1], 0, kind="effects"), {1: peaks}, voices_only=True)[
        0
    ].any()


def test_a_better_take_plays_the_same_words_and_carries_turns_and_pins_by_word():
    soundtrack = edits.trim(one_clip(start=S), 1, end_us=9 * S)
    turned = with_turns(soundtrack.voice(1).reading, [Turn("2", 5 * S, 7 * S, by_hand=True)])
    soundtrack = edits.set_reading(soundtrack, 1, turned)
    soundtrack = Soundtrack(soundtrack.tracks, soundtrack.clips, soundtrack.voices, (edits.Pin(7, 6 * S, 8 * S),))
    # Said later and slower: "good night" lies at 10 to 14 s now.
    better = read(3, ("sit down now", 2 * S, 6 * S), ("good night", 10 * S, 14 * S))
    after = replace_take(soundtrack, 1, 3, TAKES[3], {1: better})
    clip = after.clip(1)
    assert (clip.take, clip.start_us, clip.in_us) == (3, S, 0)
    assert [w.text for w in reading_of(after).words()] == ["good", "night"]
    assert after.voice(1).reading.turns == (Turn("2", 10 * S, 14 * S, by_hand=True),)
    pin = after.pins[0]
    assert (clip.take_time(pin.start_us), clip.take_time(pin.end_us)) == (10 * S, 14 * S)


def test_a_longer_take_pushes_what_comes_after_it_on():
    soundtrack = edits.place(one_clip(), 2, TAKES[2], 10 * S, track=1, reading=read(2, ("hm", 0, S)))
    soundtrack = edits.place(soundtrack, 2, TAKES[2], 11 * S, kind="effects")
    after = replace_take(soundtrack, 1, 3, TAKES[3], {1: read(3, ("sit down now", S, 3 * S))})
    assert [c.start_us for c in after.clips] == [0, 30 * S, 31 * S]
