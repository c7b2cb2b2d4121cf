"""Write stand.json anew: where figures stand, worked out with complex numbers, apart from the code under test."""

import cmath
import itertools
import json
import math
from pathlib import Path


def main() -> None:
    cases = []
    for frame, aspect, size, turn, mirrored in itertools.product(
        ((1920, 1080), (640, 640)), (16 / 9, 0.7), (1.0, 0.35, 2.5), (0, 40, -135), (False, True)
    ):
        width = (frame[0] if frame[0] / frame[1] < aspect else frame[1] * aspect) * size
        height = width / aspect
        x, y = 0.31, 0.66

        def corner(across, down, middle=complex(x * frame[0], y * frame[1]), turn=turn, mirrored=mirrored):
            arm = complex(-across if mirrored else across, down)
            return middle + arm * cmath.exp(1j * math.radians(turn))

        first, last = corner(-width / 2, -height / 2), corner(width / 2, height / 2)
        stand = {"x": x, "y": y, "size": size, "turn": turn, "mirrored": mirrored, "depth": 0}
        corners = [first.real, first.imag, last.real, last.imag, width, height]
        cases.append(
            {"frame": frame, "aspect": aspect, "stand": stand, "corners": [round(value, 9) for value in corners]}
        )
    Path(__file__).with_name("stand.json").write_text(json.dumps(cases, separators=(",", ":")) + "\n")


if __name__ == "__main__":
    main()
