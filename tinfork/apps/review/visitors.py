"""Views for visitors with a review link: a film, remarks, a decision, and nothing else of the studio."""

from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.sanitising import read_json, whole_number
from tinfork.apps.common.serve import serve_file
from tinfork.apps.common.tokens import count_sent, count_wrong
from tinfork.apps.jobs.models import Job
from tinfork.apps.review.drawings import MAX_SENT_BYTES, read_drawing
from tinfork.apps.review.links import count_opening, is_right_password, link_of, renew
from tinfork.apps.review.models import Remark, ReviewedShot, ReviewLink
from tinfork.apps.review.remarks import add_remark, answer, decide, remarks_document
from tinfork.core.errors import TinForkError


def _linked(request: HttpRequest, token: str) -> ReviewLink:
    """The link, if it is valid and its password was entered; else 404."""
    link = link_of(token)
    if link is None:
        count_wrong(request)
        raise Http404
    if link.password and request.session.get(f"review-{link.pk}") != link.password:
        raise Http404
    return link


@login_not_required
def review(request: HttpRequest, token: str) -> HttpResponse:
    """The page with the film, or the form for the password."""
    link = link_of(token)
    if link is None:
        count_wrong(request)
        return render(request, "review/closed.html", status=404)
    if link.password and request.session.get(f"review-{link.pk}") != link.password:
        return _password(request, link, token)
    if request.method == "POST":
        return redirect("review", token)
    count_opening(link)
    is_coming = renew(link)
    job = Job.objects.filter(kind=Job.Kind.REVIEW, options__link=link.pk).first()
    context = {"link": link, "token": token, "document": _document(link), "is_broken": bool(job and job.error)}
    context["is_coming"] = is_coming and bool(link.film)
    return render(request, "review/review.html", context)


def _password(request: HttpRequest, link: ReviewLink, token: str) -> HttpResponse:
    error = ""
    if request.method == "POST":
        try:
            if is_right_password(link, request.POST.get("password", "")):
                # If the link's password was changed, it must be entered again.
                request.session[f"review-{link.pk}"] = link.password
                return redirect("review", token)
            error = "wrong"
        except TinForkError as wrong:
            error = str(wrong)
    return render(request, "review/password.html", {"link": link, "error": error}, status=422 if error else 200)


def _document(link: ReviewLink) -> dict[str, Any]:
    rate = link.production.rate
    return {
        "rate": [rate.value.numerator, rate.value.denominator],
        "shots": [
            {
                "id": one.shot_id,
                "name": one.shot.name,
                "start": one.start,
                "frames": one.frames,
                "firstFrame": one.shot.first_frame,
                "verdict": next((d.verdict for d in one.shot.decisions.all() if d.link_id == link.pk), ""),
            }
            for one in _reviewed(link)
        ],
        "remarks": _remarks(link),
    }


def _reviewed(link: ReviewLink) -> list[ReviewedShot]:
    """The link's shots that still exist."""
    rows = link.reviewed.select_related("shot__production").prefetch_related("shot__decisions")
    return [one for one in rows if one.shot.archived_at is None]


def _remarks(link: ReviewLink) -> list[dict[str, Any]]:
    return [remark for one in _reviewed(link) for remark in remarks_document(one.shot, link)]


@login_not_required
def review_film(request: HttpRequest, token: str) -> HttpResponseBase:
    """The film, with range requests."""
    link = _linked(request, token)
    if not link.film:
        raise Http404
    return serve_file(request, link.film, "video/mp4")


@login_not_required
def review_remarks(request: HttpRequest, token: str) -> JsonResponse:
    """The remarks of this link; a post adds one."""
    link = _linked(request, token)
    if request.method == "POST":
        count_sent(request, f"review-{link.pk}")
        told = _sent(request)
        _say(link, told)
    return JsonResponse({"remarks": _remarks(link)})


def _say(link: ReviewLink, told: dict[str, Any]) -> None:
    text, name = str(told.get("text", "")), str(told.get("name", ""))
    number = told.get("answers_to")
    if number is not None:
        to = Remark.objects.filter(link=link, answers_to=None, pk=whole_number(str(number)) or 0).first()
        if to is None:
            raise Http404
        answer(to=to, text=text, name=name, link=link)
        return
    first = whole_number(str(told.get("frame", ""))) or 0
    last = whole_number(str(told.get("last", "")))
    reviewed = _shot(link, told.get("shot"))
    add_remark(
        shot=reviewed.shot,
        text=text,
        name=name,
        frames=(first, first if last is None else last),
        drawing=read_drawing(told.get("drawing")),
        reviewed=reviewed,
    )


@require_POST
@login_not_required
def review_decide(request: HttpRequest, token: str) -> JsonResponse:
    """Approve a shot, or request changes."""
    link = _linked(request, token)
    count_sent(request, f"review-{link.pk}")
    told = _sent(request)
    reviewed = _shot(link, told.get("shot"))
    made = decide(
        shot=reviewed.shot,
        reviewed=reviewed,
        verdict=str(told.get("verdict", "")),
        name=str(told.get("name", "")),
    )
    return JsonResponse({"verdict": made.verdict})


def _sent(request: HttpRequest) -> dict[str, Any]:
    told = read_json(request.body, most_bytes=MAX_SENT_BYTES)
    return told if isinstance(told, dict) else {}


def _shot(link: ReviewLink, number: object) -> ReviewedShot:
    found = next((one for one in _reviewed(link) if one.shot_id == number), None)
    if found is None:
        raise Http404
    return found
