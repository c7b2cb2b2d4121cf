"""The tour: five steps on the real screens. It can be left, and gone on with."""

from dataclasses import dataclass

from django.http import HttpRequest
from django.urls import reverse

from tinfork.apps.people.access import visible
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.messages import Message


@dataclass(frozen=True)
class Step:
    """What to do, and the name of the address of the page where it is done."""

    page: str
    text: Message


STEPS = (
    Step(
        "production",
        Message(
            "A production holds shots. Drop recordings here and they become shots. Next is the Desk of one of them."
        ),
    ),
    Step(
        "desk",
        Message("Press Space to play: the mouth follows the sound. The arrow keys go frame by frame."),
    ),
    Step(
        "desk",
        Message("Click a row of the Sheet, then a mouth in the Tray: it is pinned there. Ctrl Z takes it back."),
    ),
    Step(
        "desk",
        Message("Press N to go to the next second look, a place to check. Choose a correction, or / if it is fine."),
    ),
    Step(
        "handover",
        Message("Choose what you need: a film, a sheet on paper, data. Look at the preview, then download."),
    ),
)


@dataclass(frozen=True)
class Tour:
    """Where somebody stands on the tour; `here` says whether the step's page is the one that is seen."""

    number: int
    count: int
    text: Message
    address: str
    here: bool

    @property
    def is_last(self) -> bool:
        """Whether no step comes after it."""
        return self.number == self.count


def shot_of_tour(user: User) -> Shot | None:
    """The shot that is looked at: the last that was read of those a person may see."""
    return visible(Shot, user).filter(soundtrack__is_read=True).order_by("-production", "pk").first()


def address_of_step(user: User, number: int) -> str | None:
    """Where a step is done: on the newest production while no shot is read yet; None without one."""
    page, shot = STEPS[number - 1].page, shot_of_tour(user)
    if shot is not None:
        return reverse(page, args=[shot.production_id if page == "production" else shot.pk])
    newest = visible(Production, user).order_by("-pk").first()
    return reverse("production", args=[newest.pk]) if newest else None


def tour(request: HttpRequest) -> dict[str, Tour | None]:
    """For every page: the step of the tour that somebody is at, None for everybody else."""
    user, match = getattr(request, "user", None), request.resolver_match
    is_known = isinstance(user, User) and match is not None
    return {"tour": tour_of(user, match.url_name or "") if is_known else None}  # type: ignore[arg-type, union-attr]


def tour_of(user: User, page: str) -> Tour | None:
    """Where somebody stands on the tour, seen from a page by the name of its address."""
    if user.has_left_tour or not 1 <= user.tour_step <= len(STEPS):
        return None
    step, address = STEPS[user.tour_step - 1], address_of_step(user, user.tour_step)
    return Tour(user.tour_step, len(STEPS), step.text, address, page == step.page) if address else None


def go_to_step(user: User, number: int) -> None:
    """Stand at a step; after the last one the tour is over."""
    user.tour_step = number if 1 <= number <= len(STEPS) else 0
    user.has_left_tour = False
    user.save(update_fields=["tour_step", "has_left_tour"])


def leave_tour(user: User) -> None:
    """Leave it where it is."""
    user.has_left_tour = True
    user.save(update_fields=["has_left_tour"])
