"""The starter chart, and a sentence that a chart is tried with."""

import io

import pytest

from tests.apps.charts import said
from tinfork.apps.cast.models import Drawing


def test_the_starter_chart_is_shown_in_any_look_and_put_in(client, blank):
    shown = said(client.get(f"/cast/charts/{blank.pk}/starter?drawings=8&kind=beak&lift=0.5"))
    assert shown.count("data:image/svg+xml") == 8
    client.post(f"/cast/charts/{blank.pk}/starter/take", {"drawings": 22, "kind": "muzzle", "line": "#112233"})
    assert blank.drawings.count() == 22
    assert sorted({d.size for d in blank.drawings.all()}) == [-1, 0, 1]
    assert b"#112233" in blank.drawings.get(number=1).picture.read()
    assert blank.content.unclaimed() == ()


def test_a_redrawn_starter_keeps_names_sounds_and_keys(client, chart):
    Drawing.objects.filter(chart=chart, number=2).update(name="mine", shows=["m"], key="9", offset_x=4)
    client.post(f"/cast/charts/{chart.pk}/starter/take", {"drawings": 8, "kind": "square"})
    drawing = chart.drawings.get(number=2)
    assert (drawing.name, drawing.shows, drawing.key) == ("mine", ["m"], "9")
    assert chart.drawings.count() == 14


@pytest.mark.parametrize("look", ["drawings=5", "kind=robot", "line=red", "weight=999", "lift=x", "opening=nan"])
def test_a_look_that_cannot_be_drawn_is_refused(client, blank, look):
    answer = client.get(f"/cast/charts/{blank.pk}/starter?{look}", HTTP_HX_REQUEST="true")
    assert answer.status_code == 422
    assert 'role="alert"' in said(answer)
    assert client.get(f"/cast/charts/{blank.pk}/starter.zip?{look}").status_code == 302


def test_the_starter_chart_is_downloaded_to_draw_over(client, blank):
    import zipfile

    answer = client.get(f"/cast/charts/{blank.pk}/starter.zip?drawings=8")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert len(archive.namelist()) == 16
    assert "attachment" in answer["Content-Disposition"]


def test_a_sentence_is_spoken_and_mouthed_by_the_chart(client, chart):
    answer = client.post(f"/cast/charts/{chart.pk}/say", {"text": "Five warm loaves."}).json()
    assert answer["gaps"] == []
    assert {h["drawing"] for h in answer["holds"]} <= {d.pk for d in chart.drawings.all()}
    assert len(answer["holds"]) > 5


@pytest.mark.parametrize(
    ("text", "words"),
    [("", "Type a sentence"), ("x" * 300, "Type a sentence"), ("…", "no words to say")],
)
def test_a_sentence_that_cannot_be_said_says_why(client, chart, text, words):
    answer = client.post(f"/cast/charts/{chart.pk}/say", {"text": text})
    assert answer.status_code == 422
    assert words in answer.json()["error"]


def test_a_chart_without_sounds_has_nothing_to_say_with(client, uploaded):
    answer = client.post(f"/cast/charts/{uploaded.pk}/say", {"text": "Hello"})
    assert "has no sounds yet" in answer.json()["error"]
