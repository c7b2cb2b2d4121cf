"""Characters: made, found, copied, archived, exported, removed; their parts and sets."""

import io
import re
import zipfile

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.apps.conftest import upload
from tests.apps.test_mouths import edit
from tests.pictures import encoded, mouths, on_ground
from tinfork.apps.cast.models import Character, Drawing
from tinfork.core.formats import character_zip

FACE = encoded(on_ground(mouths()[14]))


def page(client, address):
    answer = client.get(address)
    assert answer.status_code == 200
    return answer.content.decode()


def test_a_character_is_made_with_a_face_and_begins_with_an_empty_set(client, studio, do_jobs):
    answer = client.post("/cast/new", {"name": "Pim", "ink": 3, "face": upload("face.png", FACE)})
    assert do_jobs().state == "done"
    pim = studio.characters.get(name="Pim")
    assert answer["Location"] == f"/cast/{pim.pk}/"
    assert (pim.ink, pim.face_suffix, round(pim.face_aspect, 2)) == (3, ".jpg", 1.33)
    assert [c.name for c in pim.mouth.charts.all()] == ["calm"]
    assert "No drawings yet" in page(client, f"/cast/charts/{pim.mouth.charts.get().pk}/")
    assert client.get(f"/cast/{pim.pk}/face")["Content-Type"] == "image/jpeg"


def test_without_a_colour_one_that_few_have_is_taken_and_a_taken_name_gets_a_number(client, studio):
    for _ in range(2):
        client.post("/cast/new", {"name": "Odalys", "ink": 0})
    assert [c.name for c in studio.characters.all()] == ["Brindle", "Odalys", "Odalys 2", "Odalys 3"]
    assert len(set(studio.characters.values_list("ink", flat=True))) == 4


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"name": ""}, "required"),
        ({"name": "x" * 90}, "at most 80"),
        ({"name": "Pim", "ink": 9}, "valid choice"),
    ],
)
def test_a_character_that_cannot_be_made_says_why_and_makes_none(client, studio, fields, words):
    answer = client.post("/cast/new", fields)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert studio.characters.count() == 2


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"no picture", "is not a picture"),
        (b"<svg><script/></svg>", "how large"),
        (b'<svg width="1" height="20000" xmlns="http://www.w3.org/2000/svg"/>', "as long as it is wide"),
    ],
)
def test_a_face_that_cannot_be_shown_says_why_and_the_character_is_without(client, studio, do_jobs, data, words):
    client.post("/cast/new", {"name": "Pim", "ink": 0, "face": upload("face.png", data)})
    job = do_jobs()
    assert (job.state, job.can_retry) == ("failed", False)
    assert words in job.error
    pim = studio.characters.get(name="Pim")
    assert not pim.face
    assert words in page(client, f"/cast/{pim.pk}/edit")


def test_a_face_that_is_too_large_is_refused_at_once(client, studio, monkeypatch):
    monkeypatch.setattr("tinfork.apps.cast.forms.MAX_FACE_BYTES", 2**20)
    answer = client.post("/cast/new", {"name": "Pim", "ink": 0, "face": upload("face.png", b"x" * (2**20 + 1))})
    assert (answer.status_code, studio.characters.filter(name="Pim").exists()) == (422, False)
    assert "larger than 1 MB" in answer.content.decode()


@pytest.mark.parametrize("name", ["Пим", "烤炉", "فرن", "<b>Pim</b>", "Pim & Co"])
def test_names_in_any_alphabet_are_shown_escaped(client, studio, name):
    client.post("/cast/new", {"name": name, "ink": 1})
    shown = page(client, "/cast/")
    assert "<b>Pim" not in shown
    assert studio.characters.filter(name=name).exists()


def test_characters_are_found_by_name_and_archived_ones_are_listed_apart(client, character):
    assert "Brindle" not in page(client, "/cast/?q=oda")
    client.post(f"/cast/{character.pk}/archive")
    assert "Odalys" not in page(client, "/cast/")
    assert "Odalys" in page(client, "/cast/?archived=1")
    client.post(f"/cast/{character.pk}/archive")
    assert "Odalys" in page(client, "/cast/")


