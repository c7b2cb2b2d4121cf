"""Run benches by name, or all: prints tables, and writes bench/NAME.json with the date and the commit."""

import json
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

from tools.bench.acting import bench_acting
from tools.bench.desk import bench_desk
from tools.bench.export import bench_export
from tools.bench.hour import bench_hour
from tools.bench.listening import bench_listening
from tools.bench.people import bench_people
from tools.bench.reading import bench_reading
from tools.bench.review import bench_review
from tools.bench.solver import bench_solver
from tools.bench.sound import bench_sound

ROOT = Path(__file__).resolve().parents[2]


def main() -> int:
    """Run the benches named, or all."""
    benches = {
        "reading": bench_reading,
        "people": bench_people,
        "listening": bench_listening,
        "solver": bench_solver,
        "sound": bench_sound,
        "desk": bench_desk,
        "export": bench_export,
        "acting": bench_acting,
        "review": bench_review,
        "hour": bench_hour,
    }
    wanted = sys.argv[1:] or list(benches)
    if unknown := set(wanted) - set(benches):
        print(f"run bench: there is no bench {', '.join(unknown)}; there are {', '.join(benches)}", file=sys.stderr)
        return 2
    commit = subprocess.run(
        ["git", "rev-parse", "--short", "HEAD"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    for name in wanted:
        result = benches[name]()
        for row, value in result.items():
            cells = "  ".join(f"{k} {v}" for k, v in value.items()) if isinstance(value, dict) else value
            print(f"{name:8} {row:30} {cells}", flush=True)
        kept = {"date": datetime.now(UTC).date().isoformat(), "commit": commit.stdout.strip(), "figures": result}
        (ROOT / "bench").mkdir(exist_ok=True)
        (ROOT / "bench" / f"{name}.json").write_text(json.dumps(kept, indent=1, ensure_ascii=False) + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
