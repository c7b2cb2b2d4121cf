"""SVG that people bring: what is drawn stays, what could run, load or point outside goes or is refused."""

import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.pictures import pixels_of
from tinfork.core.errors import FormatError
from tinfork.core.mouths.starter import starter_pictures
from tinfork.core.mouths.style import KINDS, Style
from tinfork.engines.raster import png_from_svg
from tinfork.engines.svg import clean_svg

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100" height="80">'


def svg(body, head=HEAD):
    return f"{head}{body}</svg>".encode()


def drawn(text, width=100):
    return pixels_of(png_from_svg(text, width))


@pytest.mark.parametrize("kind", KINDS)
def test_what_we_draw_comes_through_with_every_pixel(kind):
    for text in starter_pictures(Style(kind=kind)).values():
        clean, width, height = clean_svg(text.encode())
        assert (width, height) == (400, 300)
        assert (drawn(clean, 400) == drawn(text, 400)).all()


@pytest.mark.parametrize(
    "body",
    [
        "<script>alert(1)</script>",
        '<rect width="9" height="9" onload="alert(1)"/>',
        '<rect width="9" height="9" style="fill:url(http://example.test/a)"/>',
        '<rect width="9" height="9" fill="url(http://example.test/a#b)"/>',
        '<rect width="9" height="9" style="fill:red;behavior:url(x)"/>',
        '<use href="http://example.test/a.svg#b"/>',
        '<use xlink:href="../secret.svg#b"/>',
        '<use xlink:href="file:///etc/hostname#b"/>',
        '<foreignObject><body xmlns="http://www.w3.org/1999/xhtml">x</body></foreignObject>',
        "<style>@import url(http://example.test/a.css);</style>",
        "<style>.a{fill:url(file:///etc/hostname)}</style><rect class='a' width='9' height='9'/>",
        "<metadata>x</metadata>",
        '<animate attributeName="href" values="javascript:alert(1)"/>',
        '<filter id="f"><feImage xlink:href="/etc/hostname"/></filter>',
        "<!-- a comment --><?php echo 1 ?>",
        '<x:evil xmlns:x="http://example.test/ns"/>',
    ],
)
def test_nothing_that_runs_or_points_outside_is_kept(body):
    clean, _, _ = clean_svg(svg(body + '<rect width="50" height="40" fill="#123456"/>'))
    rest = clean.replace("http://www.w3.org/2000/svg", "").replace("http://www.w3.org/1999/xlink", "")
    assert not re.search(
        r"script|on\w+=|javascript|http|file:|\.\.|import|foreign|style|etc/|php|feImage|evil|metadata", rest, re.I
    )
    assert drawn(clean)[20, 25].tolist() == [0x12, 0x34, 0x56, 255]


@pytest.mark.parametrize(
    ("body", "why"),
    [
        ('<image href="/etc/hostname" width="9" height="9"/>', "picture inside"),
        ('<image href="data:image/png;base64,AAAA" width="9" height="9"/>', "picture inside"),
        ("<text>hi</text>", "text"),
        ('<pattern id="p"/>', "pattern"),
        ('<a xlink:href="javascript:alert(1)"/>', "not supported"),
        ("<video/>", "not supported"),
    ],
)
def test_what_would_silently_lack_something_is_refused_with_the_name(body, why):
    with pytest.raises(FormatError, match=rf"“mouth\.svg”.*{why}"):
        clean_svg(svg(body), "mouth.svg")


BOMB = """<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;">
<!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;">]>
<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><desc>&c;</desc></svg>"""
OUTSIDE = """<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/hostname">]>
<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><desc>&x;</desc></svg>"""


@pytest.mark.parametrize("text", [BOMB, OUTSIDE])
def test_entities_are_refused(text):
    with pytest.raises(FormatError, match="entities"):
        clean_svg(text.encode())


def test_a_plain_document_type_does_no_harm():
    text = (
        '<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">'
        + svg('<rect width="50" height="40"/>').decode()
    )
    clean, _, _ = clean_svg(text.encode())
    assert "DOCTYPE" not in clean


def test_uses_that_multiply_are_refused():
    levels = "".join(f'<g id="l{n}">' + f'<use xlink:href="#l{n - 1}"/>' * 10 + "</g>" for n in range(1, 9))
    with pytest.raises(FormatError, match="more than 20000 shapes"):
        clean_svg(svg(f'<defs><g id="l0"><rect width="1" height="1"/></g>{levels}</defs><use xlink:href="#l8"/>'))


@pytest.mark.parametrize(
    "body",
    [
        '<g id="a"><use xlink:href="#a"/></g>',
        '<g id="a"><use xlink:href="#b"/></g><g id="b"><use xlink:href="#a"/></g>',
    ],
)
def test_what_refers_to_itself_is_refused(body):
    with pytest.raises(FormatError, match="refers to itself"):
        clean_svg(svg(body))


def test_deep_nesting_is_refused_and_does_not_crash():
    with pytest.raises(FormatError):
        clean_svg(svg("<g>" * 30_000 + "</g>" * 30_000))


@pytest.mark.parametrize("size", ["", 'width="0" height="9"', 'width="90000" height="9"', 'width="50%" height="9"'])
def test_a_canvas_without_a_sensible_size_is_refused(size):
    with pytest.raises(FormatError, match="how large"):
        clean_svg(svg("", f'<svg xmlns="http://www.w3.org/2000/svg" {size}>'))


@pytest.mark.parametrize(
    ("size", "canvas"),
    [
        ('width="2in" height="1in"', (192, 96)),
        ('viewBox="0 0 30 20"', (30, 20)),
        ('width="10mm" height="10mm" viewBox="0 0 1 1"', (37.8, 37.8)),
    ],
)
def test_the_canvas_is_read_in_units_and_from_the_view_box(size, canvas):
    _, width, height = clean_svg(svg("", f'<svg xmlns="http://www.w3.org/2000/svg" {size}>'))
    assert (width, height) == pytest.approx(canvas, abs=0.1)


def test_colours_from_a_style_sheet_are_written_onto_their_shapes():
    body = (
        "<style>.st0{fill:#aa0000;stroke:none}.st1,.st2{fill:#00bb00}</style>"
        '<rect class="st0" width="50" height="80"/><rect class="st2" x="50" width="50" height="80"/>'
    )
    picture = drawn(clean_svg(svg(body))[0])
    assert picture[40, 20].tolist() == [0xAA, 0, 0, 255]
    assert picture[40, 80].tolist() == [0, 0xBB, 0, 255]


def test_gradients_clips_and_masks_inside_the_drawing_stay():
    body = (
        '<defs><linearGradient id="g"><stop offset="0" stop-color="#fff"/><stop offset="1" stop-color="#000"/>'
        '</linearGradient><clipPath id="c"><circle cx="50" cy="40" r="30"/></clipPath></defs>'
        '<rect width="100" height="80" fill="url(#g)" clip-path="url(#c)"/>'
    )
    assert (drawn(clean_svg(svg(body))[0]) == drawn(svg(body).decode())).all()


@given(st.binary(max_size=200))
def test_any_bytes_are_cleaned_or_refused(data):
    for text in (data, svg("").replace(b"</svg>", data + b"</svg>")):
        try:
            clean, _, _ = clean_svg(text)
        except FormatError:
            continue
        assert np.asarray(drawn(clean, 10)).shape[2] == 4
