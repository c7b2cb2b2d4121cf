"""Mouths fixed by hand and second looks: kept, undone, surviving what happens to the shot."""

import json

import pytest

from tests import sounds
from tinfork.apps.cast.actions.characters import add_part
from tinfork.apps.cast.actions.drawings import add_starter_drawings, delete_drawing
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import part_holds, solve_character
from tinfork.core.mouths.style import Style
from tinfork.core.solver.problem import NO_MOUTH, Hold


def edit(client, shot, name, revision=None, **parameters):
    revision = Soundtrack.objects.get(shot=shot).revision if revision is None else revision
    body = {"revision": revision, "shown": revision, "name": name, "parameters": parameters}
    return client.post(f"/shots/{shot.pk}/mouths", body, content_type="application/json")


def pin(client, shot, first, last, drawing=3, **more):
    return edit(client, shot, "pin", speaker=str(shot.character.pk), first=first, last=last, drawing=drawing, **more)


def shown(shot, frame):
    fresh = type(shot).objects.get(pk=shot.pk)
    holds = solve_character(fresh, fresh.character, Soundtrack.objects.get(shot=shot).reading)
    return next(h for h in holds if h.start <= frame < h.end)


def test_a_pinned_mouth_is_shown_on_exactly_its_frames(client, read_shot):
    answer = pin(client, read_shot, 20, 25).json()["document"]
    (found,) = answer["characters"][str(read_shot.character.pk)]["pins"]
    assert (found["start"], found["end"], found["exact"]) == (20, 26, True)
    assert {shown(read_shot, f).drawing for f in range(20, 26)} == {3}
    pin(client, read_shot, 30, 33, NO_MOUTH)
    assert shown(read_shot, 31).drawing == NO_MOUTH
    rows = client.get(f"/shots/{read_shot.pk}/handover/csv").getvalue().decode().splitlines()
    assert rows[1 + 31].split(",")[2] == ""


def test_pins_are_undone_and_made_again(client, read_shot):
    before = shown(read_shot, 22)
    pin(client, read_shot, 20, 25, 9)
    assert edit(client, read_shot, "undo").json()["document"]["canRedo"] is True
    assert shown(read_shot, 22) == before
    edit(client, read_shot, "redo")
    assert shown(read_shot, 22).drawing == 9


def test_pins_survive_a_new_reading_a_new_rate_and_new_dials(client, production, read_shot, start_read, work):
    pin(client, read_shot, 24, 29, 9)
    start_read("none", words="The last tram leaves", given={"everything": "on"})
    assert work().state == "done"
    assert {shown(read_shot, f).drawing for f in range(24, 30)} == {9}
    production.rate_numerator = 12
    production.save()
    assert {shown(read_shot, f).drawing for f in range(12, 15)} == {9}
    edit(client, read_shot, "dials", speaker=str(read_shot.character.pk), preset="few accents")
    assert shown(read_shot, 13).drawing == 9


def test_a_pin_whose_drawing_is_gone_is_a_second_look_and_shows_nothing_else_instead(client, read_shot):
    chart = read_shot.character.mouth.charts.get()
    pin(client, read_shot, 20, 25, 9)
    chart.drawings.get(number=9).delete()
    looks = client.get(f"/shots/{read_shot.pk}/desk").context["document"]["looks"]
    assert looks[0]["kind"] == "pin"
    assert "pinned here, was removed" in looks[0]["text"]


def test_a_stale_page_is_told_so_with_what_is_now(client, read_shot):
    revision = Soundtrack.objects.get(shot=read_shot).revision
    pin(client, read_shot, 20, 25)
    answer = edit(client, read_shot, "pin", revision, speaker=str(read_shot.character.pk), first=24, last=30, drawing=3)
    assert answer.status_code == 409
    assert len(answer.json()["document"]["characters"][str(read_shot.character.pk)]["pins"]) == 1


@pytest.mark.parametrize(
    ("name", "parameters"),
    [
        ("pin", {"first": 5, "last": 2, "drawing": 3}),
        ("pin", {"first": -1, "last": 2, "drawing": 3}),
        ("pin", {"first": 1, "last": 10**9, "drawing": 3}),
        ("pin", {"first": 1, "last": 2, "drawing": "many"}),
        ("unpin", {"pin": 5}),
        ("unpin", {}),
    ],
)
def test_nonsense_pins_are_refused(client, read_shot, name, parameters):
    answer = edit(client, read_shot, name, speaker=str(read_shot.character.pk), **parameters)
    assert answer.status_code == 422
    assert answer.json()["error"]


