"""A chart's drawings and sounds: uploaded, cut, laid, proposed, ordered, placed."""

import io
import json
import threading

import pytest
from PIL import Image

from tests.apps.charts import PICTURES, checked, fourteen, on_face, said, upload_files
from tests.apps.conftest import files, upload
from tests.pictures import encoded, huge_png, mouths, page, pixels_of
from tinfork.apps.cast.models import Drawing, Page
from tinfork.apps.jobs.models import Job
from tinfork.core.mouths.starter import starter_pictures


def test_many_files_become_drawings_in_counting_order(client, blank, finish):
    upload_files(client, blank, [(f"m{n}.png", encoded(PICTURES[n])) for n in (10, 2, 1)])
    job = finish(blank)
    assert (job.state, job.notes) == ("done", [])
    assert [(d.number, d.name, d.key) for d in blank.drawings.all()] == [
        (1, "m1", "a"),
        (2, "m2", "s"),
        (10, "m10", "d"),
    ]
    assert {d.canvas_width for d in blank.drawings.all()} == {400}
    drawing = blank.drawings.get(number=10)
    assert (drawing.width, drawing.height, drawing.point_x, drawing.point_y) == (400, 300, 200, 150)
    assert drawing.measured.line == pytest.approx(8, abs=0.8)


def test_a_job_that_is_run_again_after_it_kept_its_drawings_adds_none(client, uploaded):
    from tinfork.apps.jobs.tasks import do_job

    job = Job.objects.get(kind="drawings")
    Job.objects.filter(pk=job.pk).update(state="running")
    do_job(str(job.pk))
    job.refresh_from_db()
    assert job.state == "done"
    assert uploaded.drawings.count() == 14


def test_uploads_as_they_came_are_let_go_of(client, uploaded, sweep):
    from django.core.files.storage import storages

    job = Job.objects.get(kind="drawings")
    sweep()
    assert not any(storages["default"].exists(f["key"]) for f in job.options["files"])


def test_names_with_raised_and_foreign_digits_come_in(client, blank, finish):
    named = ["²", "рот ٣", "口 10", "口 2"]
    upload_files(client, blank, [(f"{name}.png", encoded(PICTURES[at + 1])) for at, name in enumerate(named)])
    assert finish(blank).state == "done"
    assert blank.drawings.count() == 4
    assert {3, 2, 10} <= {d.number for d in blank.drawings.all()}


def test_one_file_brought_twice_at_once_comes_in_twice(client, blank, chart, finish):
    for one in (blank, chart):
        upload_files(client, one, [("30.png", encoded(PICTURES[14]))])
    assert finish(blank).state == "done"
    assert finish(chart).state == "done"
    assert blank.drawings.count() == 1
    assert chart.drawings.filter(number=30).exists()


def test_one_bad_file_is_named_and_the_rest_comes_in(client, blank, finish):
    upload_files(client, blank, [("good.png", encoded(PICTURES[1])), ("bad.png", b"nothing"), ("huge.png", huge_png())])
    job = finish(blank)
    assert job.state == "done"
    assert blank.drawings.count() == 1
    assert len(job.notes) == 2
    shown = said(client.get(f"/cast/charts/{blank.pk}/"))
    assert "“bad.png” is not a picture" in shown
    assert "more than 36 million" in shown


def test_only_bad_files_fail_and_change_nothing(client, blank, finish):
    upload_files(
        client, blank, [("evil.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'><image/></svg>")]
    )
    job = finish(blank)
    assert job.state == "failed"
    assert "“evil.svg” has a picture inside it" in job.error
    assert not blank.drawings.exists()


def test_five_hundred_files_at_once_are_refused_before_anything_is_kept(client, blank):
    answer = client.post(
        f"/cast/charts/{blank.pk}/drawings",
        {"files": files(*[(f"{n}.png", b"x") for n in range(500)])},
        HTTP_ACCEPT="application/json",
    )
    assert answer.status_code == 422
    assert "500 files; the limit is 200" in answer.json()["error"]
    assert not Job.objects.exists()


