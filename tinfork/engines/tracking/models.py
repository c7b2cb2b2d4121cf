"""The models that find a face and its landmarks; set-up installs their files.

They are those of Bazarevsky and others 2019, "BlazeFace: Sub-millisecond neural face detection on mobile GPUs"
(arXiv 1907.05047), Kartynnik and others 2019, "Real-time facial surface geometry from monocular video on mobile GPUs"
(arXiv 1907.06724), and Ablavatski and others 2020, "Real-time pupil tracking from monocular video for digital
puppetry" (arXiv 2006.11341).
"""

import os
from pathlib import Path

from tinfork.core.messages import Message

#: The folder in which set-up installs the models.
SHIPPED = Path(__file__).resolve().parents[3] / ".venv" / "face-models"
#: The file of each model, and its SHA-256.
FILES = {
    "face_detection_short_range.tflite": "bbff11cebd1eb27a1e004cae0b0e63ec8c551cbf34a4451148b4908b8db3eca8",
    "face_landmark.tflite": "1055cb9d4a9ca8b8c688902a3a5194311138ba256bcc94e336d8373a5f30c814",
    "iris_landmark.tflite": "d1744d2a09c25f501d39eba4faff47e53ecca8852c5ce19bce8eeac39357521f",
}
MISSING = Message("face.no_models")


def models_folder() -> Path:
    """The folder of the models in use; it may not exist."""
    return Path(os.environ.get("TINFORK_FACE_MODELS") or SHIPPED)


def are_there() -> bool:
    """Whether faces can be followed: all models are installed."""
    return all((models_folder() / name).is_file() for name in FILES)
