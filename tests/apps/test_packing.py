"""A production as one file, and back in another studio: everything is as it was."""

import io
import json
import wave
import zipfile
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command

from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.handover.packing import pack_production
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.handover.unpacking import unpack_production
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.actions import found_studio
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production
from tinfork.apps.reading.actions.layout import hang_background
from tinfork.apps.reading.actions.versions import keep_version
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.review.models import Decision
from tinfork.apps.review.remarks import add_remark, answer, key_of, remarks_document
from tinfork.core.errors import FormatError
from tinfork.core.formats.reading_json import of_scene
from tinfork.engines.characters import prepare_face


def quiet(phase, done):
    pass


@pytest.fixture
def rich(client, read_shot, chart, user):
    """The shot with a pin, a note, dials, a set on a stretch, a background, a version, and a pronunciation."""
    from PIL import Image

    pim = Image.new("RGB", (64, 36), "#2040c0")
    out = io.BytesIO()
    pim.save(out, "PNG")
    hang_background(shot=read_shot, key=keep_bytes(*prepare_face(out.getvalue(), "back.png")[:2]), by=user)
    client.post(f"/cast/charts/{chart.pk}/sets", {"name": "sad", "copy": "1"})
    sad = chart.part.charts.exclude(pk=chart.pk).get()
    who = str(read_shot.character.pk)
    stand = {"x": 0.3, "y": 0.6, "size": 0.7, "turn": 5, "mirrored": True, "depth": 2}
    for name, parameters in (
        ("pin", {"speaker": who, "first": 4, "last": 7, "drawing": 7}),
        ("note", {"frame": 3, "text": "look left"}),
        ("dials", {"speaker": who, "values": {"lead": 3}}),
        ("set", {"chart": sad.pk, "first": 10, "last": 20}),
        ("stand", {"speaker": who, **stand}),
    ):
        revision = type(read_shot.soundtrack).objects.get(shot=read_shot).revision
        body = {"revision": revision, "name": name, "parameters": parameters}
        answer = client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json")
        assert answer.status_code == 200, answer.json()
    client.post(
        f"/productions/{read_shot.production.pk}/pronunciations/set",
        {"word": "tram", "language": "en-us", "sounds": "t ɹ æ m"},
    )
    keep_version(shot=type(read_shot).objects.get(pk=read_shot.pk), name="first", by=user)
    return type(read_shot).objects.get(pk=read_shot.pk)


@pytest.fixture
def packed(rich, tmp_path):
    path = tmp_path / "p.production.zip"
    with path.open("wb") as out:
        pack_production(rich.production, out, quiet)
    return path


@pytest.fixture
def elsewhere(db):
    return found_studio(name="Elsewhere", owner=User.objects.create_user("brindle@tinfork.example", "tram"))


def told(shot):
    """All that a shot says and shows, without the numbers it is known by inside."""
    return json.loads(of_scene(scene_of(shot)))


def test_it_comes_back_in_another_studio_as_it_was(rich, packed, elsewhere):
    made = unpack_production(elsewhere, packed, None, quiet, lambda production: None)
    (shot,) = made.shots.all()
    assert made.studio == elsewhere and shot.character.studio == elsewhere and made.name == rich.production.name
    mine, theirs = told(rich), told(shot)
    # A studio has an Odalys of its own already.
    name = shot.character.name
    theirs = json.loads(json.dumps(theirs).replace(json.dumps(name), json.dumps(rich.character.name)))
    assert theirs == mine
    assert shot.soundtrack.content.notes == rich.soundtrack.content.notes
    assert [v.name for v in shot.soundtrack.versions.all()] == ["first"]
    assert shot.parts.get().dials == rich.parts.get().dials and shot.parts.get().stand == rich.parts.get().stand
    assert [(s.chart.name, s.start_us, s.end_us) for s in shot.set_stretches.all()] == [
        (s.chart.name, s.start_us, s.end_us) for s in rich.set_stretches.all()
    ]
    for was, now in zip(rich.production.takes.all(), made.takes.all(), strict=True):
        assert was.original.open().read() == now.original.open().read()
        assert (was.duration_us, was.words) == (now.duration_us, now.words)
    sounds_of = [list(p.pronunciations.values_list("word", "sounds")) for p in (rich.production, made)]
    assert sounds_of[0] == sounds_of[1] != []
    # It can be worked on at once, its version too.
    from tinfork.apps.reading.actions.versions import return_to

    return_to(shot=shot, version=shot.soundtrack.versions.get(), by=elsewhere.memberships.get().user)
    assert told(type(shot).objects.get(pk=shot.pk))["tracks"][0]["holds"] == mine["tracks"][0]["holds"]