def test_a_second_look_is_settled_until_its_cause_changes(client, read_shot, start_read, work):
    start_read("none", words="The purple tram leaves the depot before midnight.")
    assert work().state == "done"
    looks = client.get(f"/shots/{read_shot.pk}/desk").context["document"]["looks"]
    assert looks
    assert not any(look["settled"] for look in looks)
    key = looks[0]["key"]

    def settled(answer):
        return [look["key"] for look in answer.json()["document"]["looks"] if look["settled"]]

    assert settled(edit(client, read_shot, "settle", key=key)) == [key]
    assert settled(edit(client, read_shot, "undo")) == []
    assert settled(edit(client, read_shot, "redo")) == [key]
    assert settled(edit(client, read_shot, "settle", key=key, open=True)) == []
    for nonsense in ("../../etc", "", 7, None):
        assert edit(client, read_shot, "settle", key=nonsense).status_code == 422


def words_of(shot):
    return list(Soundtrack.objects.get(shot=shot).reading.words())


def test_an_edit_made_on_an_older_state_follows_where_nothing_it_touches_was_changed(client, read_shot):
    revision = Soundtrack.objects.get(shot=read_shot).revision
    who = str(read_shot.character.pk)
    pin(client, read_shot, 20, 25)
    edit(client, read_shot, "note", frame=3, text="blink")
    answer = edit(client, read_shot, "pin", revision, speaker=who, first=30, last=33, drawing=3)
    assert answer.status_code == 200
    told = answer.json()["document"]
    assert [p["start"] for p in told["characters"][who]["pins"]] == [20, 30]
    assert [(note["frame"], note["text"]) for note in told["notes"]] == [(3, "blink")]
    assert "words" not in told
    word = words_of(read_shot)[1]
    answer = edit(client, read_shot, "slide", revision, word=word.id, by_us=20_000)
    assert answer.json()["document"]["words"][1]["pinned"] is True
    refused = edit(client, read_shot, "slide", revision, word=word.id, by_us=20_000)
    assert (refused.status_code, "The words or the sound here were changed" in refused.json()["error"]) == (409, True)
    refused = edit(client, read_shot, "clear", revision, speaker=who, first=25, last=40)
    assert refused.status_code == 409
    assert "Odalys" in refused.json()["error"]
    assert client.get(f"/shots/{read_shot.pk}/changes?since={revision}").json()["document"]["words"]
    now = Soundtrack.objects.get(shot=read_shot).revision
    assert "document" not in client.get(f"/shots/{read_shot.pk}/changes?since={now}").json()
    assert client.get(f"/shots/{read_shot.pk}/changes?since=x").status_code == 422


def test_what_was_undone_meanwhile_counts_as_changed(client, read_shot):
    pin(client, read_shot, 20, 25)
    revision = Soundtrack.objects.get(shot=read_shot).revision
    edit(client, read_shot, "undo")
    edit(client, read_shot, "redo")
    answer = edit(client, read_shot, "note", revision, frame=3, text="x")
    assert answer.status_code == 409


def test_an_edit_that_is_sent_twice_is_done_once(client, read_shot):
    pin(client, read_shot, 32, 35)
    revision = Soundtrack.objects.get(shot=read_shot).revision
    parameters = {"speaker": str(read_shot.character.pk), "at": 30, "frames": 4}
    body = {"revision": revision, "name": "insert_frames", "parameters": parameters, "token": "abc-1"}
    for _ in range(2):
        answer = client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json")
        assert answer.status_code == 200
    assert Soundtrack.objects.get(shot=read_shot).edits.filter(name="insert_frames").count() == 1
    body["token"] = "x" * 41
    assert client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json").status_code == 422


