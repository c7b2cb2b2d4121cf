"""A shot's sound through its addresses: edits, stale pages, undo, the mix, room for several characters."""

import io
import json
import wave

import numpy as np
import pytest

from tests import sounds
from tests.apps.conftest import upload
from tinfork.apps.produce.actions import add_to_cast
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import solution_of, solve_character
from tinfork.apps.sound.models import Take
from tinfork.core.sound.voice import level_db

S = 1_000_000


def document(client, shot):
    return client.get(f"/shots/{shot.pk}/sound.json").json()


def test_an_edit_answers_with_the_document_and_the_next_revision(read_shot, edit):
    before = read_shot.soundtrack.revision
    answer = edit("move", clip=1, frame=54)
    assert answer["status"] == 200
    assert answer["document"]["revision"] == before + 1
    assert answer["document"]["clips"][0]["start"] == 2_250_000
    assert answer["document"]["words"][0]["start"] > 2_250_000


def test_a_stale_edit_changes_nothing_and_shows_what_is_there(read_shot, edit):
    old = read_shot.soundtrack.revision
    edit("move", clip=1, frame=10)
    answer = edit("move", revision=old, clip=1, frame=99)
    assert answer["status"] == 409
    assert "This shot was changed" in answer["error"]
    assert answer["document"]["clips"][0]["start"] == 416_667
    assert Soundtrack.objects.get().content.clip(1).start_us == 416_667


@pytest.mark.parametrize("body", ["", "[]", "{", '{"revision": "1"}', '{"revision": 2, "name": 3, "parameters": {}}'])
def test_nonsense_is_refused_in_words(read_shot, client, body):
    answer = client.post(f"/shots/{read_shot.pk}/sound/edit", body, content_type="application/json")
    assert answer.status_code in (409, 422)
    assert answer.json()["error"]


def test_an_edit_that_cannot_be_says_why(read_shot, edit):
    answer = edit("split", clip=1, frame=0)
    assert (answer["status"], answer["error"]) == (
        422,
        "To split a clip, put the playhead between its ends.",
    )


def test_undo_and_redo_walk_the_edits_and_a_new_edit_ends_the_way_forward(read_shot, edit):
    states = [read_shot.soundtrack.document]
    edit("move", clip=1, frame=24)
    states.append(Soundtrack.objects.get().document)
    edit("gap", frame=40, frames=12)
    states.append(Soundtrack.objects.get().document)
    for state in (states[1], states[0]):
        answer = edit("undo")
        assert answer["status"] == 200
        assert Soundtrack.objects.get().document == state
    assert answer["document"]["canRedo"]
    edit("redo")
    assert Soundtrack.objects.get().document == states[1]
    edit("gain", clip=1, db=3)
    assert edit("redo")["status"] == 422
    assert Soundtrack.objects.get().content.clip(1).gain_db == 3


def test_a_set_over_a_stretch_goes_with_room_for_action_and_comes_back_by_undo(read_shot, edit, chart):
    from tinfork.apps.cast.actions.charts import add_set
    from tinfork.apps.cast.actions.drawings import add_starter_drawings
    from tinfork.core.mouths.style import Ink, Style

    glad = add_set(chart.part, name="glad")
    add_starter_drawings(glad, drawings=14, style=Style(Ink()))
    edit("set", chart=glad.pk, first=30, last=39)
    spans = [(s.start_us, s.end_us) for s in read_shot.set_stretches.all()]
    edit("gap", frame=10, frames=24)
    assert [(s.start_us - S, s.end_us - S) for s in read_shot.set_stretches.all()] == spans
    edit("undo")
    assert [(s.start_us, s.end_us) for s in read_shot.set_stretches.all()] == spans
    edit("undo")
    assert not read_shot.set_stretches.exists()
    edit("redo")
    edit("redo")
    assert [(s.start_us - S, s.end_us - S) for s in read_shot.set_stretches.all()] == spans