def test_a_chart_that_would_grow_too_large_takes_nothing(client, chart, finish, monkeypatch):
    from tinfork.apps.cast.actions import drawings as actions

    monkeypatch.setattr(actions, "MAX_DRAWINGS", 15)
    upload_files(client, chart, fourteen()[:3])
    job = finish(chart)
    assert "up to 15 drawings; this would make 17" in job.error
    assert chart.drawings.count() == 14


def test_nothing_chosen_is_said_to_be_nothing(client, blank):
    answer = client.post(f"/cast/charts/{blank.pk}/drawings", {}, follow=True)
    assert "Choose the drawings" in said(answer)


def test_drawings_brought_back_by_number_take_their_places_and_keep_the_rest(client, chart, finish):
    Drawing.objects.filter(chart=chart, number=14).update(name="shouting", key="9", offset_x=5)
    larger = encoded(pixels_of(encoded(PICTURES[12])).repeat(2, axis=0).repeat(2, axis=1))
    upload_files(client, chart, [("14-wide-open.png", larger), ("77 new.png", encoded(PICTURES[1]))], mode="replace")
    job = finish(chart)
    assert job.notes == ["Replaced drawings: 1. Added, with new numbers: 1."]
    drawing = chart.drawings.get(number=14)
    assert (drawing.name, drawing.key, drawing.shows) == ("shouting", "9", ["open"])
    assert (drawing.width, drawing.point_x, drawing.offset_x, drawing.canvas_width) == (800, 400, 10, 800)
    assert chart.drawings.get(number=77).name == "new"


def test_the_starter_drawn_over_at_four_times_the_size_stays_where_it_was_on_the_face(client, chart, finish):
    client.get(f"/cast/charts/{chart.pk}/")
    finish(chart)
    before = on_face(chart)
    large = mouths(None, 14, 1600)
    upload_files(client, chart, [(f"{n:02d}-redrawn.png", encoded(p)) for n, p in large.items()], mode="replace")
    assert finish(chart).state == "done"
    assert {d.width for d in chart.drawings.all()} == {1600}
    for number, place in on_face(chart).items():
        assert place == pytest.approx(before[number], abs=2.5), number
    assert checked(client, chart) == []


def test_a_new_drawing_of_the_same_frame_is_as_large_as_the_others(client, chart, finish):
    client.get(f"/cast/charts/{chart.pk}/")
    upload_files(client, chart, [("20 again.png", encoded(mouths(None, 14, 1200)[14]))])
    assert finish(chart).state == "done"
    place = on_face(chart)
    assert place[20] == pytest.approx(place[14], abs=2.5)


def test_one_drawing_is_replaced_whatever_the_file_is_called(client, chart, finish):
    drawing = chart.drawings.get(number=5)
    client.post(f"/cast/drawings/{drawing.pk}/replace", {"picture": upload("99 other.png", encoded(PICTURES[14]))})
    assert finish(chart).state == "done"
    drawing.refresh_from_db()
    assert (drawing.number, drawing.shows, drawing.suffix) == (5, ["alveolar", "velar"], ".png")
    assert chart.drawings.count() == 14


def test_drawings_drawn_here_are_measured_once_by_a_job(client, chart, finish):
    for _ in range(2):
        client.get(f"/cast/charts/{chart.pk}/")
    assert Job.objects.filter(kind="measure").count() == 1
    assert finish(chart).state == "done"
    assert all(d.thumb and d.measured for d in chart.drawings.all())
    client.get(f"/cast/charts/{chart.pk}/")
    assert Job.objects.filter(kind="measure").count() == 1


def lay(client, chart, **fields):
    return client.post(f"/cast/charts/{chart.pk}/sounds", {"claim": "", "on": "", "off": ""} | fields)


