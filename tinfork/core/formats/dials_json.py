"""Named dials as JSON: how mouths are timed, to be used in another production.

Version 1:

    {"format": "tin-fork-dials", "version": 1, "dials": {"snappy": {"lead": 2, ...}, ...}}

Dials are those of core/solver/problem.py, whole numbers in its ranges.
"""

import json
from collections.abc import Mapping
from dataclasses import asdict

from tinfork.core.errors import FormatError, SolverError
from tinfork.core.formats.versions import DIALS
from tinfork.core.solver.dials import Dials, dials_from

#: The most presets in a file, and the longest name.
MOST, LONGEST_NAME = 200, 40


def write(named: Mapping[str, Dials]) -> bytes:
    """Dials by their names."""
    rows = {name: asdict(dials) for name, dials in named.items()}
    document = {"format": DIALS.name, "version": DIALS.version, "dials": rows}
    return (json.dumps(document, ensure_ascii=False, indent=1) + "\n").encode()


def read(data: bytes) -> dict[str, Dials]:
    """Dials by their names, in order.

    Raises
    ------
    FormatError
    """
    try:
        document = json.loads(data)
        if document["format"] != DIALS.name or not DIALS.knows(document["version"]):
            raise FormatError("presets.other_version")
        document = DIALS.upgraded(document)
        found = {" ".join(str(name).split())[:LONGEST_NAME]: dials_from(row) for name, row in document["dials"].items()}
    except SolverError as error:
        raise FormatError("presets.unusable", error=error) from error
    except FormatError:
        raise
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise FormatError("presets.not_presets") from error
    if "" in found or len(found) > MOST:
        raise FormatError("presets.unnamed", most=MOST)
    return found
