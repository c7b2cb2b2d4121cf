"""Write clock.json anew: values worked out with fractions only, apart from the code under test."""

import json
from fractions import Fraction
from math import ceil, floor
from pathlib import Path

RATES = {"12": (12, 1), "23.976": (24000, 1001), "24": (24, 1), "25": (25, 1), "29.97": (30000, 1001), "30": (30, 1),
         "48": (48, 1), "50": (50, 1), "59.94": (60000, 1001), "60": (60, 1)}  # fmt: skip
FRAMES = [0, 1, 2, 23, 24, 25, 99, 1000, 1799, 1800, 17982, 86399, 86400, 215999]


def main() -> None:
    cases = []
    for n, d in RATES.values():
        rate = Fraction(n, d)
        for frame in FRAMES:
            first = ceil(frame * 1_000_000 / rate)
            fps = ceil(rate)
            s, ff = divmod(frame, fps)
            code = f"{s // 3600:02d}:{s // 60 % 60:02d}:{s % 60:02d}:{ff:02d}"
            times = [first, first + 7, ceil((frame + 1) * 1_000_000 / rate) - 1]
            cases.append({"rate": [n, d], "frame": frame, "first_us": first, "timecode": code,
                          "at": [[t, floor(Fraction(t) * rate / 1_000_000)] for t in times]})  # fmt: skip
    Path(__file__).with_name("clock.json").write_text(json.dumps(cases, indent=None, separators=(",", ":")) + "\n")


if __name__ == "__main__":
    main()
