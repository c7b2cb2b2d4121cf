import csv
import io
import json
import zipfile

import pytest

from tinfork.apps.cast.actions.characters import add_part
from tinfork.apps.cast.actions.drawings import add_starter_drawings
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import named_reading, solve_character
from tinfork.core.formats import weights_json
from tinfork.core.formats.reading_json import reading_to_dict
from tinfork.core.mouths.style import Style
from tinfork.core.speech.visemes import VISEMES


def take_of(shot):
    return shot.soundtrack.takes.get()


def test_the_csv_has_a_row_for_every_frame_from_the_shots_first(read_shot, client):
    type(read_shot).objects.update(first_frame=101)
    answer = client.get(f"/shots/{read_shot.pk}/handover/csv")
    rows = list(csv.DictReader(io.StringIO(answer.getvalue().decode())))
    holds = solve_character(read_shot, read_shot.character, read_shot.soundtrack.reading)
    assert [int(r["frame"]) for r in rows] == list(range(101, 101 + holds[-1].end))
    assert answer["Content-Disposition"] == 'attachment; filename="Last Tram, First Loaf 020 The counter.csv"'


def test_the_json_is_the_reading_with_its_holds(read_shot, client):
    document = json.loads(client.get(f"/shots/{read_shot.pk}/handover/json").getvalue())
    assert document["tracks"][0]["character"] == "Odalys"
    assert document["lines"] == json.loads(json.dumps(reading_to_dict(named_reading(read_shot))["lines"]))
    assert document["lines"][0]["speaker"] == "Odalys"


def test_the_weights_have_a_row_for_every_frame_that_sums_to_one(read_shot, client):
    tracks = weights_json.read(client.get(f"/shots/{read_shot.pk}/handover/weights").getvalue())
    frames = read_shot.production.rate.frames_in(read_shot.soundtrack.duration_us)
    assert tracks["Odalys"].shape == (frames, 15)
    assert abs(tracks["Odalys"].sum(axis=1) - 1).max() < 1e-3


def test_a_file_is_made_by_a_job_and_the_newest_three_are_kept(read_shot, client, work):
    for _ in range(4):
        assert client.post(f"/shots/{read_shot.pk}/handover/make", {"as": "pictures"}).status_code == 302
        assert work().state == "done"
    newest, *older = Job.objects.filter(kind="export")
    assert [bool(job.result) for job in (newest, *older)] == [True, True, True, False]
    answer = client.get(f"/jobs/{newest.pk}/result")
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        frames = read_shot.production.rate.frames_in(read_shot.soundtrack.duration_us)
        assert len([n for n in archive.namelist() if n.endswith(".png")]) == frames
        assert archive.testzip() is None


def test_a_shot_that_is_not_read_has_nothing_to_hand_over(shot, client):
    assert client.get(f"/shots/{shot.pk}/handover/csv").status_code == 404


@pytest.mark.parametrize(
    ("header", "status", "length"),
    [
        ("bytes=0-99", 206, 100),
        ("bytes=-50", 206, 50),
        ("bytes=99999999-", 416, 0),
        ("bytes=x", 200, None),
        ("", 200, None),
    ],
)
def test_the_sound_is_served_with_ranges(read_shot, client, header, status, length):
    answer = client.get(f"/takes/{take_of(read_shot).pk}/sound", headers={"range": header} if header else {})
    body = b"".join(answer.streaming_content) if answer.streaming else answer.content
    assert answer.status_code == status
    assert answer["Accept-Ranges"] == "bytes"
    assert len(body) == (take_of(read_shot).listening.size if length is None else length)


def test_every_level_of_peaks_is_served_and_no_more(read_shot, client):
    sizes = [len(client.get(f"/takes/{take_of(read_shot).pk}/peaks/{n}").content) for n in range(5)]
    assert sizes == sorted(sizes, reverse=True)
    assert client.get(f"/takes/{take_of(read_shot).pk}/peaks/5").status_code == 404


def test_a_file_that_a_browser_has_is_not_sent_again(read_shot, client, stranger):
    address = f"/takes/{take_of(read_shot).pk}/sound"
    tag = client.get(address)["ETag"]
    assert client.get(address, headers={"if-none-match": tag}).status_code == 304
    assert stranger.get(address, headers={"if-none-match": tag}).status_code == 404


