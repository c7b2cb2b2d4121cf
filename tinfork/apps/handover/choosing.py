"""The choices on the hand-over page: an exporter and its options, and those that a production remembers."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.http import QueryDict

from tinfork.apps.produce.models import Production
from tinfork.core.errors import FormatError
from tinfork.core.messages import Message
from tinfork.core.scene.exporting import Exporter, Option
from tinfork.engines.handover.table import BY_KIND, EXPORTERS, exporter_of

#: The prefix of the names of option fields on the page.
PREFIX = "o-"
#: Marks a form with options, since a box that is not ticked sends nothing.
_SENT = "options"
MOST_PRESETS = 60


def kind_in(data: Mapping[str, Any]) -> Exporter:
    """The chosen exporter, by default the first; raises `FormatError`."""
    return exporter_of(str(data.get("as") or EXPORTERS[0].kind))


def values_in(exporter: Exporter, data: QueryDict, production: Production) -> dict[str, Any]:
    """The options that were sent, else those of a preset, else the last ones in the production.

    Raises `FormatError`.
    """
    if data.get(_SENT):
        sent = {name.removeprefix(PREFIX): value for name, value in data.items() if name.startswith(PREFIX)}
        flags = {option.name: option.name in sent for option in exporter.options if option.kind == "flag"}
        return exporter.chosen({**sent, **flags})
    preset = presets_of(production).get(data.get("preset", ""))
    if preset and preset["as"] == exporter.kind:
        return _known(exporter, preset["values"])
    return _known(exporter, production.handing_over.get("last", {}).get(exporter.kind, {}))


def _known(exporter: Exporter, values: Mapping[str, Any]) -> dict[str, Any]:
    """Stored values, without those that are not valid any more."""
    out = exporter.chosen({})
    for option in exporter.options:
        if values.get(option.name) is not None:
            try:
                out[option.name] = option.read(values[option.name])
            except FormatError:
                continue
    return out


def presets_of(production: Production) -> dict[str, Any]:
    """Named presets: an exporter and its values."""
    found = production.handing_over.get("presets", {})
    return {name: preset for name, preset in found.items() if preset.get("as") in BY_KIND}


@transaction.atomic
def remember(production: Production, exporter: Exporter, values: Mapping[str, Any], name: str = "") -> None:
    """Store the choices as defaults, and as a preset if there is a `name`.

    The chosen part of a shot is not stored. Raises `FormatError` for a name that is too long, or for too many presets.
    """
    name = " ".join(name.split())
    if len(name) > 60 or not name.isprintable():
        raise FormatError("Give these options a name of up to 60 characters.")
    row = Production.everything.select_for_update().get(pk=production.pk)
    kept = {key: value for key, value in values.items() if key not in ("from", "to", "frame", "character", "first")}
    last = {**row.handing_over.get("last", {}), exporter.kind: kept}
    presets = dict(row.handing_over.get("presets", {}))
    if name:
        if name not in presets and len(presets) >= MOST_PRESETS:
            raise FormatError(
                "A production can have up to {most_presets} saved option sets. Delete one first.",
                most_presets=MOST_PRESETS,
            )
        presets[name] = {"as": exporter.kind, "values": kept}
    row.handing_over = {"last": last, "presets": presets}
    row.save(update_fields=["handing_over"])
    production.handing_over = row.handing_over


def fields_of(
    exporter: Exporter, values: Mapping[str, Any], characters: list[str]
) -> list[tuple[Option, Any, list[tuple[str, str]]]]:
    """Each option with its value and choices; a character is chosen among those in the shot."""
    out = []
    for option in exporter.options:
        choices = list(option.choices)
        if option.name == "character":
            if len(characters) < 2:
                continue
            usual = Message("the first" if "first" in option.hint else "everyone")
            choices = [("", usual), *((name, name) for name in characters)]
        out.append((option, values.get(option.name), choices))
    return out
