"""`./run attack [NAME ...] [--short]`: runs all attacks or some, and prints a table; fails if one succeeded."""

import argparse
import sys
import time
from collections.abc import Callable

from tools.attack import disk, files, fuzz, killing, slowly
from tools.attack.site import Row, Site, attacked


def main() -> int:
    """Run attacks and print the results."""
    parser = argparse.ArgumentParser(prog="attack")
    parser.add_argument(
        "names", nargs="*", metavar="NAME", help="files, nonsense, slow, killed, disk; all of them by default"
    )
    parser.add_argument("--short", action="store_true", help="three minutes of it, as in CI")
    options = parser.parse_args()
    short = options.short
    on_one_site: dict[str, Callable[[Site], Row]] = {
        "files": lambda site: files.attack(site, slow=not short),
        "slow": lambda site: slowly.attack(site, connections=10 if short else 40, seconds=8 if short else 60),
        "nonsense": lambda site: fuzz.attack(site, each=1 if short else 10),
        "killed": lambda site: killing.attack(site, seconds=8 if short else 300),
    }
    wanted = options.names or [*on_one_site, "disk"]
    unknown = [name for name in wanted if name not in (*on_one_site, "disk")]
    if unknown:
        parser.error(f"there is no attack “{unknown[0]}”")
    rows: list[Row] = []
    together = [name for name in on_one_site if name in wanted]
    if together:
        with attacked() as site:
            for name in together:
                rows.append(_one(name, lambda name=name: on_one_site[name](site)))  # type: ignore[misc]
            asked = f"{site.ledger.asked} answers in all"
            rows.append(Row("answers of 500", site.ledger.asked, asked, tuple(site.ledger.broken)))
            _say_what_fell(rows[-1])
    if "disk" in wanted:
        rows.append(_one("disk", disk.attack))
    return _say(rows)


def _one(name: str, attack: Callable[[], Row]) -> Row:
    start = time.monotonic()
    print(f"· {name}", flush=True)
    row = attack()
    print(f"  {time.monotonic() - start:.0f} s: {row.told}", flush=True)
    _say_what_fell(row)
    return row


def _say_what_fell(row: Row) -> None:
    for what in row.fell[:20]:
        print(f"  FELL: {row.name}: {what[:300]}", flush=True)


def _say(rows: list[Row]) -> int:
    """The table, and what fell; 1 if anything did."""
    print("\n| attack | tries | came to | fell |\n|---|---|---|---|")
    for row in rows:
        print(f"| {row.name} | {row.tries} | {row.told} | {len(row.fell)} |")
    # Once more, where a long log is not cut.
    for row in rows:
        _say_what_fell(row)
    fell = sum(len(row.fell) for row in rows)
    print(f"\nattacks: {sum(not row.fell for row in rows)} held, {sum(bool(row.fell) for row in rows)} fell")
    return 1 if fell else 0


if __name__ == "__main__":
    sys.exit(main())