def test_what_was_said_and_decided_comes_back(rich, elsewhere, tmp_path):
    open_one = add_remark(shot=rich, text="Wider.", name="Ms Kettle", frames=(4, 4))
    answer(to=open_one, text="Done.", name="odalys")
    settled = add_remark(shot=rich, text="Hold this.", name="Ms Kettle", frames=(9, 9))
    Soundtrack.objects.filter(shot=rich).update(settled=["another", key_of(settled)])
    row = Soundtrack.objects.get(shot=rich)
    Decision.objects.create(shot=rich, verdict="changes", name="Ms Kettle", revision=1)
    Decision.objects.create(
        shot=rich, verdict="approved", name="Ms Kettle", revision=row.revision, version=row.versions.get()
    )
    path = tmp_path / "said.zip"
    with path.open("wb") as out:
        pack_production(type(rich.production).objects.get(pk=rich.production.pk), out, quiet)
    (shot,) = unpack_production(elsewhere, path, None, quiet, lambda production: None).shots.all()
    said, told_there = remarks_document(rich), remarks_document(shot)
    assert [{**one, "id": 0, "shot": 0} for one in told_there] == [{**one, "id": 0, "shot": 0} for one in said]
    assert [one["settled"] for one in told_there] == [False, True]
    assert [(d.verdict, d.version and d.version.name) for d in shot.decisions.all()] == [
        ("approved", "first"),
        ("changes", None),
    ]
    # What was approved is what is there; what was not, is not.
    revision = Soundtrack.objects.get(shot=shot).revision
    assert [d.revision == revision for d in shot.decisions.all()] == [True, False]


def test_it_is_backed_up_and_restored_by_command(rich, elsewhere, tmp_path):
    out, said = tmp_path / "night.production.zip", io.StringIO()
    call_command("back_up", rich.production.name, "-o", str(out), stdout=said)
    assert said.getvalue().strip() == str(out)
    assert [path.name for path in tmp_path.iterdir()] == [out.name]
    call_command("restore", str(out), "--studio", elsewhere.name, stdout=io.StringIO())
    (made,) = Production.objects.filter(studio=elsewhere)
    (shot,) = made.shots.filter(name=rich.name)
    # That studio has characters of these names already.
    assert json.loads(json.dumps(told(shot)).replace("Odalys 2", "Odalys")) == told(rich)
    # Two studios have one of that name now.
    with pytest.raises(CommandError, match="Say whose"):
        call_command("back_up", rich.production.name, "-o", str(out))
    call_command("back_up", rich.production.name, "-o", str(out), "--studio", elsewhere.name, stdout=io.StringIO())