def test_sounds_are_laid_moved_and_taken_off(client, chart):
    one, two = chart.drawings.get(number=2), chart.drawings.get(number=3)
    answer = lay(client, chart, claim="m", on=two.pk)
    assert answer.status_code == 200
    assert f'id="on-{two.pk}-m"' in said(answer)
    two.refresh_from_db()
    assert two.shows == ["labiodental", "m"]
    lay(client, chart, claim="m", on=one.pk, off=two.pk)
    lay(client, chart, claim="labiodental", off=two.pk)
    one.refresh_from_db()
    two.refresh_from_db()
    assert (one.shows, two.shows) == (["bilabial", "m"], [])
    board = said(lay(client, chart, claim="m", off=one.pk))
    assert "14 of 15 sound groups have a drawing" in board
    assert "≈ f v" in board
    assert "Only by hand" in board


def test_laying_twice_lays_once(client, chart):
    drawing = chart.drawings.get(number=1)
    for _ in range(2):
        lay(client, chart, claim="ʃ", on=drawing.pk)
    drawing.refresh_from_db()
    assert drawing.shows == ["rest", "ʃ"]


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"claim": "quack", "on": "1"}, "not a sound"),
        ({"claim": "m", "on": "x"}, "That drawing does not exist"),
        ({"claim": "m", "on": "999999"}, "removed meanwhile"),
    ],
)
def test_nonsense_is_refused_with_the_board_as_it_is(client, chart, fields, words):
    answer = lay(client, chart, **fields)
    assert answer.status_code == 422
    assert words in said(answer)
    assert 'id="board"' in said(answer)


def test_a_drawing_of_another_chart_is_out_of_reach(client, chart, blank):
    foreign = chart.drawings.first()
    assert lay(client, blank, claim="m", on=foreign.pk).status_code == 422
    foreign.refresh_from_db()
    assert "m" not in foreign.shows


@pytest.mark.django_db(transaction=True)
def test_two_people_laying_sounds_at_once_lose_none(studio, chart):
    from django.db import connection

    from tinfork.apps.cast.actions.charts import lay_sound

    drawing = chart.drawings.get(number=14)
    sounds = ["p", "t", "k", "s", "l", "w", "j", "h"]

    def work(sound):
        lay_sound(chart, claim=sound, on=drawing.pk)
        connection.close()

    threads = [threading.Thread(target=work, args=(s,)) for s in sounds]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    drawing.refresh_from_db()
    assert set(drawing.shows) == {"open", *sounds}


def form_of(drawing, **change):
    fields = {"number": drawing.number, "name": drawing.name, "key": drawing.key, "size": drawing.size}
    return fields | {"revision": drawing.revision} | change


def test_a_drawings_form_is_saved(client, chart):
    drawing = chart.drawings.get(number=4)
    change = {"number": 40, "name": "Zähne", "key": "9", "size": 1, "is_hidden": "on"}
    answer = client.post(f"/cast/drawings/{drawing.pk}/", form_of(drawing, **change))
    assert answer.status_code == 200
    assert answer["HX-Trigger"] == "boardChanged"
    drawing.refresh_from_db()
    assert (drawing.number, drawing.name, drawing.key, drawing.size, drawing.is_hidden) == (40, "Zähne", "9", 1, True)
    assert 'value="2"' in said(answer)


