"""Write lay.json anew: places worked out with complex numbers, apart from the code under test."""

import cmath
import itertools
import json
import math
from pathlib import Path


def main() -> None:
    cases = []
    for frame, aspect, angle, offset in itertools.product(
        ((1920, 1080), (640, 640), (300, 900)), (16 / 9, 0.75), (0, 30, -135), ((0, 0), (12, -7))
    ):
        place = {"x": 0.52, "y": 0.66, "width": 0.31, "angle": angle, "aspect": aspect}
        drawing = {"width": 500, "height": 260, "canvas": 400, "point": [230, 140], "offset": list(offset)}
        face_width = frame[0] if frame[0] / frame[1] < aspect else frame[1] * aspect
        corner = complex(frame[0] - face_width, frame[1] - face_width / aspect) / 2
        scale = 0.31 * face_width / 400
        arm = complex(250 - 230 + offset[0], 130 - 140 + offset[1]) * scale
        centre = (
            corner + complex(0.52 * face_width, 0.66 * face_width / aspect) + arm * cmath.exp(1j * math.radians(angle))
        )
        laid = [centre.real, centre.imag, 500 * scale, 260 * scale, angle]
        cases.append({"frame": frame, "place": place, "drawing": drawing, "laid": [round(v, 9) for v in laid]})
    Path(__file__).with_name("lay.json").write_text(json.dumps(cases, separators=(",", ":")) + "\n")


if __name__ == "__main__":
    main()