@pytest.mark.parametrize(
    ("command", "given", "says"),
    [
        ("back_up", ("Nowhere", "-o", "{tmp}/x.zip"), "no production"),
        ("back_up", ("{name}", "-o", "{tmp}/no/such/folder/x.zip"), "could not be written"),
        ("restore", ("{tmp}/gone.zip", "--studio", "Elsewhere"), "There is no file"),
        ("restore", ("{tmp}/bad.zip", "--studio", "Elsewhere"), "backup"),
        ("restore", ("{tmp}/bad.zip", "--studio", "Nowhere"), "no studio"),
    ],
)
def test_a_command_that_cannot_be_done_says_why_and_leaves_nothing(rich, elsewhere, tmp_path, command, given, says):
    (tmp_path / "bad.zip").write_bytes(b"PK\x03\x04 not whole")
    with pytest.raises(CommandError, match=says):
        call_command(command, *(one.format(tmp=tmp_path, name=rich.production.name) for one in given))
    assert [path.name for path in tmp_path.iterdir()] == ["bad.zip"]
    assert not Production.objects.filter(studio=elsewhere).exists()


def test_a_production_of_the_first_version_comes_in(elsewhere):
    sample = Path(__file__).parents[1] / "samples" / "tin-fork-production-1.zip"
    new = unpack_production(elsewhere, sample, None, quiet, lambda production: None)
    (shot,) = new.shots.all()
    # The studio has an Odalys of its own.
    assert (shot.name, [c.name for c in shot.characters]) == ("020 The counter", ["Odalys 2"])
    assert [note.text for note in shot.soundtrack.content.notes] == ["look left"]
    assert [pin.mouth.drawing for pin in shot.soundtrack.content.pins if pin.mouth] == [7]


def test_a_damaged_archive_makes_nothing(packed, elsewhere, tmp_path):
    data = packed.read_bytes()
    with zipfile.ZipFile(packed) as whole:
        rows = json.loads(whole.read("production.json"))
        members = {name: whole.read(name) for name in whole.namelist()}

    def archive(**changed):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as new:
            for name, content in (members | changed).items():
                if content is not None:
                    new.writestr(name, content)
        return out.getvalue()

    def described(change):
        other = json.loads(json.dumps(rows))
        change(other)
        return archive(**{"production.json": json.dumps(other).encode()})

    take = rows["takes"][0]["file"]
    wrong = [
        b"", b"PK", data[:-300], archive(**{"production.json": b"{}"}), archive(**{take: None}),
        archive(**{take: b"no sound"}), archive(**{rows["characters"][0]["file"]: b"PK"}),
        described(lambda r: r.update(version=9)), described(lambda r: r["shots"][0].pop("cast")),
        described(lambda r: r["shots"][0]["cast"][0].update(character=999_999)),
        described(lambda r: r["production"].update(rate="0/1")),
        described(lambda r: r["shots"][0]["soundtrack"]["document"]["clips"][0].update(take=999_999)),
        described(lambda r: r["production"].update(width=-4)),
    ]  # fmt: skip
    before = elsewhere.characters.count()
    for content in wrong:
        path = tmp_path / "wrong.zip"
        path.write_bytes(content)
        with pytest.raises(Exception) as caught:
            unpack_production(elsewhere, path, None, quiet, lambda production: None)
        assert type(caught.value).__module__ == FormatError.__module__, caught.value
        assert not Production.everything.filter(studio=elsewhere).exists()
        assert elsewhere.characters.count() == before


def test_a_person_packs_and_restores_by_the_pages(rich, client, do_jobs):
    production = rich.production
    assert client.post(f"/productions/{production.pk}/pack").status_code == 302
    job = do_jobs()
    assert job.state == "done", job.error
    page = client.get(f"/productions/{production.pk}/edit").content.decode()
    assert f"/jobs/{job.pk}/result" in page
    # What is done asks for nothing more: a page that did was loaded again without end.
    assert f'hx-get="/jobs/{job.pk}' not in page
    data = b"".join(client.get(f"/jobs/{job.pk}/result").streaming_content)
    client.post("/productions/unpack", {"packed": SimpleUploadedFile("p.production.zip", data)})
    assert do_jobs().state == "done"
    names = sorted(Production.objects.values_list("name", flat=True))
    assert names == [production.name, f"{production.name} 2"]
    refused = client.post("/productions/unpack", follow=True).content.decode()
    assert "Choose a production backup: .production.zip" in refused
    assert Job.objects.filter(kind="unpack").count() == 1