def test_an_older_form_does_not_overwrite_a_newer_one(client, chart):
    drawing = chart.drawings.get(number=4)
    client.post(f"/cast/drawings/{drawing.pk}/", form_of(drawing, name="first"))
    answer = client.post(f"/cast/drawings/{drawing.pk}/", form_of(drawing, name="second"))
    assert answer.status_code == 409
    assert "Someone changed drawing 4 meanwhile" in said(answer)
    assert 'value="second"' in said(answer)
    drawing.refresh_from_db()
    assert drawing.name == "first"
    client.post(f"/cast/drawings/{drawing.pk}/", form_of(drawing, name="second"))
    drawing.refresh_from_db()
    assert drawing.name == "second"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"number": 5}, "Drawing 5 already exists"),
        ({"number": -1}, "greater than or equal"),
        ({"number": "x"}, "whole number"),
        ({"name": ""}, "required"),
        ({"key": "j"}, "is already used for playback"),
        ({"key": "€"}, "is already used for playback"),
        ({"size": 7}, "valid choice"),
    ],
)
def test_a_form_that_cannot_be_saved_says_why(client, chart, change, words):
    drawing = chart.drawings.get(number=4)
    answer = client.post(f"/cast/drawings/{drawing.pk}/", form_of(drawing, **change))
    assert answer.status_code == 422
    assert words in said(answer)


def test_a_key_goes_to_who_asked_last(client, chart):
    four, five = chart.drawings.get(number=4), chart.drawings.get(number=5)
    client.post(f"/cast/drawings/{four.pk}/", form_of(four, key=five.key.upper()))
    five_now = chart.drawings.get(number=5)
    assert (chart.drawings.get(number=4).key, five_now.key) == (five.key, "")


def test_a_hidden_drawing_is_not_used_by_the_solver(client, chart):
    chart.drawings.filter(number=14).update(is_hidden=True)
    assert 14 not in {d.number for d in chart.content.drawings}


def test_drawings_are_reordered_and_removed_and_numbers_stay(client, chart):
    pk = {d.number: d.pk for d in chart.drawings.all()}
    client.post(f"/cast/charts/{chart.pk}/order", {"drawing": pk[14], "before": pk[1]})
    client.post(f"/cast/charts/{chart.pk}/order", {"drawing": pk[2], "before": ""})
    client.post(f"/cast/drawings/{pk[7]}/delete")
    assert [d.number for d in chart.drawings.all()] == [14, 1, 3, 4, 5, 6, 8, 9, 10, 11, 12, 13, 2]
    assert client.post(f"/cast/charts/{chart.pk}/order", {"drawing": "x"}).status_code == 422


def test_a_proposal_is_only_laid_where_it_is_accepted(client, uploaded):
    shown = said(client.get(f"/cast/charts/{uploaded.pk}/proposal"))
    assert shown.count('name="take"') == 14
    assert not any(d.shows for d in uploaded.drawings.all())
    client.post(f"/cast/charts/{uploaded.pk}/proposal", {"take": ["1", "2", "14"]})
    shows = {d.number: d.shows for d in uploaded.drawings.all() if d.shows}
    assert shows == {1: ["rest"], 2: ["bilabial"], 14: ["open"]}
    again = said(client.get(f"/cast/charts/{uploaded.pk}/proposal"))
    assert again.count('name="take"') > 5


