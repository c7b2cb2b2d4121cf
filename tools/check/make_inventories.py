"""Write tests/golden/inventories.json: the IPA symbols that the synthesiser's voices use, by language.

Usage: python -m tools.check.make_inventories. Each language pronounces the interface texts that Django has in it, or
those of Italian where it has none, in a process of its own.
"""

import json
import re
import subprocess
import sys
from pathlib import Path

from tinfork.engines.synthesiser import languages, pronounce
from tools.ear.texts import catalogue

TARGET = Path(__file__).resolve().parents[2] / "tests" / "golden" / "inventories.json"
_TEXTS = {"cmn": "zh_Hans", "yue": "zh_Hant", "hak": "zh_Hans", "grc": "el"}


def inventory(code: str) -> list[str]:
    """The symbols of one language, stress and tone marks off."""
    base = code.split("-")[0]
    texts = catalogue(_TEXTS.get(base, base)) or catalogue("it")
    found = {symbol for text in texts[:300] for symbol in pronounce(text, code)}
    return sorted({re.sub(r"[ˈˌ\d]", "", symbol) for symbol in found} - {""})


def main() -> None:
    """All of them, or the one that is named, to standard output."""
    if len(sys.argv) > 1:
        print(json.dumps(inventory(sys.argv[1])))
        return
    found: dict[str, list[str]] = {}
    for language in languages():
        command = [sys.executable, "-m", "tools.check.make_inventories", language.code]
        done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
        if done.returncode:
            print(f"{language.code} cannot be spoken")
            continue
        found[language.code] = json.loads(done.stdout.splitlines()[-1])
    TARGET.write_text(json.dumps(found, ensure_ascii=False, indent=0) + "\n")
    print(f"{TARGET.name}: {len(found)} languages, {len({s for row in found.values() for s in row})} symbols")


if __name__ == "__main__":
    main()