def test_the_cast_leads_to_the_set_that_a_character_begins_with(client, character, chart):
    for number in range(9):
        character.mouth.charts.create(name=f"mood {number}")
    # In whatever order the database comes upon them.
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL enable_sort = off; SET LOCAL enable_indexscan = off")
    links = re.findall(r'class="cast-card" href="(.*?)"', page(client, "/cast/?q=Odalys"))
    assert links == [f"/cast/charts/{character.mouth.charts.order_by('pk')[0].pk}/"]


def test_an_archived_character_is_no_choice_for_new_shots_but_stays_in_old_ones(client, shot, character):
    client.post(f"/cast/{character.pk}/archive")
    form = page(client, f"/productions/{shot.production.pk}/")
    assert f'value="{character.pk}"' not in form
    assert "020 The counter" in form


def test_two_hundred_characters_are_listed_in_a_few_queries(client, studio, character):
    from tinfork.apps.cast.actions.characters import duplicate_character

    for _ in range(198):
        duplicate_character(character)
    with CaptureQueriesContext(
        connection,
    ) as queries:
        shown = page(client, "/cast/")
    assert "200 characters" in shown
    assert shown.count("cast-card") == 60
    assert len(queries) < 20
    assert "Odalys 99" in page(client, "/cast/?page=4")


def test_a_copy_has_everything_and_changes_alone(client, character, chart):
    client.post(f"/cast/{character.pk}/duplicate")
    copy = Character.objects.get(name="Odalys 2")
    fields = ("number", "name", "key", "shows", "picture", "point_x")
    ours, theirs = (list(c.mouth.charts.get().drawings.values_list(*fields)) for c in (character, copy))
    assert ours == theirs
    copy.mouth.charts.get().drawings.all().delete()
    assert chart.drawings.count() == 14


def test_a_character_in_shots_is_kept_and_one_in_none_is_deleted(client, shot, character, studio):
    answer = client.post(f"/cast/{character.pk}/delete", follow=True)
    assert "is in 1 shots" in answer.content.decode()
    assert Character.objects.filter(pk=character.pk).exists()
    client.post(f"/cast/{studio.characters.get(name='Brindle').pk}/delete")
    assert [c.name for c in studio.characters.all()] == ["Odalys"]


def test_name_colour_and_face_are_changed(client, character, do_jobs):
    client.post(f"/cast/{character.pk}/edit", {"name": "Odalys the toad", "ink": 5, "face": upload("f.png", FACE)})
    do_jobs()
    character.refresh_from_db()
    assert (character.name, character.ink, character.face_suffix) == ("Odalys the toad", 5, ".jpg")
    client.post(f"/cast/{character.pk}/edit", {"name": "Odalys", "ink": 5, "drop_face": "on"})
    character.refresh_from_db()
    assert not character.face
    assert client.get(f"/cast/{character.pk}/face").status_code == 404
    answer = client.post(f"/cast/{character.pk}/edit", {"name": "brindle", "ink": 5})
    assert (answer.status_code, "already" in answer.content.decode()) == (422, True)


def test_a_character_survives_export_and_import(client, character, chart, studio, do_jobs):
    Drawing.objects.filter(chart=chart, number=3).update(offset_x=7, is_hidden=True, size=1, key="9")
    client.post(f"/cast/{character.pk}/parts", {"name": "Eyes", "kind": "eyes"})
    data = client.get(f"/cast/{character.pk}/export.zip").getvalue()
    packed = character_zip.read(data)
    client.post("/cast/import", {"archive": upload("Odalys.zip", data)})
    job = do_jobs()
    assert job.state == "done"
    twin = studio.characters.get(name="Odalys 2")
    assert client.get(f"/jobs/{job.pk}/?then=on")["HX-Redirect"] == f"/cast/{twin.pk}/"
    again = character_zip.read(client.get(f"/cast/{twin.pk}/export.zip").getvalue())
    assert again.parts[0].place == packed.parts[0].place
    assert [p.name for p in again.parts] == ["Mouth", "Eyes"]
    for before, after in zip(packed.parts[0].sets[0].drawings, again.parts[0].sets[0].drawings, strict=True):
        assert (before.drawing, before.key, before.hidden) == (after.drawing, after.key, after.hidden)
        assert (before.point, before.offset) == (after.point, after.offset)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.testzip() is None
        assert "character.json" in archive.namelist()


