import gzip
import io
import json
import re

import pytest
from django.core.exceptions import ImproperlyConfigured
from PIL import Image

from tests.pictures import encoded, mouths
from tinfork.apps.cast.models import Drawing
from tinfork.apps.common.bundling import bundle
from tinfork.apps.common.storage import keep_bytes


def written(folder, **modules):
    for name, text in modules.items():
        path = folder / f"{name.replace('__', '/')}.js"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)


def test_a_page_s_script_holds_what_it_imports_and_the_rest_goes(tmp_path):
    written(
        tmp_path,
        desk__main='import { half } from "../lib/sums.js";\nconsole.log(half(8));\n',
        lib__sums="/** @returns {import('./types.js').Half} */\nexport const half = (n) => n / 2;\n",
        lib__types="export const Half = 1;\n",
        theme="document.documentElement.dataset.theme = 'dark';\n",
    )
    assert bundle(tmp_path) == {"lib/sums.js"}
    # A module that only a comment names is nobody's import.
    assert {path.name for path in tmp_path.rglob("*") if path.is_file()} == {"main.js", "types.js", "theme.js"}
    main = (tmp_path / "desk/main.js").read_text()
    assert "import" not in main and re.search(r"half=n=>n/2", main)


def test_a_script_with_a_mistake_stops_the_start(tmp_path):
    written(tmp_path, main='import "./gone.js";\n')
    with pytest.raises(ImproperlyConfigured, match="gone"):
        bundle(tmp_path)


def test_without_its_tool_the_start_says_what_to_install(tmp_path, monkeypatch):
    monkeypatch.setenv("PATH", str(tmp_path))
    written(tmp_path, main="1;\n")
    with pytest.raises(ImproperlyConfigured, match="install Debian's package"):
        bundle(tmp_path)


def test_small_drawings_come_together_and_large_ones_as_thumbs(client, read_shot):
    small, large = read_shot.character.mouth.charts.get().drawings.all()[:2]
    noise = Image.effect_noise((400, 400), 90).convert("RGBA")
    data = io.BytesIO()
    noise.save(data, "PNG")
    assert len(data.getvalue()) > 100_000
    Drawing.objects.filter(pk=large.pk).update(
        picture=keep_bytes(data.getvalue(), ".png"), thumb=keep_bytes(encoded(next(iter(mouths().values()))), ".png")
    )
    page = client.get(f"/shots/{read_shot.pk}/desk").content.decode()
    told = json.loads(re.search(r'id="desk-document"[^>]*>(.*?)</script>', page, re.S)[1])
    (address,) = told["smallPictures"]
    answer = client.get(address)
    assert answer["Cache-Control"].endswith("immutable")
    found = answer.json()
    drawings = {drawing["id"]: drawing for drawing in told["characters"][0]["drawings"]}
    # One that is small is shown itself, at any size.
    assert drawings[small.pk]["thumb"] == drawings[small.pk]["url"]
    assert found[drawings[small.pk]["url"]].startswith("data:image/svg+xml;charset=utf-8,%3Csvg")
    assert drawings[large.pk]["url"] not in found
    assert found[drawings[large.pk]["thumb"]].startswith("data:image/png;base64,")
    # Another drawing, another address: the old one is not believed for ever.
    Drawing.objects.filter(pk=small.pk).update(picture=keep_bytes(b"<svg xmlns='http://www.w3.org/2000/svg'/>", ".svg"))
    assert client.get(address)["Cache-Control"] == "private, no-cache"


def test_a_missing_file_leaves_the_other_drawings(client, read_shot):
    drawing = read_shot.character.mouth.charts.get().drawings.first()
    Drawing.objects.filter(pk=drawing.pk).update(picture="00/gone.svg")
    found = client.get(f"/cast/{read_shot.character.pk}/drawings.json").json()
    assert len(found) == read_shot.character.mouth.charts.get().drawings.count() - 1


def test_pages_are_compressed_and_recordings_are_not(client, read_shot):
    asked = {"headers": {"Accept-Encoding": "gzip"}}
    page = client.get(f"/shots/{read_shot.pk}/desk", **asked)
    assert page["Content-Encoding"] == "gzip"
    assert b"desk-document" in gzip.decompress(page.content)
    sound = client.get(f"/shots/{read_shot.pk}/mix", **asked)
    assert "Content-Encoding" not in sound
    assert int(sound["Content-Length"]) == len(b"".join(sound.streaming_content))
