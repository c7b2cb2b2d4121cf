"""The worked examples of `docs/recipes` do what they say, and touch no more files than they say."""

import io
import re
import sys
import types
from pathlib import Path

import pytest

from tests.scenes import reading_bytes
from tinfork.core.clock import FrameRate
from tinfork.core.commands import table as commands
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.schema import json_schema
from tinfork.core.soundtrack.model import Note, Soundtrack
from tinfork.engines.handover import table as exporters
from tinfork.engines.handover.command import hand_over

ROOT = Path(__file__).parents[2]
RECIPES = ROOT / "docs" / "recipes"


def example(recipe, monkeypatch):
    """The module that a recipe shows."""
    (code,) = re.findall(r"```python\n(.*?)```", (RECIPES / f"{recipe}.md").read_text("utf-8"), re.S)
    module = types.ModuleType(f"recipe_{recipe.replace('-', '_')}")
    monkeypatch.setitem(sys.modules, module.__name__, module)
    exec(compile(code, str(RECIPES / recipe), "exec"), module.__dict__)
    return module


def test_the_exporter_needs_its_module_and_a_row(tmp_path, monkeypatch):
    exporter = example("exporter", monkeypatch).EXPORTER
    monkeypatch.setattr(exporters, "EXPORTERS", (*exporters.EXPORTERS, exporter))
    monkeypatch.setattr(exporters, "BY_KIND", {**exporters.BY_KIND, exporter.kind: exporter})
    source, out = tmp_path / "shot.json", io.BytesIO()
    source.write_bytes(reading_bytes())
    hand_over(source, exporter.kind, {"character": "Odalys"}, out)
    rows = [line.split("\t") for line in out.getvalue().decode().splitlines()]
    # As the edit list and the sheet of the same shot have them.
    assert [(row[0], row[2]) for row in rows] == [
        ("101", "6"),
        ("107", "2"),
        ("109", "4"),
        ("113", "12"),
        ("125", "6"),
        ("131", "18"),
    ]


def test_the_command_needs_its_class_and_a_row(monkeypatch):
    module = example("edit-command", monkeypatch)
    monkeypatch.setattr(commands, "COMMANDS", {**commands.COMMANDS, **module.COMMANDS})
    monkeypatch.setattr(commands, "ALL", {**commands.ALL, **module.COMMANDS})
    noted = Soundtrack(notes=(Note(0, "blink"), Note(1_000_000, "nod")))
    context = EditContext(FrameRate.parse("24"), {}, frozenset())
    after = commands.parse_command("shout_notes", {"frame": 12}).apply(noted, context)
    assert [note.text for note in after.notes] == ["blink", "NOD"]
    monkeypatch.setattr("tinfork.core.commands.schema.ALL", commands.ALL)
    assert any(edit["properties"]["name"]["const"] == "shout_notes" for edit in json_schema()["oneOf"])


@pytest.mark.parametrize("recipe", sorted(path.stem for path in RECIPES.glob("*.md")))
def test_every_file_that_a_recipe_names_is_there(recipe):
    text = (RECIPES / f"{recipe}.md").read_text("utf-8")
    named = set(re.findall(r"`((?:tinfork|tests|tools|docs)/[\w./-]*)`", text))
    assert [path for path in sorted(named) if not (ROOT / path).exists()] == []