def test_a_second_nudge_before_the_first_is_answered_is_done_too(client, read_shot):
    """Words have numbers that last: the same word is meant wherever the first nudge put it."""
    revision = Soundtrack.objects.get(shot=read_shot).revision
    word = words_of(read_shot)[1]
    for token, own in (("one", []), ("two", ["one"])):
        parameters = {"word": word.id, "clip": 1, "by_us": 10_000}
        body = {"revision": revision, "name": "slide", "parameters": parameters, "token": token, "own": own}
        answer = client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json")
        assert answer.status_code == 200
    now = words_of(read_shot)[1]
    assert (now.id, now.start_us) == (word.id, word.start_us + 20_000)


def test_words_keep_their_numbers_through_a_new_reading_undo_and_versions(client, read_shot, start_read, work):
    def numbers():
        return {word.text: word.id for word in words_of(read_shot)}

    before = numbers()
    client.post(f"/shots/{read_shot.pk}/versions", {"name": "first"})
    start_read("none", " ".join(sounds.SENTENCE.split()[1:]))
    assert work().state == "done"
    after = numbers()
    assert len(after) == len(before) - 1
    assert {text: before[text] for text in after} == after
    edit(client, read_shot, "undo")
    assert numbers() == before
    edit(client, read_shot, "redo")
    (kept,) = client.get(f"/shots/{read_shot.pk}/versions").json()["versions"]
    client.post(f"/shots/{read_shot.pk}/versions/{kept['id']}", {"what": "return"})
    assert numbers() == before


def test_a_retyped_word_has_its_sounds_at_once_and_the_script_says_so_until_it_is_undone(client, read_shot):
    word = words_of(read_shot)[1]
    answer = edit(client, read_shot, "retype", word=word.id, text="first")
    assert answer.status_code == 200
    typed = words_of(read_shot)[1]
    assert (typed.text, "".join(p.ipa for p in typed.phonemes).replace("ː", "")) == ("first", "fɝst")
    assert "first" in type(read_shot).objects.get(pk=read_shot.pk).words
    edit(client, read_shot, "undo")
    assert "first" not in type(read_shot).objects.get(pk=read_shot.pk).words
    refused = edit(client, read_shot, "retype", word=word.id, text="…")
    assert (refused.status_code, "cannot be spoken" in refused.json()["error"]) == (422, True)


def test_a_shot_without_sound_has_no_versions_and_nothing_to_edit(client, shot):
    assert client.get(f"/shots/{shot.pk}/versions").json() == {"versions": []}
    assert client.get(f"/shots/{shot.pk}/changes?since=0").status_code == 422
    assert (
        edit(client, shot, "pin", 0, speaker=str(shot.character.pk), first=99, last=100, drawing=1).status_code == 422
    )
    body = "{" * 5000
    assert client.post(f"/shots/{shot.pk}/mouths", body, content_type="application/json").status_code == 422


def test_versions_are_kept_compared_and_returned_to(client, read_shot, viewer):
    address = f"/shots/{read_shot.pk}/versions"
    who = str(read_shot.character.pk)
    pin(client, read_shot, 20, 25, 9)
    (kept,) = client.post(address, {"name": "as read "}).json()["versions"]
    assert kept["name"] == "as read"
    assert "already" in client.post(address, {"name": "as read"}).json()["error"]
    assert client.post(address, {"name": " "}).status_code == 422
    one = f"{address}/{kept['id']}"
    assert client.get(one).json()["characters"][who]["differs"] == []
    pin(client, read_shot, 20, 25, 3)
    compared = client.get(one).json()["characters"][who]
    assert [20, 26] in compared["differs"]
    shot_now = shown(read_shot, 22).drawing
    back = client.post(one, {"what": "return"}).json()["document"]
    assert (shot_now, shown(read_shot, 22).drawing, back["canUndo"]) == (3, 9, True)
    edit(client, read_shot, "undo")
    assert shown(read_shot, 22).drawing == 3
    assert viewer.get(one).status_code == 200
    assert viewer.post(one, {"what": "return"}).status_code == 403
    assert client.post(one, {"what": "delete"}).json() == {"versions": []}
    assert client.get(one).status_code == 404