@pytest.mark.parametrize(("data", "words"), [(b"no zip", "not a whole ZIP"), (b"", "Choose the archive")])
def test_an_archive_that_is_none_says_so_and_makes_no_character(client, studio, do_jobs, data, words):
    answer = client.post("/cast/import", {"archive": upload("x.zip", data)} if data else {}, follow=True)
    if data:
        job = do_jobs()
        assert (job.state, job.can_retry) == ("failed", False)
        assert words in job.error
        assert words in page(client, "/cast/")
    else:
        assert words in answer.content.decode()
    assert studio.characters.count() == 2


def test_an_archive_cannot_bring_a_harmful_svg(client, studio, character, do_jobs):
    data = client.get(f"/cast/{character.pk}/export.zip").getvalue()
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as before, zipfile.ZipFile(out, "w") as after:
        for name in before.namelist():
            content = before.read(name)
            if name.endswith("001-rest.svg"):
                content = content.replace(b"</svg>", b"<script>alert(1)</script></svg>")
            after.writestr(name, content)
    client.post("/cast/import", {"archive": upload("Evil.zip", out.getvalue())})
    assert do_jobs().state == "done"
    twin = studio.characters.get(name="Evil")
    drawing = twin.parts.get(kind="mouth").charts.get().drawings.get(number=1)
    assert b"script" not in drawing.picture.read()


def test_parts_are_added_and_removed_but_the_mouth_stays(client, character):
    for name, kind in (("Eyes", "eyes"), ("Left hand", "other")):
        assert client.post(f"/cast/{character.pk}/parts", {"name": name, "kind": kind}).status_code == 302
    eyes = character.parts.get(name="Eyes")
    shown = page(client, f"/cast/charts/{eyes.charts.get().pk}/")
    assert "Starter chart" not in shown
    assert "pool" not in shown
    for fields in (
        {"name": "Eyes", "kind": "eyes"},
        {"name": "Mouth 2", "kind": "mouth"},
        {"name": "", "kind": "eyes"},
    ):
        client.post(f"/cast/{character.pk}/parts", fields)
    client.post(f"/cast/parts/{eyes.pk}/delete")
    answer = client.post(f"/cast/parts/{character.mouth.pk}/delete", follow=True)
    assert "The mouth cannot be removed" in answer.content.decode()
    assert [p.name for p in character.parts.all()] == ["Mouth", "Left hand"]


def test_sets_are_copied_renamed_and_removed(client, character, chart):
    client.post(f"/cast/charts/{chart.pk}/sets", {"name": "glad", "copy": "on"})
    client.post(f"/cast/charts/{chart.pk}/sets", {"name": "profile left"})
    calm, glad, profile = character.mouth.charts.all()
    assert [c.drawings.count() for c in (calm, glad, profile)] == [14, 14, 0]
    client.post(f"/cast/charts/{glad.pk}/rename", {"name": "merry"})
    for name in ("MERRY", "", "x" * 99):
        client.post(f"/cast/charts/{profile.pk}/rename", {"name": name})
    client.post(f"/cast/charts/{profile.pk}/delete")
    assert [c.name for c in character.mouth.charts.all()] == ["calm", "merry"]


def test_the_last_set_and_the_one_that_shots_begin_with_stay(client, blank, shot, chart):
    assert (
        "A part needs at least one set" in client.post(f"/cast/charts/{blank.pk}/delete", follow=True).content.decode()
    )
    client.post(f"/cast/charts/{chart.pk}/sets", {"name": "glad", "copy": "on"})
    assert (
        "It cannot be removed while shots use the"
        in client.post(f"/cast/charts/{chart.pk}/delete", follow=True).content.decode()
    )


@pytest.fixture
def glad(client, chart):
    client.post(f"/cast/charts/{chart.pk}/sets", {"name": "glad", "copy": "on"})
    return chart.part.charts.get(name="glad")


def holds(shot):
    from tinfork.apps.reading.solving import solve_character

    fresh = type(shot).objects.get(pk=shot.pk)
    return solve_character(fresh, fresh.character, fresh.soundtrack.reading)