def test_a_page_is_looked_at_adjusted_and_cut_up(client, blank, finish):
    places = [(20 + (i % 5) * 320, 20 + (i // 5) * 220) for i in range(14)]
    data = encoded(page(PICTURES.values(), places, (1800, 800)))
    client.post(f"/cast/charts/{blank.pk}/page", {"page": upload("all mouths.png", data)})
    assert finish(blank).state == "done"
    found = Page.objects.get()
    assert len(found.boxes) == 14
    assert "all mouths.png" in said(client.get(f"/cast/pages/{found.pk}/"))
    assert len(client.get(f"/cast/pages/{found.pk}/boxes?gap=5000").json()["boxes"]) == 1
    assert client.get(f"/cast/pages/{found.pk}/boxes?gap=-1").status_code == 422
    boxes = [*found.boxes[:3], [-50, -50, 60, 70]]
    client.post(f"/cast/pages/{found.pk}/cut", {"boxes": json.dumps(boxes)})
    assert finish(blank).state == "done"
    assert [d.number for d in blank.drawings.all()] == [1, 2, 3, 4]
    found.refresh_from_db()
    assert found.boxes[3] == [0, 0, 60, 70]
    client.post(f"/cast/pages/{found.pk}/delete")
    assert blank.drawings.count() == 4


@pytest.mark.parametrize(
    "boxes", ["", "[]", "nonsense", '{"a": 1}', "[[1,2]]", "[[0,0,1,1]]", '[["x",0,9,9]]', "[" * 900]
)
def test_no_boxes_or_nonsense_cut_nothing(client, blank, boxes):
    found = Page.objects.create(chart=blank, name="p", original="x", picture="y", width=100, height=100)
    client.post(f"/cast/pages/{found.pk}/cut", {"boxes": boxes})
    assert not Job.objects.exists()


def test_a_page_that_is_no_picture_fails_and_goes(client, blank, finish):
    client.post(f"/cast/charts/{blank.pk}/page", {"page": upload("x.png", b"no")})
    job = finish(blank)
    assert (job.state, "“x.png”" in job.error) == ("failed", True)
    assert not Page.objects.exists()


def test_the_place_on_the_face_and_a_drawings_registration_are_saved(client, chart):
    answer = client.post(f"/cast/parts/{chart.part_id}/place", {"x": 0.4, "y": 0.6, "width": 0.25, "angle": -12.5})
    assert answer.json() == {"ok": True}
    chart.part.refresh_from_db()
    assert (chart.part.x, chart.part.angle) == (0.4, -12.5)
    drawing = chart.drawings.get(number=3)
    fields = {"point_x": 210, "point_y": 140, "offset_x": -3, "offset_y": 4}
    assert client.post(f"/cast/drawings/{drawing.pk}/register", fields).json() == {"ok": True}
    drawing.refresh_from_db()
    at = drawing.registration
    assert (at.x, at.y, at.dx, at.dy) == (210, 140, -3, 4)


@pytest.mark.parametrize("wrong", [{"x": 9}, {"width": 0}, {"angle": "nan"}, {"y": ""}, {"x": "inf"}])
def test_a_place_off_the_picture_is_refused(client, chart, wrong):
    fields = {"x": 0.5, "y": 0.5, "width": 0.3, "angle": 0} | wrong
    answer = client.post(f"/cast/parts/{chart.part_id}/place", fields)
    assert answer.status_code == 422
    assert "error" in answer.json()


@pytest.mark.parametrize("wrong", [{"point_x": 1e9}, {"offset_y": "x"}])
def test_a_registration_far_off_is_refused(client, chart, wrong):
    drawing = chart.drawings.first()
    fields = {"point_x": 0, "point_y": 0, "offset_x": 0, "offset_y": 0} | wrong
    assert client.post(f"/cast/drawings/{drawing.pk}/register", fields).status_code == 422


def test_pictures_are_served_as_what_they_are_and_never_as_pages(client, chart, uploaded):
    ours, theirs = chart.drawings.get(number=1), uploaded.drawings.get(number=1)
    for drawing, kind in ((ours, "image/svg+xml"), (theirs, "image/png")):
        answer = client.get(f"/cast/drawings/{drawing.pk}/picture")
        assert answer["Content-Type"] == kind
        assert answer["X-Content-Type-Options"] == "nosniff"
    thumb = client.get(f"/cast/drawings/{theirs.pk}/thumb")
    assert Image.open(io.BytesIO(b"".join(thumb.streaming_content))).size == (320, 240)


def test_cancelling_a_job_on_a_chart_keeps_the_chart(client, blank, finish):
    upload_files(client, blank, [("1.svg", starter_pictures()[1].encode())])
    job = Job.objects.get(kind="drawings")
    answer = client.post(f"/jobs/{job.pk}/cancel")
    assert answer["Location"] == f"/cast/charts/{blank.pk}/"
    assert finish(blank) is None
    assert not blank.drawings.exists()
    assert "Pim" in said(client.get("/jobs/"))