def test_an_address_with_its_content_is_kept_by_the_browser_and_by_strangers_not_read(chart, client, stranger):
    from tinfork.apps.cast.queries import drawing_document

    drawing = chart.drawings.first()
    address = drawing_document(drawing)["url"]
    assert "immutable" in client.get(address)["Cache-Control"]
    assert client.get(address)["Cache-Control"].startswith("private")
    # Of another content, or of none, the browser asks each time.
    for other in (address.split("?")[0], address[:-1] + ("0" if address[-1] != "0" else "1")):
        assert client.get(other)["Cache-Control"] == "private, no-cache"
    assert stranger.get(address).status_code == 404


@pytest.fixture
def by_hand(read_shot, client):
    """The shot with a pinned mouth on frames 20 to 25, no mouth on 30, eyes that blink on 10 and 11, and a note."""
    chart = add_part(read_shot.character, kind="eyes", name="Eyes")
    add_starter_drawings(chart, drawings=8, style=Style())
    mouth, eyes = str(read_shot.character.pk), f"-{chart.part.pk}"
    for name, parameters in (
        ("pin", {"speaker": mouth, "first": 20, "last": 25, "drawing": 7}),
        ("pin", {"speaker": mouth, "first": 30, "last": 30, "drawing": -1}),
        ("pin", {"speaker": eyes, "first": 10, "last": 11, "drawing": 3}),
        ("note", {"frame": 11, "text": "blinks here"}),
    ):
        body = {"revision": Soundtrack.objects.get(shot=read_shot).revision, "name": name, "parameters": parameters}
        answer = client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json")
        assert answer.status_code == 200
    return read_shot


def test_what_was_done_by_hand_is_in_every_file_that_leaves(by_hand, client, work):
    address = f"/shots/{by_hand.pk}"
    shown = by_hand.character.mouth.charts.get().drawings.get(number=7).content.viseme
    (weights,) = weights_json.read(client.get(f"{address}/handover/weights").getvalue()).values()
    assert (weights[20:26, VISEMES.index(shown)] == 1).all()
    assert weights[30, VISEMES.index("rest")] == 1
    rows = list(csv.DictReader(io.StringIO(client.get(f"{address}/handover/csv").getvalue().decode())))
    assert [row["drawing"] for row in rows[20:26]] == ["7"] * 6
    assert rows[30]["drawing"] == ""
    assert [row["Eyes"] for row in rows[9:13]] == ["1", "3", "3", "1"]
    assert rows[11]["note"] == "blinks here"
    told = json.loads(client.get(f"{address}/handover/json").getvalue())
    assert [(note["frame"], note["text"]) for note in told["notes"]] == [(11, "blinks here")]
    (eyes,) = (track["holds"] for track in told["tracks"] if track.get("part") == "Eyes")
    assert [(hold["start"], hold["drawing"]) for hold in eyes] == [(0, 1), (10, 3), (12, 1)]
    client.post(f"{address}/handover/make", {"as": "pictures", "options": "1", "o-of": "parts", "o-size": "320"})
    assert work().state == "done"
    answer = client.get(f"/jobs/{Job.objects.get(kind='export').pk}/result")
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        folders = {name.split("/")[0]: [] for name in archive.namelist() if "/" in name}
        assert sorted(folders) == ["Odalys-Eyes", "Odalys-Mouth"]
        eyes = [archive.read(name) for name in sorted(archive.namelist()) if "-Eyes/" in name]
    assert len(eyes) == by_hand.production.rate.frames_in(by_hand.soundtrack.duration_us)
    assert eyes[10] == eyes[11] != eyes[9] == eyes[12]


def made_of(shot):
    """What is stored for the shot's jobs."""
    return [job.result.name for job in Job.objects.filter(shot=shot, kind="export")]


def test_a_cancelled_movie_leaves_nothing(read_shot, client, do_jobs):
    client.post(f"/shots/{read_shot.pk}/handover/make", {"as": "movie"})
    Job.objects.filter(kind="export").update(cancel_asked=True)
    assert do_jobs().state == "cancelled"
    assert made_of(read_shot) == [""]


def test_a_full_disk_is_named_nothing_half_made_is_offered_and_it_is_done_again(
    read_shot, client, do_jobs, monkeypatch
):
    import errno

    from tinfork.apps.handover import work as making

    def full(path, suffix):
        raise OSError(errno.ENOSPC, "No space left on device")

    client.post(f"/shots/{read_shot.pk}/handover/make", {"as": "gif", "options": "1", "o-size": "320"})
    with monkeypatch.context() as patched:
        patched.setattr(making, "keep_file", full)
        job = do_jobs()
    assert (job.state, job.can_retry, made_of(read_shot)) == ("failed", True, [""])
    assert "Your files are kept: free some space, then try" in job.error
    client.post(f"/jobs/{job.pk}/again")
    assert do_jobs().state == "done"
    assert sorted(map(bool, made_of(read_shot))) == [False, True]


