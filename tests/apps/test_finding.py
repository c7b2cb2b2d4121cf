"""A recording whose lines find the script: what goes into which shot, what stays in the take."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests import sounds
from tests.apps.test_dropping import work_all
from tinfork.apps.produce.actions import add_shot
from tinfork.apps.reading.actions.finding import lay_found, script_lines, use_found
from tinfork.apps.reading.models import FoundLine, Soundtrack
from tinfork.apps.sound.models import Take
from tinfork.core.errors import SoundError
from tinfork.core.speech.reading import Line, Phoneme, Word
from tinfork.engines.finding import FoundLines

FIRST, SECOND, THIRD = "The last tram leaves the depot before midnight.", "Sit down.", "Seven small loaves."


@pytest.fixture
def shots(production, studio, shot):
    """Two shots with a script, no sound yet."""
    shot.words = f"ODALYS: {FIRST}\nBRINDLE: {SECOND}"
    shot.save()
    brindle = studio.characters.get(name="Brindle")
    other = add_shot(production=production, name="030 The oven", character=brindle)
    other.words = THIRD
    other.save()
    return shot, other


@pytest.fixture
def take(production):
    return Take.objects.create(production=production, name="session", listening="x.flac", duration_us=60_000_000)


def said(text, start_s, number=None, fit=0.9):
    """A line of one word, a second long."""
    start_us = round(start_s * 1e6)
    word = Word(text, start_us, start_us + 1_000_000, (Phoneme("a", start_us, start_us + 1_000_000),))
    return FoundLines(Line("", text, "en-us", (word,)), number, fit)


def placed(shot):
    """What a shot has, in its order: text, from which second of the take."""
    st = Soundtrack.objects.get(shot=shot).content
    clips = sorted(st.voice_clips(), key=lambda both: both[0].start_us)
    return [[(line.text, line.start_us / 1e6) for line in voice.reading.lines] for _, voice in clips]


def test_the_best_of_each_line_goes_into_its_shot_and_the_others_stay(shots, take, production, user):
    found = [
        said(FIRST, 1, 0, fit=0.7),
        said(FIRST, 5, 0, fit=0.95),
        said("Coffee?", 9),
        said(SECOND, 13, 1),
        said(THIRD, 17, 2, fit=0.3),
    ]
    laid = lay_found(take=take, script=script_lines(production), found=found, by=user)
    assert (laid.found, laid.placed, laid.shots, laid.again, laid.loose) == (3, 2, 1, 1, 1)
    assert placed(shots[0]) == [[(FIRST, 5)], [(SECOND, 13)]]
    assert not Soundtrack.objects.filter(shot=shots[1]).exists()
    assert list(FoundLine.objects.values_list("shot__name", "text", "is_placed")) == [
        ("020 The counter", FIRST, False),
        ("020 The counter", FIRST, True),
        (None, "Coffee?", False),
        ("020 The counter", SECOND, True),
        ("030 The oven", THIRD, False),
    ]


def test_what_is_said_in_one_go_stays_one_clip(shots, take, production, user):
    lay_found(take=take, script=script_lines(production), found=[said(FIRST, 1, 0), said(SECOND, 3, 1)], by=user)
    assert placed(shots[0]) == [[(FIRST, 1), (SECOND, 3)]]


def test_a_later_recording_goes_between_and_moves_what_comes_after(shots, take, production, user):
    lay_found(take=take, script=script_lines(production), found=[said(SECOND, 3, 1)], by=user)
    again = Take.objects.create(production=production, name="her", listening="y.flac", duration_us=60_000_000)
    lay_found(take=again, script=script_lines(production), found=[said(FIRST, 7, 0), said(SECOND, 20, 1)], by=user)
    assert placed(shots[0]) == [[(FIRST, 7)], [(SECOND, 3)]]
    first, second = sorted(Soundtrack.objects.get(shot=shots[0]).content.clips, key=lambda clip: clip.start_us)
    assert first.end_us <= second.start_us < first.end_us + 42_000
    # Each to the frame.
    assert all(production.rate.first_us(production.rate.frame_at(c.start_us)) == c.start_us for c in (first, second))


def test_another_take_of_a_line_is_put_in_the_place_of_the_one_that_is_there(shots, take, production, user):
    found = [said(FIRST, 1, 0), said(SECOND, 3, 1), said(FIRST, 20, 0, fit=0.6)]
    lay_found(take=take, script=script_lines(production), found=found, by=user)
    use_found(line=FoundLine.objects.get(start_us=20_000_000), by=user)
    clips = placed(shots[0])
    assert clips[0] == [(FIRST, 20)]
    assert clips[1][-1] == (SECOND, 3)
    assert list(FoundLine.objects.values_list("is_placed", flat=True)) == [False, True, True]


def test_what_was_only_perhaps_the_line_is_placed_when_somebody_says_so(shots, take, production, user):
    lay_found(take=take, script=script_lines(production), found=[said(THIRD, 1, 2, fit=0.2)], by=user)
    use_found(line=FoundLine.objects.get(), by=user)
    assert placed(shots[1]) == [[(THIRD, 1)]]


def test_a_second_search_places_nothing_twice_and_knows_what_is_placed(shots, take, production, user):
    found = [said(FIRST, 1, 0), said(SECOND, 3, 1), said(FIRST, 20, 0, fit=0.6)]
    lay_found(take=take, script=script_lines(production), found=found, by=user)
    again = [said(FIRST, 1.1, 0), said(SECOND, 3, 1), said(FIRST, 20, 0, fit=0.6)]
    laid = lay_found(take=take, script=script_lines(production), found=again, by=user)
    assert (laid.found, laid.placed) == (2, 0)
    assert placed(shots[0]) == [[(FIRST, 1), (SECOND, 3)]]
    assert list(FoundLine.objects.values_list("is_placed", flat=True)) == [True, True, False]
    # What the shot has from elsewhere is not put in a second time.
    FoundLine.objects.update(is_placed=False)
    with pytest.raises(SoundError, match="The shot already has this line from another take"):
        use_found(line=FoundLine.objects.get(start_us=20_000_000), by=user)


def test_a_clip_that_is_gone_cannot_be_exchanged(shots, take, production, user):
    found = [said(FIRST, 1, 0), said(FIRST, 20, 0, fit=0.6)]
    lay_found(take=take, script=script_lines(production), found=found, by=user)
    Soundtrack.objects.get(shot=shots[0]).delete()
    with pytest.raises(SoundError, match="changed or removed"):
        use_found(line=FoundLine.objects.get(is_placed=False), by=user)


def test_a_session_that_is_dropped_falls_into_its_shots(shots, production, client):
    silence = np.zeros(16_000, dtype=np.float32)
    rows = [
        sounds.as_sound(sounds.spoken(text)).mono_at(16_000) for text in (FIRST, "Nobody opens the oven now.", FIRST)
    ]
    data = sounds.wav_bytes(np.concatenate([part for row in rows for part in (silence, row)] + [silence]))
    page = client.get(f"/productions/{production.pk}/").content.decode()
    assert '<option value="script" selected>' in page
    answer = client.post(
        f"/productions/{production.pk}/drop",
        {
            "sound": SimpleUploadedFile("session.wav", data),
            "into": "script",
            "character": shots[0].character.pk,
            "spoken": "",
        },
        headers={"Accept": "application/json"},
    )
    take = production.takes.get()
    assert answer.json() == {"next": f"/takes/{take.pk}/"}
    work_all()
    assert Soundtrack.objects.get(shot=shots[0]).is_read
    ((line,),) = placed(shots[0])
    assert line[0] == FIRST
    page = client.get(f"/takes/{take.pk}/").content.decode()
    assert "1 of the script&#x27;s 3 lines was found" in page
    assert "in 020 The counter" in page
    assert "for 020 The counter" in page
    assert "not in the script" in page
    assert THIRD in page
    again = FoundLine.objects.get(is_placed=False, shot=shots[0])
    assert client.post(f"/takes/{take.pk}/use/{again.pk}").status_code == 302
    ((line,),) = placed(shots[0])
    assert line[1] == again.start_us / 1e6


def test_no_piece_of_a_session_cuts_a_word(shots, production, client):
    sound, turns = sounds.conversation()
    samples = np.frombuffer(sound[44:], dtype="<i2").astype(float)
    loud = 10 ** (-40 / 20) * np.abs(samples).max()
    shot, other = shots
    (_, first, _), (_, second, _), (_, third, _) = sounds.CONVERSATION[:3]
    shot.words = f"ODALYS: {first}\nBRINDLE: {second}"
    shot.save()
    other.words = f"ODALYS: {third}"
    other.save()
    client.post(
        f"/productions/{production.pk}/drop",
        {
            "sound": SimpleUploadedFile("session.wav", sound),
            "into": "script",
            "character": shot.character.pk,
            "spoken": "",
        },
        headers={"Accept": "application/json"},
    )
    work_all()
    clips = [clip for one in shots for clip, _ in Soundtrack.objects.get(shot=one).content.voice_clips()]
    found = 0
    for _, start, end in turns[:3]:
        heard = np.flatnonzero(np.abs(samples[round(start * 16_000) : round(end * 16_000)]) > loud)
        first_us, last_us = ((round(start * 16_000) + at) * 1_000_000 // 16_000 for at in (heard[0], heard[-1]))
        # Somewhere all of it is played, with what it fades into.
        found += any(clip.in_us <= first_us and last_us <= clip.out_us for clip in clips)
    assert found == 3, [(clip.in_us, clip.out_us) for clip in clips]


def test_without_a_script_there_is_nothing_to_find(production, client, shot):
    take = Take.objects.create(production=production, name="session")
    page = client.get(f"/productions/{production.pk}/").content.decode()
    assert '<option value="script"' not in page
    assert "has no script yet" in client.post(f"/takes/{take.pk}/find", follow=True).content.decode()
