"""Correcting a word everywhere in the production after it was corrected in one place."""

from django.http import JsonResponse
from django.views.decorators.http import require_http_methods

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.people.access import get_for_user_or_404
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.alike import correct_alike, is_worth_asking, places_alike
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message


@require_http_methods(["GET", "POST"])
def shot_alike(request: UserRequest, pk: int) -> JsonResponse:
    """The number of other places; a post corrects them."""
    given = request.POST if request.method == "POST" else request.GET
    was, now = given.get("was", "").strip(), given.get("now", "").strip()
    if request.method == "POST":
        shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
        try:
            count = correct_alike(shot=shot, was=was, now=now, by=request.user)
        except TinForkError as error:
            return JsonResponse({"error": str(error)}, status=422)
        return JsonResponse(
            {
                "said": str(
                    Message(
                        "“{was}” is now “{now}” in {count} more place.",
                        many="“{was}” is now “{now}” in {count} more places.",
                        was=was,
                        now=now,
                        count=count,
                    )
                )
            }
        )
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    places = places_alike(shot, was) if is_worth_asking(was, now, shot.language) else {}
    return JsonResponse({"places": sum(places.values()), "shots": len(places)})
