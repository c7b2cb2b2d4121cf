"""Known vulnerabilities of the locked packages, by `pip-audit` and `npm audit`.

A known vulnerability fails the check; a service that cannot be reached does not, but is reported.
"""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[2]
_LIMIT_S = 90
_LOCKED = ("base.txt", "japanese.txt", "dev.txt")


def main() -> int:
    """Check all packages; returns 1 if there is a vulnerability."""
    faults = 0
    for name in _LOCKED:
        command = [str(Path(sys.executable).with_name("pip-audit")), "--progress-spinner", "off", "--format", "json"]
        command += ["--disable-pip", "--require-hashes", "-r", f"requirements/{name}"]
        faults += _say(name, *python_faults(_answer(command)))
    npm = [str(Path(sys.executable).with_name("npm")), "audit", "--json"]
    faults += _say("package-lock.json", *npm_faults(_answer(npm)))
    return 1 if faults else 0


def python_faults(told: Any) -> tuple[int, list[str]]:
    """The number of packages that pip-audit could check, and a line for each vulnerability."""
    packages = told.get("dependencies", []) if isinstance(told, dict) else []
    known = [package for package in packages if "skip_reason" not in package]
    return len(known), [
        f"{package['name']} {package['version']}: {fault['id']}, mended in {', '.join(fault['fix_versions']) or 'none'}"
        for package in known
        for fault in package["vulns"]
    ]


def npm_faults(told: Any) -> tuple[int, list[str]]:
    """The same for npm's report."""
    if not isinstance(told, dict) or "auditReportVersion" not in told:
        return 0, []
    faults = [f"{name}: {fault['severity']}" for name, fault in told.get("vulnerabilities", {}).items()]
    return int(told["metadata"]["dependencies"]["total"]), faults


def _answer(command: list[str]) -> Any:
    try:
        done = subprocess.run(command, cwd=ROOT, capture_output=True, timeout=_LIMIT_S, check=False)
        return json.loads(done.stdout)
    except (subprocess.TimeoutExpired, json.JSONDecodeError):
        return None


def _say(name: str, looked_up: int, faults: list[str]) -> int:
    if not looked_up:
        print(f"{name}: nothing was looked up, the service cannot be reached")
    else:
        print(f"{name}: {looked_up} packages looked up, {len(faults)} with a known fault")
    for fault in faults:
        print(f"  {fault}")
    return len(faults)


if __name__ == "__main__":
    sys.exit(main())
