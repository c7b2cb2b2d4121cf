"""Pictures of ours come in again as they are; whatever else is in a file is left behind."""

import io

import numpy as np
import pytest
from PIL import Image, PngImagePlugin

from tests.pictures import ora
from tinfork.core.errors import FormatError
from tinfork.engines.characters import prepare_face

NOISE = Image.fromarray(np.random.default_rng(4).integers(0, 255, (90, 160, 3), dtype=np.uint8), "RGB")


def saved(image, kind, **more):
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


@pytest.mark.parametrize("image", [NOISE, NOISE.convert("RGBA").rotate(20)], ids=["opaque", "with alpha"])
def test_what_was_made_safe_once_is_kept_to_the_byte(image):
    first, suffix, aspect = prepare_face(saved(image, "PNG"), "back.png")
    again = prepare_face(first, f"back{suffix}")
    assert again == (first, suffix, aspect)


def plain():
    return prepare_face(saved(NOISE, "PNG"), "x.png")[0]


def with_comment():
    info = PngImagePlugin.PngInfo()
    info.add_text("secret", "the recipe")
    return saved(NOISE.convert("RGBA").rotate(20), "PNG", pnginfo=info)


def exif():
    made = Image.Exif()
    made[0x010E] = "the recipe"
    return made


@pytest.mark.parametrize(
    "data",
    [
        plain() + b"<script>the recipe</script>",
        plain()[:2] + b"\xff\xfe\x00\x0cthe recipe" + plain()[2:],
        plain()[:-2] + b"the recipe\xff\xd9",
        with_comment(),
        saved(NOISE.convert("RGBA").rotate(20), "PNG") + b"the recipe",
        saved(NOISE, "JPEG", comment=b"the recipe"),
        saved(NOISE, "JPEG", exif=exif()),
    ],
    ids=["after the end", "in a comment", "in the scan", "in a chunk", "after a chunk", "a comment", "in Exif"],
)
def test_what_hides_beside_the_pixels_is_left_behind(data):
    made, *_ = prepare_face(data, "x.jpg")
    # In the scan it is pixels, however odd: the decoder has read it.
    assert b"the recipe" not in made or (made == data and data == plain()[:-2] + b"the recipe\xff\xd9")


def test_a_larger_picture_than_any_frame_is_made_smaller():
    made, _, _ = prepare_face(saved(Image.new("RGB", (5000, 1250), "#456"), "JPEG"), "x.jpg")
    assert Image.open(io.BytesIO(made)).size == (4096, 1024)


@pytest.mark.parametrize("kind", ["PNG", "WEBP", "GIF", "TIFF", "JPEG"])
def test_a_picture_of_any_kind_that_drawings_have_is_a_face_or_a_background(kind):
    down, across = np.mgrid[0:90, 0:160]
    slope = np.stack([across * 1.5, down * 2.5, 200 - across], axis=-1).astype(np.uint8)
    data, suffix, aspect = prepare_face(saved(Image.fromarray(slope), kind), "x")
    assert suffix in (".png", ".jpg")
    assert aspect == pytest.approx(160 / 90)
    seen = np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), dtype=float)
    assert seen.shape == (90, 160, 3)
    # As it was, but for what JPEG and a palette cost.
    assert abs(seen - slope).mean() < 6


def test_layers_come_in_over_each_other():
    lower = np.full((30, 40, 4), (200, 20, 20, 255), dtype=np.uint8)
    upper = np.full((30, 20, 4), (20, 20, 200, 255), dtype=np.uint8)
    data, suffix, aspect = prepare_face(ora([("upper", upper, 0, 0), ("lower", lower, 0, 0)], (40, 30)), "layers.ora")
    assert (suffix, aspect) == (".jpg", pytest.approx(4 / 3))
    seen = np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), dtype=int)
    assert seen[15, 5, 2] > 150 > 80 > seen[15, 5, 0]
    assert seen[15, 35, 0] > 150 > 80 > seen[15, 35, 2]


@pytest.mark.parametrize("data", [b"PK\x03\x04", b"PK\x03\x04 not whole", b"GIF89a", b"II*\x00", b"RIFF0000WEBP"])
def test_what_only_begins_like_a_picture_is_refused(data):
    with pytest.raises(FormatError, match="x"):
        prepare_face(data, "x")