def test_a_stretch_of_a_shot_moves_to_another_set_and_back_with_the_timing_kept(client, read_shot, chart, glad):
    before = holds(read_shot)
    edit(client, read_shot, "set", chart=glad.pk, first=10, last=29)
    moved = holds(read_shot)
    assert {h.set for h in moved if h.start >= 10 and h.end <= 30} == {"glad"}
    assert {h.start for h in before} <= {h.start for h in moved} | {10, 30}
    edit(client, read_shot, "set", chart=chart.pk, first=14, last=19)
    assert [(s.start_us, s.end_us) for s in read_shot.set_stretches.all()] == [
        (416_667, 583_334),
        (833_334, 1_250_000),
    ]
    rows = client.get(f"/shots/{read_shot.pk}/handover/csv").getvalue().decode().splitlines()
    assert [row.split(",")[3] for row in rows[10:17]] == ["", "glad", "glad", "glad", "glad", "", ""]
    edit(client, read_shot, "set", chart=chart.pk, first=0, last=39)
    assert holds(read_shot) == before


def test_versions_and_undo_bring_back_sets_and_dials(client, read_shot, chart, glad):
    who = str(read_shot.character.pk)
    edit(client, read_shot, "set", chart=glad.pk, first=10, last=29)
    edit(client, read_shot, "dials", speaker=who, values={"lead": 3})
    then = holds(read_shot)
    address = f"/shots/{read_shot.pk}/versions"
    (kept,) = client.post(address, {"name": "glad in the middle"}).json()["versions"]
    one = f"{address}/{kept['id']}"
    edit(client, read_shot, "set", chart=chart.pk, first=0, last=39)
    edit(client, read_shot, "dials", speaker=who, usual=True)
    edit(client, read_shot, "gap", frame=0, frames=24)
    now = holds(read_shot)
    assert {hold.set for hold in now} == {""}
    compared = client.get(one).json()["characters"][who]
    assert [h["start"] for h in compared["holds"]] == [h.start for h in then]
    assert compared["differs"]
    assert holds(read_shot) == now
    assert client.post(one, {"what": "return"}).status_code == 200
    assert holds(read_shot) == then
    edit(client, read_shot, "undo")
    assert holds(read_shot) == now
    edit(client, read_shot, "redo")
    assert holds(read_shot) == then


def test_a_set_that_a_shot_shows_is_kept(client, read_shot, glad):
    edit(client, read_shot, "set", chart=glad.pk, first=0, last=8)
    assert (
        "Remove it from their frames first"
        in client.post(f"/cast/charts/{glad.pk}/delete", follow=True).content.decode()
    )


OUTSIDE = [{"first": -1, "last": 5}, {"first": 9, "last": 5}, {"first": 1, "last": 99999}, {"first": "x", "last": 2}]


@pytest.mark.parametrize("fields", OUTSIDE)
def test_frames_outside_the_shot_are_refused(client, read_shot, glad, fields):
    answer = edit(client, read_shot, "set", chart=glad.pk, **fields)
    assert answer.status_code == 422
    assert not read_shot.set_stretches.exists()
    assert answer.json()["error"]


def test_another_characters_set_and_a_silent_one_are_refused(client, read_shot, blank, chart, studio):
    client.post(f"/cast/charts/{chart.pk}/sets", {"name": "empty"})
    empty = chart.part.charts.get(name="empty")
    for wrong in (blank, empty):
        assert edit(client, read_shot, "set", chart=wrong.pk, first=0, last=4).status_code == 422
    assert not read_shot.set_stretches.exists()


def test_a_shot_whose_chart_shows_no_sounds_says_what_to_do(client, read_shot, chart):
    chart.drawings.update(shows=[])
    answer = client.get(f"/shots/{read_shot.pk}/desk")
    assert answer.status_code == 422
    assert "assign sounds to them" in answer.content.decode()


def test_pictures_are_stale_once_a_drawing_or_its_place_changes(client, read_shot, work, chart):
    client.post(f"/shots/{read_shot.pk}/handover/make", {"as": "pictures"})
    assert work().state == "done"
    from tinfork.apps.handover.looks import look_of

    before = look_of(read_shot)
    client.post(f"/cast/parts/{chart.part_id}/place", {"x": 0.4, "y": 0.6, "width": 0.3, "angle": 5})
    after = look_of(type(read_shot).objects.get(pk=read_shot.pk))
    assert before != after
