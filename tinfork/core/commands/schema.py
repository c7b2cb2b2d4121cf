"""The declared edit commands as a JSON Schema, as a table for people, and as types for the page's scripts.

`python -m tinfork.core.commands.schema` writes the three files anew; a test fails when they are out of date.
"""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
from msgspec import NODEFAULT, inspect

from tinfork.core.commands.declared import Parameters, describe
from tinfork.core.commands.table import ALL

_ROOT = Path(__file__).parents[3]
#: The files that follow from the declarations.
SCHEMA = _ROOT / "docs/formats/edits.schema.json"
TABLE = _ROOT / "docs/formats/edits.md"
TYPES = _ROOT / "tinfork/static/js/lib/edits.d.ts"


def json_schema() -> dict[str, Any]:
    """A JSON Schema (2020-12) of an edit: `name`, and the `parameters` of that name."""
    refs, components = msgspec.json.schema_components(ALL.values(), ref_template="#/$defs/{name}")
    for kind in ALL.values():
        components[kind.__name__]["description"] = _doc(kind)
    edits = [
        {
            "type": "object",
            "properties": {"name": {"const": name}, "parameters": ref},
            "required": ["name", "parameters"],
        }
        for name, ref in zip(ALL, refs, strict=True)
    ]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "An edit of a shot",
        "description": "Frames count from 0, times are microseconds of the shot.",
        "oneOf": edits,
        "$defs": components,
    }


def table() -> str:
    """What each edit does and which parameters it takes, in Markdown."""
    lines = [
        "# Edits",
        "",
        "Every change of a shot is one of these edits, sent as `name` and `parameters`. Frames count from 0, `last`",
        "is the last one that is meant; times (`_us`) are microseconds of the shot. What is wrong is refused in words",
        "and changes nothing. The same as [JSON Schema](edits.schema.json). Written by",
        "`python -m tinfork.core.commands.schema`.",
        "",
    ]
    for name, kind in ALL.items():
        lines += [f"## `{name}`", "", _doc(kind), ""]
        lines += [_row(field) for field in _fields(kind)]
        lines.append("")
    return "\n".join(lines)


def _row(field: inspect.Field) -> str:
    inner = _rows_of(field.type)
    each = "each with" if isinstance(field.type, inspect.ListType) else "with"
    of = f", {each} {', '.join(f'`{f.encode_name}` ({describe(f.type)})' for f in inner)}" if inner else ""
    default = "" if field.required or field.default in (None, NODEFAULT) else f", else {json.dumps(field.default)}"
    may = "" if field.required else " (optional)"
    return f"- `{field.encode_name}`{may}: {describe(field.type)}{of}{default}"


def _rows_of(kind: inspect.Type) -> tuple[inspect.Field, ...]:
    if isinstance(kind, inspect.ListType):
        return _rows_of(kind.item_type)
    if isinstance(kind, inspect.UnionType):
        return next((rows for one in kind.types if (rows := _rows_of(one))), ())
    return kind.fields if isinstance(kind, inspect.StructType) else ()


def typescript() -> str:
    """Types of the parameters by the edit's name."""
    lines = [
        "// Written by `python -m tinfork.core.commands.schema`: the edits as core/commands declares them.",
        "// Without an import or export they are known to every script.",
        "",
    ]
    lines.append("interface EditParameters {")
    for name, kind in ALL.items():
        lines += [f"  /** {_doc(kind)} */", f"  {name}: {_struct(_fields(kind))};"]
    lines += ["}", "", "type EditName = keyof EditParameters;"]
    lines.append("/** An edit with what it is given; undo and redo are given nothing. */")
    lines.append('type ShotEdit = { [K in EditName]: [K, EditParameters[K]] }[EditName] | ["undo"] | ["redo"];')
    lines += ["type SendEdit = (...edit: ShotEdit) => unknown;", ""]
    return "\n".join(lines)


def _struct(fields: tuple[inspect.Field, ...]) -> str:
    inner = "; ".join(f"{f.encode_name}{'' if f.required else '?'}: {_type(f.type)}" for f in fields)
    return f"{{ {inner} }}"


def _type(kind: inspect.Type) -> str:
    match kind:
        case inspect.IntType() | inspect.FloatType():
            return "number"
        case inspect.StrType():
            return "string"
        case inspect.BoolType():
            return "boolean"
        case inspect.NoneType():
            return "null"
        case inspect.LiteralType(values=values):
            return " | ".join(json.dumps(value) for value in values)
        case inspect.UnionType(types=types):
            return " | ".join(_type(one) for one in types)
        case inspect.ListType(item_type=item):
            return f"Array<{_type(item)}>"
        case inspect.DictType(value_type=value):
            return f"Record<string, {_type(value)}>"
        case inspect.StructType(fields=fields):
            return _struct(fields)
    raise AssertionError(f"No type for {kind}.")


def _fields(kind: type[Parameters]) -> tuple[inspect.Field, ...]:
    found = inspect.type_info(kind)
    assert isinstance(found, inspect.StructType)
    return found.fields


def _doc(kind: type[Parameters]) -> str:
    return " ".join((kind.__doc__ or "").split())


def files() -> Iterator[tuple[Path, str]]:
    """Each file and its content."""
    yield SCHEMA, json.dumps(json_schema(), indent=1, ensure_ascii=False) + "\n"
    yield TABLE, table()
    yield TYPES, typescript()


if __name__ == "__main__":
    for path, content in files():
        path.write_text(content, encoding="utf-8")