def test_eyes_have_a_column_of_their_own_that_is_set_by_hand(client, read_shot):
    chart = add_part(read_shot.character, kind="eyes", name="Eyes")
    add_starter_drawings(chart, drawings=8, style=Style())
    part = chart.part
    column = client.get(f"/shots/{read_shot.pk}/desk").context["document"]["characters"][1]
    who = f"-{part.pk}"
    frames = column["holds"][-1]["end"]
    first = chart.drawings.get(number=1).pk
    assert (str(column["id"]), column["of"], len(column["holds"])) == (who, read_shot.character.pk, 1)
    told = edit(client, read_shot, "pin", speaker=who, first=10, last=14, drawing=3).json()["document"]["characters"]
    assert list(told) == [who]
    assert [(h["start"], h["end"]) for h in told[who]["holds"]] == [(0, 10), (10, 15), (15, frames)]
    assert told[who]["holds"][2]["drawing"] == first
    taps = [{"start_us": 2_000_000, "end_us": 2_500_000, "drawing": 2}]
    told = edit(client, read_shot, "tap_mouths", speaker=who, taps=taps, speed=1).json()["document"]["characters"]
    assert [(p["start"], p["end"]) for p in told[who]["pins"]] == [(10, 15), (44, 56)]
    assert edit(client, read_shot, "pin", speaker="-0", first=1, last=2, drawing=1).status_code == 422
    edit(client, read_shot, "clear", speaker=who, first=0, last=frames - 1)
    assert part_holds(type(read_shot).objects.get(pk=read_shot.pk), part) == (Hold(0, frames, 1, "rest"),)


def test_the_sound_has_another_address_when_it_sounds_otherwise_and_only_then(client, read_shot):
    def done(name, **parameters):
        return edit(client, read_shot, name, **parameters).json()["document"]

    def slid(word):
        return done("slide", word=word["id"], by_us=10_000)

    first = read_shot.soundtrack.reading.lines[0].words[0]
    before = slid({"id": first.id})
    assert [(clip["id"], clip["gain"]) for clip in before["clips"]] == [(1, 0)]
    louder = done("gain", clip=1, db=4)
    assert louder["clips"][0]["gain"] == 4
    assert louder["sound"]["url"] != before["sound"]["url"]
    assert slid(louder["words"][0])["sound"] == louder["sound"]
    assert "sound" not in done("note", frame=3, text="here")
    assert done("gain", clip=1, db=0)["sound"] == before["sound"]
    assert edit(client, read_shot, "gain", clip=1, db=40).status_code == 422


def test_the_first_reading_is_not_offered_to_be_undone_and_a_later_one_is(client, read_shot, start_read, work):
    def can_undo():
        return client.get(f"/shots/{read_shot.pk}/changes?since=0").json()["document"]["canUndo"]

    assert not can_undo()
    start_read("none", "Only this is said.")
    assert work().state == "done"
    assert can_undo()
    edit(client, read_shot, "undo")
    assert not can_undo()


def test_the_count_of_second_looks_is_the_same_in_the_list_and_on_the_desk(client, read_shot):
    production = read_shot.production_id

    def counts():
        page = client.get(f"/shots/{read_shot.pk}/desk").content.decode()
        told = page.split('<script id="desk-document" type="application/json">')[1].split("</script>")[0]
        document = json.loads(told)
        left = [look for look in document["looks"] if not look["settled"]]
        return len(left), left

    def in_list():
        row = client.get(f"/productions/{production}/shots").content.decode().split("<tbody>")[1]
        return int(row.split('data-label="Second looks">')[1].split("<")[0])

    assert in_list() == counts()[0]
    # A mouth that stays wide open, whatever is said: lips that must close do not.
    pin(client, read_shot, 0, 60, 14)
    listed = in_list()
    number, left = counts()
    assert listed == number > 0
    edit(client, read_shot, "settle", key=left[0]["key"])
    assert in_list() == counts()[0] == number - 1
    # Without the drawing the pin has nothing to show: counted anew, whoever looks first.
    delete_drawing(read_shot.character.mouth.charts.first().drawings.get(number=14))
    assert in_list() == counts()[0]


def test_undo_at_the_desk_never_takes_the_first_reading_back(client, read_shot):
    first = Soundtrack.objects.get(shot=read_shot)
    body = {"revision": first.revision, "name": "undo", "shown": first.revision}
    answer = client.post(f"/shots/{read_shot.pk}/mouths", body, content_type="application/json")
    assert (answer.status_code, answer.json()["error"]) == (422, "There is nothing to undo.")
    assert Soundtrack.objects.get(shot=read_shot).is_read
