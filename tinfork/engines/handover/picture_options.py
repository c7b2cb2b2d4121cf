"""Options of a picture that are common to all formats."""

from tinfork.core.scene.drawing import DrawnParts
from tinfork.core.scene.exporting import Option, Values
from tinfork.core.scene.scene import Ground, Scene

SHOT_SIZE = "shot"
WIDTH = Option(
    "size",
    "Size",
    SHOT_SIZE,
    choices=(
        (SHOT_SIZE, "production's"),
        ("1920", "1920 wide"),
        ("1280", "1280 wide"),
        ("854", "854 wide"),
        ("640", "640 wide"),
        ("320", "320 wide"),
    ),
)
PARTS = Option(
    "what",
    "Show",
    DrawnParts.ALL.value,
    choices=(
        (DrawnParts.ALL.value, "characters"),
        (DrawnParts.PARTS.value, "mouths and parts"),
        (DrawnParts.MOUTHS.value, "mouths"),
        (DrawnParts.FACES.value, "faces"),
    ),
)
GROUND = Option(
    "ground",
    "On",
    "shot",
    choices=(
        ("shot", "background"),
        ("clear", "transparent"),
        ("white", "white"),
        ("black", "black"),
        ("green", "green"),
    ),
)
_COLOURS = {"white": "#ffffff", "black": "#000000", "green": "#00b140"}


def size_of(scene: Scene, values: Values) -> tuple[int, int]:
    """The frame's size in pixels: even numbers, in the production's proportions."""
    return size_at(scene, scene.size[0] if values["size"] == SHOT_SIZE else int(values["size"]))


def size_at(scene: Scene, width: int) -> tuple[int, int]:
    """The frame's size in pixels for a given width: even numbers, in the production's proportions."""
    height = round(width * scene.size[1] / scene.size[0])
    return max(2, width // 2 * 2), max(2, height // 2 * 2)


def what_of(values: Values) -> DrawnParts:
    """Which pictures of the characters are drawn."""
    return DrawnParts(values["what"])


def has_ground(values: Values) -> bool:
    """Whether the shot's own background is drawn."""
    return bool(values["ground"] == "shot")


def ground_of(scene: Scene, values: Values) -> Ground | None:
    """The background behind the characters; None for transparent."""
    wanted = values["ground"]
    if wanted == "clear":
        return None
    return scene.ground if wanted == "shot" else Ground(_COLOURS[wanted])
