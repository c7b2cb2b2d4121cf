"""Pronunciations of a production: listed, heard, corrected, and applied where the word is said."""

import base64

import pytest

from tests import sounds
from tinfork.apps.jobs.models import Job
from tinfork.apps.pronounce.models import Pronunciation
from tinfork.apps.reading.models import Edit, Soundtrack


def page(client, production, find=""):
    return client.get(f"/productions/{production.pk}/pronunciations", {"find": find} if find else {})


def keep(client, production, word, heard, language="en-us", **more):
    fields = {"language": language, "word": word, "sounds": heard, **more}
    return client.post(f"/productions/{production.pk}/pronunciations/set", fields, follow=True)


def say(client, production, heard, language="en-us"):
    fields = {"language": language, "word": "x", "sounds": heard}
    return client.post(f"/productions/{production.pk}/pronunciations/say", fields)


@pytest.fixture
def written(shot):
    shot.words = "Zorbelquint bakes bread. Zorbelquint, zorbelquint!\nOdalys (es): El pan."
    shot.save()
    return shot


def test_words_that_no_dictionary_has_are_listed_with_their_uses(client, production, written):
    rows = page(client, production).context["rows"]
    assert [(r.written, r.language, r.uses, r.shots, r.is_unknown) for r in rows] == [
        ("Zorbelquint", "en-us", 3, 1, True)
    ]
    assert rows[0].usual


def test_any_word_is_found_by_its_first_letters(client, production, written):
    assert [r.written for r in page(client, production, "ba").context["rows"]] == ["bakes"]
    assert [r.written for r in page(client, production, "pa").context["rows"]] == ["pan"]
    assert b"No word in the scripts starts with that" in page(client, production, "zz").content


def test_a_correction_is_kept_as_sounds_whatever_it_was_typed_in(client, production, written):
    keep(client, production, "Zorbelquint", "Z AO1 R B AX L K W IH N T")
    kept = Pronunciation.objects.get()
    assert (kept.language, kept.word, kept.sounds) == ("en", "zorbelquint", "z ˈɔ ɹ b ə l k w ɪ n t")
    (row,) = page(client, production).context["rows"]
    assert row.own == kept.symbols
    keep(client, production, "zorbelquint", "")
    assert not Pronunciation.objects.exists()


def test_what_is_no_pronunciation_is_refused_in_words(client, production, written):
    answer = keep(client, production, "Zorbelquint", "Zürich")
    assert "Pick sounds from the list, or correct it" in answer.content.decode()
    assert not Pronunciation.objects.exists()
    assert keep(client, production, "", "a").status_code == 200
    assert not Pronunciation.objects.exists()


def test_sounds_are_heard_and_bad_ones_are_said(client, production):
    answer = say(client, production, "tɹæm")
    assert base64.b64decode(answer.json()["sound"])[:4] == b"RIFF"
    assert say(client, production, "t!ɹ").status_code == 422
    assert say(client, production, "a", "xx-none").status_code == 422
    assert say(client, production, "").status_code == 422


def test_a_correction_reads_only_the_lines_that_say_the_word(client, production, read_shot, work):
    first = list(read_shot.soundtrack.reading.phonemes())
    answer = keep(client, production, "tram", "tɹum")
    assert "in 1 shot are being re-read" in answer.content.decode()
    assert Job.objects.filter(state="waiting").count() == 1
    assert work().state == "done"
    after = Soundtrack.objects.get(shot=read_shot).reading
    said = {w.text: [p.ipa for p in w.phonemes] for w in after.words()}
    assert said["tram"] == ["t", "ɹ", "u", "m"]
    others = [p for w in after.words() if w.text not in ("tram", "last", "leaves") for p in w.phonemes]
    known = {p.start_us for p in first}
    assert sum(any(abs(p.start_us - k) < 45_000 for k in known) for p in others) > 0.9 * len(others)
    keep(client, production, "tram", "")
    assert work().state == "done"
    said = {w.text: [p.ipa for p in w.phonemes] for w in Soundtrack.objects.get(shot=read_shot).reading.words()}
    assert said["tram"] != ["t", "ɹ", "u", "m"]


def test_a_word_that_no_shot_says_starts_nothing(client, production, read_shot):
    before = Job.objects.count()
    keep(client, production, "marmalade", "mɑm")
    assert Job.objects.count() == before


def test_two_corrections_wait_as_one_reading(client, production, read_shot):
    keep(client, production, "tram", "tɹum")
    keep(client, production, "depot", "dɛpo")
    (job,) = Job.objects.filter(state="waiting")
    assert job.options["again"] == [["en", "tram"], ["en", "depot"]]


def test_nobody_else_may_hear_or_change(stranger, viewer, production):
    assert page(stranger, production).status_code == 404
    assert say(stranger, production, "a").status_code == 404
    assert page(viewer, production).status_code == 200
    assert viewer.post(f"/productions/{production.pk}/pronunciations/set", {}).status_code == 403


@pytest.mark.parametrize(("way", "kind"), [("ear", "by ear, no words"), ("flap", "flap")])
def test_a_shot_is_read_without_words(start_read, work, shot, way, kind):
    assert start_read(words="", given={"way": way}).status_code == 302
    assert work().state == "done"
    reading = Soundtrack.objects.get(shot=shot).reading
    assert {line.method for line in reading.lines} == {kind}
    assert {line.speaker for line in reading.lines} == {str(shot.character.pk)}
    assert len(list(reading.phonemes())) > 8
    assert Edit.objects.count() >= 1


def test_words_that_nobody_typed_are_heard_and_read(start_read, work, client, shot):
    assert start_read(words="", given={"way": "heard"}).status_code == 302
    assert work().state == "done"
    shot.refresh_from_db()
    # A machine's voice: most of it is understood.
    assert len({*shot.words.lower().split()} & {*sounds.SENTENCE.lower().split()}) > len(sounds.SENTENCE.split()) / 2
    assert shot.language == "en-us"
    reading = Soundtrack.objects.get(shot=shot).reading
    assert [word.text for word in reading.words()] == shot.words.rstrip(".").split()
    assert {line.speaker for line in reading.lines} == {str(shot.character.pk)}
    # Read with its words, nothing has changed: what was heard is what would be typed.
    start_read(words=shot.words)
    assert work().notes == ["Re-read: nothing changed."]


def test_words_that_were_just_typed_are_not_heard_over(start_read, work, shot):
    start_read(words=sounds.SENTENCE, given={"way": "heard"})
    assert work().options["way"] == "words"


def test_without_a_model_nothing_is_heard_and_the_page_says_so(start_read, shot, monkeypatch, tmp_path):
    monkeypatch.setenv("TINFORK_WORDS_MODEL", str(tmp_path))
    answer = start_read(words="", given={"way": "heard"})
    assert answer.status_code == 422
    assert "The model that hears words is missing" in answer.content.decode()


def test_words_may_be_typed_after_reading_by_ear(start_read, work, shot):
    start_read(words="", given={"way": "ear"})
    work()
    assert start_read("none").status_code == 302
    assert work().state == "done"
    words = [w.text for w in Soundtrack.objects.get(shot=shot).reading.words()]
    assert words == sounds.SENTENCE.rstrip(".").split()
