"""Queries of the cast: the list, a chart's board, input and findings of the chart check, suggestions."""

import hashlib
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from django.db.models import Count, Prefetch, Q, QuerySet
from django.urls import reverse

from tinfork.apps.cast.models import Character, Chart, Drawing, Part
from tinfork.apps.common.serve import address_of
from tinfork.apps.people.access import listed
from tinfork.apps.people.models import User
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message
from tinfork.core.mouths.check import ChartFinding, CheckedDrawing, check_chart
from tinfork.core.mouths.placement import Placement
from tinfork.core.mouths.propose import InkShape, Proposal, propose
from tinfork.core.scene.heads import plain_head
from tinfork.core.speech.visemes import CLASSES, REST, VISEMES, typical_sounds

#: The number of characters on a page of the list.
LISTED = 60


def characters(user: User, *, search: str = "", archived: bool = False) -> QuerySet[Character]:
    """The characters that a user may see, by name, with the data of their cards."""
    found = listed(Character, user).filter(archived_at__isnull=not archived)
    if search:
        found = found.filter(name__icontains=search)
    mouths = Part.objects.filter(kind=Part.Kind.MOUTH).prefetch_related(
        # Aggregation drops the model's default order.
        Prefetch("charts", Chart.objects.annotate(count=Count("drawings")).order_by("pk"))
    )
    counted = found.annotate(used=Count("shots", distinct=True)).order_by("name", "pk")
    return counted.prefetch_related(Prefetch("parts", mouths))