def test_options_are_remembered_by_the_production_and_under_names(read_shot, client):
    page = f"/shots/{read_shot.pk}/handover"
    sent = {"as": "gif", "options": "1", "o-format": "webp", "o-size": "320", "o-from": "3", "o-burn_word": "on"}
    client.post(f"{page}/make", {**sent, "do": "keep", "name": "for the director"})
    assert not Job.objects.filter(kind="export").exists()
    client.post(f"{page}/make", {"as": "gif", "options": "1", "o-format": "gif", "do": "keep"})
    usual = client.get(f"{page}?as=gif").content.decode()
    named = client.get(f"{page}?as=gif&preset=for+the+director").content.decode()
    assert '<option value="webp" selected>' not in usual and '<option value="webp" selected>' in named
    assert 'name="o-burn_word" checked' in named and 'name="o-burn_word" checked' not in usual
    # Which part of one shot was chosen is its own.
    assert 'name="o-from" class="form-control form-control-sm" value=""' in named
    wrong = client.post(f"{page}/make", {**sent, "o-size": "huge"}, follow=True).content.decode()
    assert "“size” must be one of" in wrong


def test_previews_say_what_one_gets_or_what_is_wrong(read_shot, client):
    page = f"/shots/{read_shot.pk}/handover/preview"
    for kind in ("movie", "sheet-pdf", "kit-pdf", "layers", "lottie"):
        assert 'src="data:image/png;base64,' in client.get(f"{page}?as={kind}").content.decode()
    for kind in ("csv", "json", "textgrid", "srt", "edl", "otio", "gltf", "weights-csv", "sheet-csv"):
        assert "<pre>" in client.get(f"{page}?as={kind}").content.decode(), kind
    assert "no option" not in client.get(f"{page}?as=csv&options=1&o-rows=holds").content.decode()
    assert "must be one of" in client.get(f"{page}?as=csv&options=1&o-rows=colours").content.decode()
    assert "There is no format called" in client.get(f"{page}?as=mowie").content.decode()


def test_a_new_shot_begins_with_the_layout_of_the_one_before(read_shot, client, production, brindle):
    from tinfork.apps.produce.actions import add_shot

    revision = Soundtrack.objects.get(shot=read_shot).revision
    stand = {"x": 0.2, "y": 0.7, "size": 0.5, "turn": 0, "mirrored": True, "depth": 1}
    body = {
        "revision": revision,
        "name": "stand",
        "parameters": {"speaker": str(read_shot.character.pk), **stand},
    }
    assert client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json").status_code == 200
    body = {"revision": revision + 1, "name": "ground", "parameters": {"colour": "#102030"}}
    assert client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json").status_code == 200
    new = add_shot(production=production, name="030", character=brindle, others=[read_shot.character])
    assert new.ground == "#102030"
    assert [part.stand for part in new.parts.all()] == [{}, stand]
    for wrong in ({"x": "left"}, {"size": 0}, {"turn": 1e9}, {"depth": 0.5}):
        parameters = {"speaker": str(read_shot.character.pk), **stand, **wrong}
        body = {"revision": revision + 2, "name": "stand", "parameters": parameters}
        answer = client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json")
        assert answer.status_code == 422


def test_a_sheet_on_paper_is_a_page_of_its_own_and_a_spreadsheet_is_kept(read_shot, client, work, stranger):
    for kind, is_shown in (("sheet-pdf", True), ("sheet-xlsx", False)):
        client.post(f"/shots/{read_shot.pk}/handover/make", {"as": kind, "do": "make"})
        job = work()
        assert job.state == "done", job.error
        address = f"/jobs/{job.pk}/result"
        assert client.get(address)["Content-Disposition"].startswith("attachment")
        seen = client.get(f"{address}?view=1")
        assert ("attachment" not in seen.get("Content-Disposition", "")) == is_shown
        page = client.get(f"/shots/{read_shot.pk}/handover?as={kind}").content.decode()
        assert (f"{address}?view=1" in page) == is_shown
        assert stranger.get(f"{address}?view=1").status_code == 404