def test_the_mix_is_the_sound_where_the_clips_are(read_shot, client, edit):
    edit("move", clip=1, frame=48)
    answer = client.get(f"/shots/{read_shot.pk}/mix")
    assert answer["Content-Type"] == "audio/flac"
    data = b"".join(answer.streaming_content)
    part = client.get(f"/shots/{read_shot.pk}/mix", headers={"range": "bytes=0-99"})
    assert b"".join(part.streaming_content) == data[:100]
    levels = level_db(_decoded(data), 48_000)
    assert levels[:195].max() < -80
    assert levels[200:].max() > -30
    fine = np.frombuffer(client.get(f"/shots/{read_shot.pk}/peaks/0").content, dtype=np.int8).reshape(-1, 2)
    assert not fine[:1999].any()
    assert len(fine) == -(-Soundtrack.objects.get().duration_us // 1000)


def _decoded(data):
    import tempfile
    from pathlib import Path

    from tinfork.engines.decode import decode

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "mix.flac"
        path.write_bytes(data)
        return decode(path).samples.mean(axis=1)


def test_old_mixes_are_let_go(read_shot, client, edit, sweep):
    sweep()
    tags = []
    for frame in (5, 6, 7):
        edit("move", clip=1, frame=frame)
        tags.append(client.get(f"/shots/{read_shot.pk}/mix")["ETag"].strip('"'))
    assert len(set(tags)) == 3
    # Those of before, as the sweep finds them.
    assert sweep() == 2
    assert client.get(f"/shots/{read_shot.pk}/mix")["ETag"] == f'"{tags[-1]}"'


def test_sounds_sent_to_a_shot_become_clips_one_after_another_and_effects_lie_apart(client, shot, work):
    address = f"/shots/{shot.pk}/sounds"
    client.post(address, {"sound": [upload("a.wav"), upload("b.wav")]})
    client.post(address, {"sound": upload("bell.wav", sounds.wav_bytes(np.full(16_000, 0.2))), "kind": "effects"})
    work()
    st = Soundtrack.objects.get().content
    names = {t.pk: t.name for t in Take.objects.all()}
    assert [(names[c.take], c.track) for c in st.clips] == [("a.wav", 1), ("bell.wav", 2), ("b.wav", 1)]
    assert st.clips[1].start_us == 0
    assert st.clips[2].start_us >= st.clips[0].end_us
    assert [v.take for v in st.voices] == [st.clips[0].take, st.clips[2].take]


def test_good_files_are_taken_and_wrong_ones_named(client, shot):
    files = [upload("a.wav"), upload("picture.png", sounds.png_bytes())]
    assert client.post(f"/shots/{shot.pk}/sounds", {"sound": files}).status_code == 200
    assert [t.name for t in Take.objects.all()] == ["a.wav"]
    assert "“picture.png” is not a sound" in client.get(f"/shots/{shot.pk}/").content.decode()
    none = client.post(f"/shots/{shot.pk}/sounds", {"sound": files[1:]})
    assert none.status_code == 422
    assert client.post(f"/shots/{shot.pk}/sounds").status_code == 422


@pytest.fixture
def talk(client, shot, work, brindle):
    """A conversation of two in one file, read with names."""
    data, turns = sounds.conversation()
    fields = {"words": sounds.CONVERSATION_WORDS, "sound": upload("talk.wav", data)}
    assert client.post(f"/shots/{shot.pk}/read", fields).status_code == 302
    assert work().state == "done"
    return type(shot).objects.get(pk=shot.pk), turns


def test_each_character_gets_the_turns_of_their_own_lines(talk, client):
    shot, turns = talk
    assert [c.name for c in shot.characters] == ["Odalys", "Brindle"]
    names = {c.pk: c.name.upper() for c in shot.characters}
    found = document(client, shot)["turns"]
    assert [names[t["speaker"]] for t in found] == [name for name, *_ in turns]
    for turn, (_, start, end) in zip(found, turns, strict=True):
        assert abs(turn["start"] / 1e6 - start) < 0.15
        assert abs(turn["end"] / 1e6 - end) < 0.25


def test_a_silent_character_rests_and_never_mouths_another_ones_words(talk):
    shot, turns = talk
    odalys, brindle = shot.characters
    rate = shot.production.rate
    for character, others in ((odalys, [t for t in turns if t[0] == "BRINDLE"]), (brindle, [turns[0], turns[2]])):
        holds = solve_character(shot, character, shot.soundtrack.reading)
        for _, start, end in others:
            inside = range(rate.frame_at(round((start + 0.3) * S)), rate.frame_at(round((end - 0.3) * S)))
            assert {h.viseme for h in holds for f in inside if h.start <= f < h.end} == {"rest"}
    assert len(solve_character(shot, brindle, shot.soundtrack.reading)) > 8


def test_an_edit_of_what_one_says_leaves_the_others_mouths_as_they_were_worked_out(talk, edit):
    shot, _ = talk
    odalys, brindle = shot.characters
    before = [solution_of(shot, c, shot.soundtrack.reading) for c in (odalys, brindle)]
    line = next(line for line in shot.soundtrack.reading.lines if line.speaker == str(odalys.pk))
    assert edit("slide", word=line.words[0].id, by_us=40_000)["status"] == 200
    shot = type(shot).objects.get(pk=shot.pk)
    after = [solution_of(shot, c, shot.soundtrack.reading) for c in shot.characters]
    assert after[0].segments.starts_us.tolist() != before[0].segments.starts_us.tolist()
    assert after[1] is before[1]


def test_a_turn_given_to_another_moves_their_mouth_instead_and_outlives_a_new_reading(talk, edit, client, work):
    shot, _ = talk
    _odalys, brindle = shot.characters
    turn = document(client, shot)["turns"][0]
    answer = edit("turn_give", clip=turn["clip"], turn=turn["id"], speaker=str(brindle.pk))
    assert answer["document"]["turns"][0]["speaker"] == brindle.pk
    assert answer["document"]["words"][0]["speaker"] == brindle.pk
    words = sounds.CONVERSATION_WORDS.replace("like you do", "like you")
    client.post(f"/shots/{shot.pk}/read", {"words": words})
    assert work().state == "done"
    again = document(client, shot)
    assert again["turns"][0]["speaker"] == brindle.pk
    assert len(again["words"]) == len(answer["document"]["words"]) - 1


def test_changing_a_word_reads_its_line_only(talk, client, work, monkeypatch):
    shot, _ = talk
    seen = []
    from tinfork.apps.reading.work import follow

    real = follow.run_isolated

    def watch(function, voice, texts, changes, *rest, **more):
        seen.append([texts[at].text for c in changes for at in range(c.first, c.last)])
        return real(function, voice, texts, changes, *rest, **more)

    monkeypatch.setattr(follow, "run_isolated", watch)
    before = shot.soundtrack.reading.lines
    client.post(f"/shots/{shot.pk}/read", {"words": sounds.CONVERSATION_WORDS.replace("five small", "five tiny")})
    assert work().state == "done"
    assert seen == [["She found five tiny loaves."]]
    after = Soundtrack.objects.get().reading.lines
    assert after[:2] == before[:2]
    client.post(f"/shots/{shot.pk}/read", {"words": sounds.CONVERSATION_WORDS, "everything": "on"})
    assert work().state == "done"
    assert len(seen[1]) == 3


def test_cancelling_in_the_middle_keeps_the_lines_that_were_read(talk, client, work, monkeypatch):
    from tinfork.apps.reading.work import follow
    from tinfork.core.errors import Cancelled

    shot, _ = talk

    def stop_after_one(function, voice, texts, changes, skip, lexicon, *, progress, keep, limit_s):
        lines, _ = function(voice, texts, changes, skip)
        keep([(0, lines[0])])
        raise Cancelled("Cancelled.")

    monkeypatch.setattr(follow, "run_isolated", stop_after_one)
    client.post(f"/shots/{shot.pk}/read", {"words": sounds.CONVERSATION_WORDS, "everything": "on"})
    job = work()
    assert job.state == "cancelled"
    assert job.error == "1 of 3 lines were read before that and are kept."
    assert [x.text for x in Soundtrack.objects.get().reading.lines] == [sounds.CONVERSATION[0][1]]


def test_an_unknown_name_is_asked_about_and_can_be_made(shot, client, work):
    fields = {"words": "MAYOR: The last tram leaves before midnight.", "sound": upload()}
    answer = client.post(f"/shots/{shot.pk}/read", fields, headers={"accept": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["unknown"] == ["MAYOR"]
    assert client.post(f"/shots/{shot.pk}/cast", {"make": "MAYOR"}).status_code == 302
    fields["sound"] = upload()
    assert client.post(f"/shots/{shot.pk}/read", fields).status_code == 302
    assert work().state == "done"
    assert [c.name for c in shot.characters] == ["Odalys", "Mayor"]
    assert document(client, shot)["turns"][0]["speaker"] == shot.characters[1].pk


def test_new_names_become_characters_in_the_same_step(shot, client, work):
    fields = {"words": "MAYOR: The last tram leaves before midnight.", "sound": upload(), "makes_people": "on"}
    answer = client.post(f"/shots/{shot.pk}/read", fields, follow=True)
    assert "Mayor was added to the cast" in answer.content.decode()
    assert work().state == "done"
    assert [c.name for c in shot.characters] == ["Odalys", "Mayor"]


def test_voices_are_told_apart_by_ear_and_accepted_by_a_person(client, shot, work, brindle):
    data, _turns = sounds.conversation()
    client.post(f"/shots/{shot.pk}/sounds", {"sound": upload("talk.wav", data)})
    work()
    client.post(f"/shots/{shot.pk}/voices", {"count": "2"})
    assert work().state == "done"
    page = client.get(f"/shots/{shot.pk}/sound").content.decode()
    assert "2 voices heard" in page
    odalys = shot.character
    client.post(f"/shots/{shot.pk}/voices", {"what": "accept", "who-0": str(odalys.pk), "who-1": str(brindle.pk)})
    found = document(client, shot)["turns"]
    assert [t["speaker"] for t in found] == [odalys.pk, brindle.pk, odalys.pk]
    # Words without names are then said by whoever has the turn.
    client.post(f"/shots/{shot.pk}/read", {"words": "\n".join(text for _, text, _ in sounds.CONVERSATION)})
    assert work().state == "done"
    assert [x.speaker for x in Soundtrack.objects.get().reading.lines] == [str(t["speaker"]) for t in found]


def test_a_proposal_can_be_left_and_silence_has_none(client, shot, work, read_shot):
    Soundtrack.objects.update(proposal={"spans": [], "guess": {}, "count": 0})
    client.post(f"/shots/{shot.pk}/voices", {"what": "leave"})
    assert Soundtrack.objects.get().proposal is None
    assert client.post(f"/shots/{shot.pk}/voices", {"what": "accept"}).status_code == 422


def test_the_frame_rate_can_change_there_and_back_and_nothing_is_lost(talk, client):
    shot, _ = talk
    before = shot.soundtrack.document
    sheet = client.get(f"/shots/{shot.pk}/handover/csv").getvalue()
    for rate in ("12", "29.97", "24"):
        fields = {"name": "Last Tram, First Loaf", "rate": rate, "size": "320x180"}
        assert client.post(f"/productions/{shot.production.pk}/edit", fields).status_code == 302
        assert Soundtrack.objects.get().document == before
        assert client.get(f"/shots/{shot.pk}/desk").status_code == 200
    assert client.get(f"/shots/{shot.pk}/handover/csv").getvalue() == sheet


def test_name_and_first_frame_of_a_shot_are_set_and_another_ones_name_refused(read_shot, client, production, character):
    from tinfork.apps.produce.actions import add_shot

    add_shot(production=production, name="030", character=character)
    client.post(f"/shots/{read_shot.pk}/settings", {"name": "021 Later", "first_frame": "101"})
    read_shot.refresh_from_db()
    assert (read_shot.name, read_shot.first_frame) == ("021 Later", 101)
    assert document(client, read_shot)["shot"]["firstFrame"] == 101
    page = client.post(f"/shots/{read_shot.pk}/settings", {"name": "030", "first_frame": "1"}, follow=True)
    assert "has a shot “030” already" in page.content.decode()


def test_a_character_leaves_a_shot_but_never_the_last_one(read_shot, client, brindle):
    add_to_cast(read_shot, [brindle])
    client.post(f"/shots/{read_shot.pk}/cast", {"remove": str(read_shot.character.pk)})
    assert [c.name for c in type(read_shot).objects.get(pk=read_shot.pk).characters] == ["Brindle"]
    assert client.post(f"/shots/{read_shot.pk}/cast", {"remove": str(brindle.pk)}).status_code == 422


def test_every_character_is_handed_over(talk, client, work):
    import zipfile

    shot, _ = talk
    odalys, brindle = shot.characters
    csv = f"/shots/{shot.pk}/handover/csv?options=1&o-character="
    sheets = [client.get(csv + character.name).getvalue() for character in (odalys, brindle)]
    assert sheets[0] != sheets[1]
    refused = client.get(csv + "Pim", follow=True).content.decode()
    assert "“Pim” is not in this shot. It has Odalys, Brindle." in refused
    told = json.loads(client.get(f"/shots/{shot.pk}/handover/json").getvalue())
    assert [t["character"] for t in told["tracks"]] == ["Odalys", "Brindle"]
    assert {line["speaker"] for line in told["lines"]} == {"Odalys", "Brindle"}
    client.post(f"/shots/{shot.pk}/handover/make", {"as": "pictures", "options": "1", "o-of": "mouths"})
    job = work()
    assert job.state == "done", job.error
    answer = client.get(f"/jobs/{job.pk}/result")
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        frames = shot.production.rate.frames_in(shot.soundtrack.duration_us)
        assert sum("Odalys" in n for n in archive.namelist()) == frames
        assert sum("Brindle" in n for n in archive.namelist()) == frames
        with wave.open(io.BytesIO(archive.read("020-The-counter.wav"))) as sound:
            assert abs(sound.getnframes() / 48_000 - frames / 24) < 1e-3