def cards_of(charts: list[int], count: int = 5) -> dict[int, list[Drawing]]:
    """A few drawings of some charts, spread over each, in one query."""
    out: dict[int, list[Drawing]] = {pk: [] for pk in charts}
    for drawing in Drawing.objects.filter(chart__in=charts, is_hidden=False).defer("measures"):
        out[drawing.chart_id].append(drawing)
    return {pk: all_[:: max(1, -(-len(all_) // count))][:count] for pk, all_ in out.items()}


@dataclass(frozen=True, slots=True)
class Chip:
    """A sound or a class on the page: its claim, its IPA, its class."""

    claim: str
    label: str
    viseme: str
    is_class: bool


@dataclass(frozen=True, slots=True)
class CharacterCard:
    """A drawing with its sounds, and the classes for which it is only the fallback."""

    drawing: Drawing
    chips: tuple[Chip, ...]
    stands_in: tuple[Chip, ...]


@dataclass(frozen=True, slots=True)
class ChartRow:
    """A class in the list of sounds: its chip, the chips of its sounds, and the drawings that show it."""

    chip: Chip
    common: tuple[Chip, ...]
    rare: tuple[Chip, ...]
    shown_by: tuple[int, ...]
    stand_in: int | None


@dataclass(frozen=True, slots=True)
class Board:
    """A chart with everything for the page of sounds."""

    chart: Chart
    cards: tuple[CharacterCard, ...]
    rows: tuple[ChartRow, ...]
    covered: int
    speaks: bool
    zoom: float

    @property
    def total(self) -> int:
        """The number of classes."""
        return len(VISEMES)


def chip_of(claim: str) -> Chip:
    """A chip for a class or a sound."""
    if claim in CLASSES:
        return Chip(claim, " ".join(typical_sounds(claim)) or Message("silence"), claim, True)
    return Chip(claim, claim, next(v for v, sounds in CLASSES.items() if claim in sounds), False)


def _on_card(claim: str, alone: set[str]) -> Chip:
    """A chip on a drawing; the chip of a class lists those of its sounds that no drawing claims singly."""
    chip = chip_of(claim)
    left = [sound for sound in typical_sounds(claim) if sound not in alone] if chip.is_class else []
    return replace(chip, label=" ".join(left)) if left else chip


def board_of(chart: Chart) -> Board:
    """The board of a chart."""
    drawings = list(chart.drawings.all())
    seen = [d for d in drawings if not d.is_hidden]
    try:
        content = chart.content
    except ChartError:
        content = None
    unclaimed = content.unclaimed() if content else ()
    stand_ins = {v: content.drawing_for(v).number for v in unclaimed} if content else {}
    alone = {c for d in seen for c in d.shows if c not in CLASSES}
    cards = tuple(
        CharacterCard(
            d,
            tuple(_on_card(c, alone) for c in sorted(d.shows, key=_order)),
            tuple(chip_of(v) for v, number in stand_ins.items() if number == d.number and not d.is_hidden),
        )
        for d in drawings
    )
    rows = tuple(_row(viseme, seen, stand_ins.get(viseme)) for viseme in VISEMES)
    return Board(
        chart, cards, rows, len(VISEMES) - len(unclaimed) if content else 0, content is not None, zoom_of(drawings)
    )


def zoom_of(drawings: list[Drawing]) -> float:
    """The factor by which thumbnails can be enlarged without cutting off ink."""
    reach = [
        abs(side / whole - 0.5)
        for drawing in drawings
        if drawing.measured and (box := drawing.measured.box)
        for side, whole in (
            (box.left, drawing.width),
            (box.right, drawing.width),
            (box.top, drawing.height),
            (box.bottom, drawing.height),
        )
    ]
    return round(min(3.0, max(1.0, 0.48 / max(reach))), 2) if reach else 1.0


def _order(claim: str) -> tuple[int, int]:
    chip = chip_of(claim)
    return VISEMES.index(chip.viseme), 0 if chip.is_class else 1 + CLASSES[chip.viseme].index(claim)


def _row(viseme: str, drawings: list[Drawing], stand_in: int | None) -> ChartRow:
    common = typical_sounds(viseme)
    shown_by = tuple(d.number for d in drawings if any(c == viseme or c in CLASSES[viseme] for c in d.shows))
    return ChartRow(
        chip_of(viseme),
        tuple(map(chip_of, common)) if len(CLASSES[viseme]) > 1 else (),
        tuple(map(chip_of, (s for s in CLASSES[viseme] if s not in common))),
        shown_by,
        stand_in,
    )


def drawings_to_check(chart: Chart) -> list[CheckedDrawing]:
    """The measured drawings as input of the check, without hidden ones."""
    out = []
    for drawing in chart.drawings.filter(is_hidden=False):
        drawing.chart = chart
        if drawing.measured:
            out.append(CheckedDrawing(drawing.content, drawing.measured, drawing.registration))
    return out


def findings_of(chart: Chart) -> list[tuple[ChartFinding, list[Drawing]]]:
    """The findings of the check, with their drawings; closures only for mouths."""
    by_number = {d.number: d for d in chart.drawings.all()}
    found = check_chart(drawings_to_check(chart))
    return [(f, [by_number[n] for n in f.drawings]) for f in found if chart.part.speaks or f.kind != "closure"]


def proposals_of(chart: Chart) -> list[tuple[Proposal, Drawing, tuple[Chip, ...]]]:
    """Suggested sounds for visible drawings without any."""
    waiting = {d.number: d for d in chart.drawings.filter(Q(shows=[]) & Q(is_hidden=False))}
    looks = [InkShape.of(d.content, d.measured) for d in waiting.values() if d.measured]
    return [(p, waiting[p.number], tuple(chip_of(c) for c in p.shows)) for p in propose(looks)]


def resting_of(chart: Chart) -> Drawing | None:
    """The drawing of rest, used as onion skin for registration."""
    drawings = [d for d in chart.drawings.all() if not d.is_hidden]
    return next((d for d in drawings if REST in d.shows), drawings[0] if drawings else None)


def drawing_document(drawing: Drawing) -> dict[str, Any]:
    """A drawing for the page's scripts."""
    at = drawing.registration
    return {
        "id": drawing.pk,
        "number": drawing.number,
        "name": drawing.name,
        "key": drawing.key,
        "url": address_of("drawing_picture", drawing.pk, drawing.picture),
        "register": reverse("drawing_register", args=[drawing.pk]),
        "width": at.width,
        "height": at.height,
        "canvas": at.canvas_width,
        "point": [at.x, at.y],
        "offset": [at.dx, at.dy],
    }


def tracing_addresses(drawing: Drawing) -> list[str]:
    """The addresses of a drawing's tracings."""
    return _tracings_at(reverse("drawing_picture", args=[drawing.pk]), drawing.tracings)


def face_tracing_addresses(of: Character | Chart) -> list[str]:
    """The addresses of the tracings of a face: a character's, or that of a set of mouths."""
    view = "face" if isinstance(of, Character) else "chart_face"
    return _tracings_at(reverse(view, args=[of.pk]), of.face_tracings)


def _tracings_at(address: str, keys: list[str]) -> list[str]:
    return [f"{address}?tracing={n}&v={Path(key).stem[:16]}" for n, key in enumerate(keys, start=1)]


def face_address(character: Character) -> str:
    """The address of a character's face picture, or of the plain head if it has none."""
    if character.face:
        return address_of("face", character.pk, character.face)
    return f"{reverse('plain_head', args=[character.pk])}?v={hash_of(head_of(character))}"


def head_of(character: Character) -> str:
    """SVG text of the plain head of a character without a face picture."""
    has_eyes = any(part.kind == Part.Kind.EYES for part in character.parts.all())
    return plain_head(character.ink, character.mouth.placement, with_eyes=not has_eyes)


def hash_of(text: str) -> str:
    """A short hash of a text."""
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def place_document(character: Character, part: Part) -> dict[str, Any]:
    """A part's place on the face, for the page's scripts."""
    return {"face": face_address(character), "place": _place(part.placement)}


def _place(at: Placement) -> dict[str, float]:
    return {**at.to_dict(), "aspect": at.aspect}


def set_face_document(chart: Chart, part: Part) -> dict[str, Any]:
    """A part's place on the own face of a set of mouths; None if it is hidden there."""
    at = chart.placement_of(part)
    tracings = face_tracing_addresses(chart)
    return {"face": address_of("chart_face", chart.pk, chart.face), "tracings": tracings, "place": at and _place(at)}


def stage_document(chart: Chart, on: Chart | None = None) -> dict[str, Any]:
    """Everything needed to place a chart's drawings on its character's face, or on that of a set of mouths (`on`)."""
    laid = place_document(chart.character, chart.part)
    if on:
        own = set_face_document(on, chart.part)
        laid = own | {"place": own["place"] or {**laid["place"], "aspect": on.face_aspect}, "hidden": not own["place"]}
    drawings = [d for d in chart.drawings.all() if not d.is_hidden]
    for drawing in drawings:
        drawing.chart = chart
    resting = resting_of(chart)
    return laid | {
        "on": on.pk if on else None,
        "drawings": [drawing_document(d) for d in drawings],
        "resting": resting.pk if resting else None,
        "save": reverse("part_place", args=[chart.part_id]),
    }