def test_without_a_database_a_shot_of_it_leaves_as_from_the_application(rich, packed):
    """The command line reads it: the same holds, the sound as long as its frames, the background to the byte."""
    import csv

    from tinfork.engines.handover.command import hand_over, open_scene

    with open_scene(packed, shot=rich.name) as scene:
        mine = scene_of(rich)
        assert scene.holds_by_name == mine.holds_by_name
        assert scene.figures[0].stand == mine.figures[0].stand
        assert (scene.frames, scene.name) == (mine.frames, rich.name)
        assert scene.ground.picture.data == mine.ground.picture.data
        with wave.open(str(scene.sound)) as sound:
            seconds = sound.getnframes() / sound.getframerate()
        assert abs(seconds - mine.frames / 24) < 0.001
    out = io.BytesIO()
    hand_over(packed, "csv", {}, out)
    assert len(list(csv.DictReader(io.StringIO(out.getvalue().decode())))) == mine.frames
    with pytest.raises(FormatError, match="It has: 020 The counter"):
        hand_over(packed, "csv", {}, io.BytesIO(), shot="no such shot")


def test_a_background_comes_back_to_the_byte_however_often(rich, packed, elsewhere):
    made = unpack_production(elsewhere, packed, None, quiet, lambda production: None)
    (shot,) = made.shots.all()
    assert shot.background.open().read() == rich.background.open().read()


def test_a_movie_says_the_version_and_whether_it_was_changed_since(rich, client):
    assert scene_of(rich).version == "first"
    body = {"speaker": str(rich.character.pk), "first": 30, "last": 31, "drawing": 3}
    revision = type(rich.soundtrack).objects.get(shot=rich).revision
    client.post(
        f"/shots/{rich.pk}/mouths",
        {"revision": revision, "name": "pin", "parameters": body},
        content_type="application/json",
    )
    assert scene_of(type(rich).objects.get(pk=rich.pk)).version == "first +"


def test_dials_alone_go_from_one_production_to_another(rich, client, studio):
    from tinfork.apps.produce.actions import start_production

    rich.production.presets = {"snappy": {"lead": 2}, "calm": {"shortest": 4}}
    rich.production.dials = {"lead": 5}
    rich.production.save()
    other = start_production(studio=studio, name="Night Shift", rate="25", size=(1280, 720))
    other.presets = {"snappy": {"lead": 1}}
    other.save()
    gone = client.get(f"/productions/{rich.production.pk}/dials.json")
    data = b"".join(gone.streaming_content)
    assert "attachment" in gone["Content-Disposition"]
    for _ in range(2):
        # What is there already is not kept twice.
        page = client.post(
            f"/productions/{other.pk}/dials/in", {"dials": SimpleUploadedFile("a.dials.json", data)}, follow=True
        ).content.decode()
        assert "calm, snappy 2, Default of" in page
    other.refresh_from_db()
    assert {name: values["lead"] for name, values in other.presets.items()}["snappy"] == 1
    assert other.presets["snappy 2"]["lead"] == 2 and other.presets["calm"]["shortest"] == 4
    assert other.presets[f"Default of {rich.production.name}"]["lead"] == 5
    assert len(other.presets) == 4 and other.dials == {}


def test_what_is_no_file_of_dials_changes_nothing(rich, client):
    for sent in (
        {},
        {"dials": SimpleUploadedFile("a.json", b"[1")},
        {"dials": SimpleUploadedFile("b.json", b"x" * 2**20 + b"x")},
    ):
        page = client.post(f"/productions/{rich.production.pk}/dials/in", sent, follow=True).content.decode()
        assert "presets file" in page
    rich.production.refresh_from_db()
    assert rich.production.presets == {}
