"""Pictures of ours come in again as they are; whatever else is in a file is left behind."""

import io

import numpy as np
import pytest
from PIL import Image, PngImagePlugin

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
