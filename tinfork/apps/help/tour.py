"""The tour: five steps on the real screens. It can be left and resumed."""

from dataclasses import dataclass

from django.http import HttpRequest
from django.urls import reverse

from tinfork.apps.people.access import visible
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.messages import Message


@dataclass(frozen=True)
class Step:
    """A step: what to do, and the URL name of its page."""

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
    """The progress of a person on the tour; `here`: whether the current page is that of the step."""

    number: int
    count: int
    text: Message
    address: str
    here: bool

    @property
    def is_last(self) -> bool:
        """Whether it is the last step."""
        return self.number == self.count


def shot_of_tour(user: User) -> Shot | None:
    """The shot of the tour: of those that a person may see, the last one that was read."""
    return visible(Shot, user).filter(soundtrack__is_read=True).order_by("-production", "pk").first()


def address_of_step(user: User, number: int) -> str | None:
    """The URL of a step's page: of the newest production while no shot is read yet; None without a production."""
    page, shot = STEPS[number - 1].page, shot_of_tour(user)
    if shot is not None:
        return reverse(page, args=[shot.production_id if page == "production" else shot.pk])
    newest = visible(Production, user).order_by("-pk").first()
    return reverse("production", args=[newest.pk]) if newest else None


def tour(request: HttpRequest) -> dict[str, Tour | None]:
    """Context processor: a person's step of the tour, or None."""
    user, match = getattr(request, "user", None), request.resolver_match
    is_known = isinstance(user, User) and match is not None
    return {"tour": tour_of(user, match.url_name or "") if is_known else None}  # type: ignore[arg-type, union-attr]


def tour_of(user: User, page: str) -> Tour | None:
    """A person's progress on the tour, on a page given by its URL name."""
    if user.has_left_tour or not 1 <= user.tour_step <= len(STEPS):
        return None
    step, address = STEPS[user.tour_step - 1], address_of_step(user, user.tour_step)
    return Tour(user.tour_step, len(STEPS), step.text, address, page == step.page) if address else None


def go_to_step(user: User, number: int) -> None:
    """Go to a step; after the last one the tour ends."""
    user.tour_step = number if 1 <= number <= len(STEPS) else 0
    user.has_left_tour = False
    user.save(update_fields=["tour_step", "has_left_tour"])


def leave_tour(user: User) -> None:
    """Leave the tour; it can be resumed at the same step."""
    user.has_left_tour = True
    user.save(update_fields=["has_left_tour"])
