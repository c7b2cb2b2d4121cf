"""The view for recordings dropped on a production's page."""

from django.contrib import messages
from django.http import JsonResponse
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.people.access import get_for_user_or_404
from tinfork.apps.produce.models import Production
from tinfork.apps.reading.actions.dropping import DropResult, drop_sounds
from tinfork.apps.reading.forms import DropForm
from tinfork.apps.reading.views.words import sounds_sent
from tinfork.apps.sound.forms import look_into
from tinfork.core.errors import TinForkError


@require_POST
def production_drop(request: UserRequest, pk: int) -> JsonResponse:
    """Turn files into shots, one shot, or takes; unusable ones are reported, and the others are processed."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    form = DropForm(request.POST, production=production)
    if not form.is_valid():
        return JsonResponse({"error": " ".join(" ".join(map(str, e)) for e in form.errors.values())}, status=422)
    drop = form.drop
    try:
        good, wrong = look_into(sounds_sent(request))
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    takes, shots = drop_sounds(production=production, uploaded=good, drop=drop, by=request.user)
    for text in wrong:
        messages.error(request, text)
    if drop.into == DropResult.SCRIPT and len(takes) == 1:
        return JsonResponse({"next": reverse("take", args=[takes[0].pk])})
    if takes:
        return JsonResponse({"next": reverse("takes", args=[pk])})
    # For one shot, go to its page; for several, the list shows their progress.
    return JsonResponse(
        {"next": reverse("shot", args=[shots[0].pk]) if len(shots) == 1 else reverse("production", args=[pk])}
    )
