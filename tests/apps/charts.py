"""What tests of charts share: a drawn chart's files, and how they are uploaded."""

from tests.apps.conftest import files
from tests.pictures import encoded, mouths

PICTURES = mouths()


def upload_files(client, chart, named, **more):
    return client.post(f"/cast/charts/{chart.pk}/drawings", {"files": files(*named)} | more)


def fourteen():
    return [(f"{n:02d}.png", encoded(p)) for n, p in PICTURES.items()]


def said(answer):
    return answer.content.decode()


def on_face(chart):
    """The ink of each drawing in a frame of 1600 x 900, by number: left, top, right, bottom."""
    from tinfork.core.mouths.placement import lay as lay_down

    out = {}
    for d in chart.drawings.select_related("chart__part__character"):
        laid, box = lay_down(d.chart.part.placement, d.registration, (1600, 900)), d.measured.box
        scale = laid.width / d.width
        left, top = laid.x - laid.width / 2, laid.y - laid.height / 2
        out[d.number] = (left + box.left * scale, top + box.top * scale,
                         left + box.right * scale, top + box.bottom * scale)  # fmt: skip
    return out


def checked(client, chart):
    from tinfork.apps.cast.queries import findings_of

    shown = said(client.get(f"/cast/charts/{chart.pk}/check"))
    findings = findings_of(type(chart).objects.get(pk=chart.pk))
    assert all(f.text.split(":")[0].replace("'", "&#x27;") in shown for f, _ in findings)
    return [(f.kind, f.drawings, f.mend) for f, _ in findings]
