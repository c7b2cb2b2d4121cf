"""Making productions and shots."""

from tinfork.apps.cast.models import Character
from tinfork.apps.people.models import Studio
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.clock import FrameRate


def start_production(*, studio: Studio, name: str, rate: str, size: tuple[int, int]) -> Production:
    """A production at a rate by its usual name ("23.976") and a picture size in pixels."""
    exact = FrameRate.parse(rate).value
    return Production.objects.create(
        studio=studio,
        name=name,
        rate_numerator=exact.numerator,
        rate_denominator=exact.denominator,
        width=size[0],
        height=size[1],
    )


def add_shot(*, production: Production, name: str, character: Character, first_frame: int = 1) -> Shot:
    """A shot without sound or words yet."""
    return Shot.objects.create(production=production, name=name, character=character, first_frame=first_frame)
