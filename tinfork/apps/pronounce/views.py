"""Views for hearing and correcting pronunciations."""

import base64

from django.contrib import messages
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.pronounce.actions import drop_pronunciation, set_pronunciation
from tinfork.apps.pronounce.forms import PronunciationForm
from tinfork.apps.pronounce.queries import MOST_ROWS, words_of
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message, joined
from tinfork.core.speech.lexicon import parse_pronunciation
from tinfork.core.speech.visemes import sounds_to_pick
from tinfork.engines.synthesiser import speak_sounds
from tinfork.engines.wav import wav_of


def pronunciations(request: UserRequest, pk: int) -> HttpResponse:
    """The list of words."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    wanted = request.GET.get("find", "")[:120].strip()
    rows = words_of(production, wanted)
    context = {
        "production": production,
        "shot": _shot_to_go_back_to(request, production),
        "rows": rows,
        "find": wanted,
        "most": MOST_ROWS,
        "sounds": sounds_to_pick(),
        "can_change": may_change(request.user, production.studio),
    }
    return render(request, "pronounce/pronunciations.html", context)


@require_POST
def pronunciation_set(request: UserRequest, pk: int) -> HttpResponse:
    """Set a pronunciation, or reset it if no sounds are sent; lines with the word are read again."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    form = PronunciationForm(request.POST)
    if not form.is_valid():
        messages.error(request, str(Message("Type the word and how it is pronounced.")))
        return _back(request, pk)
    given = form.cleaned_data
    try:
        if given["sounds"]:
            jobs = set_pronunciation(production=production, by=request.user, **given)
        else:
            jobs = drop_pronunciation(
                production=production, language=given["language"], word=given["word"], by=request.user
            )
    except TinForkError as error:
        messages.error(request, f"“{given['word']}”: {error}")
        return _back(request, pk)
    word = given["word"]
    if given["sounds"]:
        done = Message("“{word}” has a new pronunciation.", word=word)
    else:
        done = Message("“{word}” has its default pronunciation again.", word=word)
    again = Message(
        "Its lines in {count} shot are being re-read.",
        many="Its lines in {count} shots are being re-read.",
        count=len(jobs),
    )
    messages.success(request, str(joined([done, again] if jobs else [done])))
    return _back(request, pk)


def _shot_to_go_back_to(request: UserRequest, production: Production) -> Shot | None:
    """The shot from whose Desk the person came."""
    wanted = whole_number(request.GET.get("shot"))
    return production.shots.filter(pk=wanted).first() if wanted else None


def _back(request: UserRequest, pk: int) -> HttpResponse:
    sent = {name: request.POST.get(name, "")[:120] for name in ("find", "shot")}
    response = redirect("pronunciations", pk)
    if any(sent.values()):
        response["Location"] = reverse("pronunciations", args=[pk], query={k: v for k, v in sent.items() if v})
    return response


@require_POST
def pronunciation_say(request: UserRequest, pk: int) -> JsonResponse:
    """A synthesised pronunciation: WAV in base 64."""
    get_for_user_or_404(Production, request.user, pk=pk)
    form = PronunciationForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"error": str(Message("Type how it is pronounced."))}, status=422)
    try:
        symbols = parse_pronunciation(form.cleaned_data["sounds"])
        said = speak_sounds(symbols, form.cleaned_data["language"])
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse(
        {"sound": base64.b64encode(wav_of(said.samples, said.rate_hz)).decode(), "sounds": "".join(symbols)}
    )
