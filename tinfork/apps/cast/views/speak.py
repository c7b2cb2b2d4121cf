"""Trying a chart with a synthesised sentence."""

import base64

from django.http import JsonResponse
from django.views.decorators.http import require_POST

from tinfork.apps.cast.forms import SayForm
from tinfork.apps.cast.views.shared import reach_chart
from tinfork.apps.common.requests import UserRequest
from tinfork.core.clock import FrameRate
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message
from tinfork.core.speech.visemes import typical_sounds
from tinfork.engines.trying import try_sentence

_RATE = "24"


@require_POST
def chart_say(request: UserRequest, pk: int) -> JsonResponse:
    """The sound, the drawings by frame, and the sounds that only a fallback shows."""
    chart = reach_chart(request, pk)
    form = SayForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"error": str(Message("Type a sentence of up to 200 characters."))}, status=422)
    try:
        tried = try_sentence(form.cleaned_data["text"], chart.content, FrameRate.parse(_RATE))
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    pk_of = {d.number: d.pk for d in chart.drawings.all()}
    return JsonResponse(
        {
            "sound": base64.b64encode(tried.wav).decode(),
            "rate": [24, 1],
            "holds": [{"start": h.start, "end": h.end, "drawing": pk_of[h.drawing]} for h in tried.holds],
            "gaps": [" ".join(typical_sounds(viseme)) for viseme in tried.gaps],
        }
    )
