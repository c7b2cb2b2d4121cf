"""Bringing a script: what is understood, who is who, where the lines go."""

import pytest

from tests import sounds
from tests.apps.conftest import upload
from tinfork.apps.cast.models import Character
from tinfork.apps.produce.models import Shot
from tinfork.core.script import MAX_BYTES

SCRIPT = """# 020 The counter
ODALYS: The last tram leaves before midnight.
MAYOR: Who stole my bread?
# 030 The oven
PIM (es): Está listo.
BRINDLE: [yawns] Good night."""


def look(client, production, **fields):
    return client.post(f"/productions/{production.pk}/script/preview", fields)


def lay(client, production, **fields):
    return client.post(f"/productions/{production.pk}/script/apply", fields)


def test_a_pasted_script_is_shown_with_names_to_be_told(client, production):
    page = look(client, production, words=SCRIPT).content.decode()
    assert "4 lines · 2 shots" in page
    assert "Unknown names" in page
    assert page.count('<select id="name-') == 2
    assert not Shot.objects.exists()


def test_lines_go_to_their_shots_and_characters_are_made_or_matched(client, production, shot):
    brindle = Character.objects.get(name="Brindle", studio=production.studio)
    answer = lay(client, production, words=SCRIPT, **{"name-0": "make", "name-1": str(brindle.pk)})
    assert answer.status_code == 302
    counter, oven = Shot.objects.order_by("name")
    assert counter == shot
    assert counter.words == "Odalys: The last tram leaves before midnight.\nMayor: Who stole my bread?"
    assert [c.name for c in counter.characters] == ["Odalys", "Mayor"]
    assert oven.words == "Brindle (es): Está listo.\nBrindle: [yawns] Good night."
    assert [c.name for c in oven.characters] == ["Brindle"]
    assert Character.objects.get(name="Mayor").mouth.charts.get().drawings.count() == 14


def test_a_name_that_is_none_is_said(client, production):
    lay(client, production, words="# 010\nODALYS: Hm.\nNOTICE: closed", **{"name-0": "none"})
    assert Shot.objects.get().words == "Odalys: Hm.\nNOTICE: closed"


def test_lines_without_a_shot_go_where_they_are_told(client, production, shot):
    lay(client, production, words="ODALYS: Hello.", shot=str(shot.pk))
    lay(client, production, words="ODALYS: Good night.", new_name="040 The end")
    assert [(s.name, s.words) for s in Shot.objects.order_by("name")] == [
        ("020 The counter", "Odalys: Hello."),
        ("040 The end", "Odalys: Good night."),
    ]


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("script.fountain", "INT. BAKERY - NIGHT\n\nODALYS\nThe last tram leaves.\n"),
        ("script.srt", "1\n00:00:01,000 --> 00:00:02,000\nODALYS: The last tram leaves.\n"),
        ("script.vtt", "WEBVTT\n\n00:01.000 --> 00:02.000\n<v Odalys>The last tram leaves.\n"),
        ("script.csv", "character,line\nOdalys,The last tram leaves.\n"),
        ("script.txt", "Odalys: The last tram leaves."),
    ],
)
def test_script_files_of_every_form_are_understood(client, production, name, data):
    page = look(client, production, file=upload(name, data.encode())).content.decode()
    assert "The last tram leaves." in page
    assert '<span class="ink ink-1"></span>Odalys' in page


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "Paste the script, or choose its file"),
        (sounds.png_bytes(), "not a text file"),
        (b"x" * (MAX_BYTES + 1), "larger than 2 MB"),
        ("…\n[sighs]".encode(), "Write one phrase per line, as NAME: dialogue"),
    ],
    ids=["empty", "png", "huge", "silent"],
)
def test_what_is_no_script_is_said_and_what_was_typed_stays(client, production, data, message):
    answer = look(client, production, words="my words", file=upload("x.txt", data))
    assert answer.status_code == 422
    page = answer.content.decode()
    assert message in page
    assert "my words" in page


def test_a_file_that_is_not_utf_8_is_read_with_a_warning(client, production):
    page = look(client, production, file=upload("x.txt", "ODALYS: Está listo.".encode("cp1252"))).content.decode()
    assert "Está listo." in page
    assert "Check the accents" in page


def test_a_character_of_another_studio_cannot_be_taken(client, production, stranger):
    foreign = Character.objects.exclude(studio=production.studio).first()
    answer = lay(client, production, words="MAYOR: Hello.", **{"name-0": str(foreign.pk)})
    assert answer.status_code == 422
    assert not Shot.objects.exists()


def test_words_of_a_script_cannot_become_markup(client, production):
    page = look(client, production, words="ODALYS: <script>alert(1)</script>").content.decode()
    assert "<script>alert(1)" not in page


def test_more_new_names_than_a_script_has_are_refused(client, production):
    words = "".join(f"PERSON {n}: hello\n" for n in range(20_000))
    answer = look(client, production, words=words)
    assert answer.status_code == 422
    assert "20000 names of speakers are new" in answer.content.decode()
    assert production.studio.characters.count() == 2


def test_a_long_script_is_laid_by_a_job(client, production, do_jobs):
    words = "".join(f"# {n:03d} shot\nODALYS: line {n}\n" for n in range(60))
    answer = client.post(f"/productions/{production.pk}/script/apply", {"words": words})
    assert answer["Location"] == f"/productions/{production.pk}/script"
    assert not production.shots.exists()
    assert "Importing the script" in client.get(answer["Location"]).content.decode()
    job = do_jobs()
    assert job.state == "done"
    assert job.notes == ["60 lines were imported into 60 shots."]
    assert production.shots.get(name="007 shot").words == "Odalys: line 7"
    assert client.get(f"/jobs/{job.pk}/?then=on")["HX-Redirect"] == f"/productions/{production.pk}/"


def test_a_long_script_that_is_cancelled_leaves_nothing(client, production, do_jobs):
    words = "".join(f"# {n:03d} shot\nODALYS: line {n}\n" for n in range(60))
    client.post(f"/productions/{production.pk}/script/apply", {"words": words})
    from tinfork.apps.jobs.models import Job

    Job.objects.update(cancel_asked=True)
    assert do_jobs().state == "cancelled"
    assert not production.shots.exists()
