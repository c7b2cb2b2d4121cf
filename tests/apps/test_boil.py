"""Line boil in a shot: set, undone, kept in versions, new shots and archives; its pictures are the ones that leave."""

import io

import numpy as np
import pytest
from PIL import Image

from tests.apps.test_mouths import edit
from tests.apps.test_packing import elsewhere, packed, rich  # noqa: F401
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.handover.packing import pack_production
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.handover.unpacking import unpack_production
from tinfork.apps.produce.actions import add_shot
from tinfork.apps.reading.solving import with_cast
from tinfork.core.scene.boil import Boil
from tinfork.core.scene.drawing import segments
from tinfork.engines.handover.rasters import boiled, raster


def fresh(shot):
    return type(shot).objects.get(pk=shot.pk)


def boil(client, shot, strength=40, **more):
    return edit(client, shot, "boil", strength=strength, **more)


def test_it_is_an_edit_that_is_told_alone_undone_and_done_again(client, read_shot):
    told = boil(client, read_shot, 40, rhythm=3).json()["document"]
    assert told["layout"]["boil"] == {"strength": 40, "rhythm": 3}
    assert "words" not in told and told["characters"] == {}
    assert scene_of(with_cast(fresh(read_shot))).boil == Boil(40, 3)
    edit(client, read_shot, "undo")
    assert fresh(read_shot).boil == {}
    edit(client, read_shot, "redo")
    assert fresh(read_shot).boil == {"strength": 40, "rhythm": 3}
    boil(client, read_shot, 0)
    assert desk_document(with_cast(fresh(read_shot)))["layout"]["boil"] == {"strength": 0, "rhythm": 2}


@pytest.mark.parametrize("wrong", [{"strength": 101}, {"strength": "much"}, {"strength": 5, "rhythm": 0}, {}])
def test_nonsense_is_refused_in_words_and_changes_nothing(client, read_shot, wrong):
    answer = edit(client, read_shot, "boil", **wrong)
    assert answer.status_code == 422
    assert fresh(read_shot).boil == {}


def test_new_shots_versions_and_archives_have_it(client, rich, elsewhere, brindle, tmp_path):  # noqa: F811
    boil(client, rich, 30, rhythm=4)
    new = add_shot(production=rich.production, name="030", character=brindle)
    assert new.boil == {"strength": 30, "rhythm": 4}
    new.delete()
    path = tmp_path / "p.production.zip"
    with path.open("wb") as out:
        pack_production(rich.production, out, lambda what, done: None)
    made = unpack_production(elsewhere, path, None, lambda what, done: None, lambda production: None)
    assert made.shots.get().boil == {"strength": 30, "rhythm": 4}
    # The version was kept before, when nothing boiled.
    version = rich.soundtrack.versions.get()
    client.post(f"/shots/{rich.pk}/versions/{version.pk}", {"do": "return"})
    assert fresh(rich).boil == {}
    edit(client, rich, "undo")
    assert fresh(rich).boil == {"strength": 30, "rhythm": 4}


def test_the_variants_that_the_stage_asks_for_are_those_that_leave(client, read_shot):
    boil(client, read_shot, 70, rhythm=1)
    shot = with_cast(fresh(read_shot))
    document = desk_document(shot)
    mouth = document["characters"][0]
    wide = {drawing["number"]: (drawing["wide"], drawing["url"]) for drawing in mouth["drawings"]}
    aspects = {"": mouth["place"]["aspect"]}
    checked = 0
    for start, _, drawn in list(segments(scene_of(shot), (640, 360), boils=True))[:3]:
        for placed in drawn:
            variant = placed.variant
            assert variant.number == start % 3
            if placed.key[1]:
                own, url = wide[placed.key[3]]
            else:
                own, url = round(aspects[""], 4), mouth["face"]
            assert variant.wide == pytest.approx(own, abs=2e-4)
            answer = client.get(f"{url}&boil=70-{variant.number}-{round(own * 10_000)}")
            assert (answer.status_code, answer["Content-Type"]) == (200, "image/png")
            assert "immutable" in answer["Cache-Control"]
            shown = Image.open(io.BytesIO(answer.content))
            ours = boiled(raster(placed.picture, shown.size), placed.picture, variant)
            away = np.abs(np.asarray(shown, dtype=int) - np.asarray(ours, dtype=int))
            assert (away > 8).mean() < 0.01
            checked += 1
    assert checked >= 6


@pytest.mark.parametrize("asked", ["0-0-1000", "101-0-1000", "5-3-1000", "5-0-9", "5-0-9999999", "x", "5-0", "5-0-1e9"])
def test_what_is_no_variant_is_not_found(client, character, chart, asked):
    drawing = chart.drawings.first()
    for address in (
        f"/cast/drawings/{drawing.pk}/picture",
        f"/cast/{character.pk}/head.svg",
        f"/cast/{character.pk}/face",
    ):
        assert client.get(f"{address}?boil={asked}").status_code == 404
