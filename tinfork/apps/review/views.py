"""Views of reviews for members: links, remarks and comparisons."""

import json

from django.contrib import messages
from django.http import Http404, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import read_json, whole_number
from tinfork.apps.common.serve import cache_rule, serve_file
from tinfork.apps.desk.looks import looks_document
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import Right, get_for_user_or_404, may, may_change, studio_of
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import with_cast
from tinfork.apps.review.comparing import compare, job_of
from tinfork.apps.review.drawings import MAX_SENT_BYTES, read_drawing
from tinfork.apps.review.forms import LinkForm, RemarkForm
from tinfork.apps.review.links import make_link, withdraw
from tinfork.apps.review.models import Comparison, Remark, ReviewLink
from tinfork.apps.review.places import place_of, words_by_clip
from tinfork.apps.review.remarks import PICTURE_WIDTH, add_remark, answer, decide, remarks_document, settle
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message
from tinfork.engines.handover.small import still_webp

_PICTURES = ConcurrencyLimit(2)


def reviews(request: UserRequest, pk: int, form: LinkForm | None = None, made: str = "") -> HttpResponse:
    """The links of a production: for whom they are, whether they were opened, remarks and decisions."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    links = production.review_links.prefetch_related("reviewed__shot", "decisions__shot", "remarks")
    jobs = {job.options["link"]: job for job in production.jobs.filter(kind=Job.Kind.REVIEW)}
    context = {
        "production": production,
        "rows": [(link, jobs.get(link.pk)) for link in links],
        "form": form or LinkForm(production=production, initial={"shots": request.GET.getlist("shot")}),
        "made": request.build_absolute_uri(made) if made else "",
        "can_change": may_change(request.user, studio_of(production)),
        "working": is_anyone_working(),
    }
    return render(request, "review/links.html", context, status=422 if form and form.errors else 200)


@require_POST
def review_new(request: UserRequest, pk: int) -> HttpResponse:
    """Create a link; its URL is shown only once."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    form = LinkForm(request.POST, production=production)
    if not form.is_valid():
        return reviews(request, pk, form)
    data = form.cleaned_data
    try:
        _, token = make_link(
            production=production,
            shots=data["shots"],
            by=request.user,
            for_whom=data["for_whom"],
            days=data["days"],
            password=data["password"],
            is_newest=data["is_newest"],
            burns_name=data["burns_name"],
        )
    except TinForkError as error:
        form.add_error(None, str(error))
        return reviews(request, pk, form)
    return reviews(request, pk, made=f"/review/{token}/")


@require_POST
def review_withdraw(request: UserRequest, pk: int) -> HttpResponse:
    """Withdraw a link."""
    link = get_for_user_or_404(ReviewLink, request.user, change=True, pk=pk)
    withdraw(link)
    messages.success(request, str(Message("The link was withdrawn. Nobody can open it any more.")))
    return redirect("reviews", link.production_id)


def remarks(request: UserRequest, pk: int, form: RemarkForm | None = None) -> HttpResponse:
    """The remarks on a shot with their answers, and decisions."""
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    studio, row = shot.production.studio, soundtrack_of(shot)
    decision = shot.decisions.first()
    pictures = set(shot.remarks.exclude(picture="").values_list("pk", flat=True))
    context = {
        "shot": shot,
        "remarks": [
            one | {"has_picture": one["id"] in pictures, "drawing_json": json.dumps(one["drawing"])}
            for one in remarks_document(shot)
        ],
        "decisions": shot.decisions.select_related("version")[:20],
        # There was an edit since then: the current state is not approved.
        "is_changed": bool(decision and decision.revision != row.revision),
        "versions": row.versions.all()[:50] if row.pk else [],
        "form": form or RemarkForm(),
        "is_read": row.is_read,
        "can_remark": may(request.user, studio, Right.REMARK),
        "can_change": may_change(request.user, studio),
    }
    return render(request, "review/remarks.html", context, status=422 if form and form.errors else 200)


@require_POST
def remark_new(request: UserRequest, pk: int) -> HttpResponse:
    """Add a member's remark or answer, from the page of remarks, or, as JSON, from the Desk."""
    shot = get_for_user_or_404(Shot, request.user, right=Right.REMARK, pk=pk)
    if request.content_type == "application/json":
        return _remark_from_desk(request, shot)
    form = RemarkForm(request.POST)
    if not form.is_valid():
        return remarks(request, pk, form)
    data = form.cleaned_data
    if data["answers_to"]:
        to = get_for_user_or_404(Remark, request.user, pk=data["answers_to"], shot=shot, answers_to=None)
        answer(to=to, text=data["text"], name=request.user.called, by=request.user)
        return redirect("remarks", pk)
    first = data["frame"] if data["frame"] is not None else shot.first_frame
    last = data["last"] if data["last"] is not None else first
    frames = first - shot.first_frame, last - shot.first_frame
    try:
        add_remark(shot=shot, text=data["text"], name=request.user.called, frames=frames, by=request.user)
    except TinForkError as error:
        form.add_error("text", str(error))
        return remarks(request, pk, form)
    return redirect("remarks", pk)


def _remark_from_desk(request: UserRequest, shot: Shot) -> JsonResponse:
    """Add a remark with its drawing; returns the second looks, which include it."""
    try:
        told = read_json(request.body, most_bytes=MAX_SENT_BYTES)
        told = told if isinstance(told, dict) else {}
        first = whole_number(str(told.get("frame", ""))) or 0
        last = whole_number(str(told.get("last", "")))
        add_remark(
            shot=shot,
            text=str(told.get("text", "")),
            name=request.user.called,
            frames=(first, first if last is None else last),
            drawing=read_drawing(told.get("drawing")),
            by=request.user,
        )
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse({"looks": looks_document(with_cast(get_for_user_or_404(Shot, request.user, pk=shot.pk)))})


@require_POST
def remark_settle(request: UserRequest, pk: int) -> HttpResponse:
    """Settle or reopen a remark."""
    found = get_for_user_or_404(Remark, request.user, change=True, pk=pk, answers_to=None)
    settle(found, is_settled=request.POST.get("settled") == "yes")
    return redirect("remarks", found.shot_id)


def remark_picture(request: UserRequest, pk: int) -> HttpResponseBase:
    """The picture of a remark; with `now`, the current one."""
    found = get_for_user_or_404(Remark, request.user, pk=pk)
    if not request.GET.get("now"):
        if not found.picture:
            raise Http404
        return serve_file(request, found.picture, "image/webp")
    shot = with_cast(get_for_user_or_404(Shot, request.user, pk=found.shot_id))
    if not soundtrack_of(shot).is_read:
        raise Http404
    start, _ = place_of(found, words_by_clip(shot))
    with _PICTURES.inside():
        data = still_webp(scene_of(shot), shot.production.rate.frame_at(start), PICTURE_WIDTH)
    return HttpResponse(data, content_type="image/webp", headers={"Cache-Control": cache_rule(is_fixed=False)})


@require_POST
def shot_decide(request: UserRequest, pk: int) -> HttpResponse:
    """Approve the current shot as a member, or request changes; a version is saved."""
    shot = get_for_user_or_404(Shot, request.user, right=Right.REMARK, pk=pk)
    decide(shot=shot, verdict=request.POST.get("verdict", ""), name=request.user.called, by=request.user)
    return redirect("remarks", pk)


def shot_compare(request: UserRequest, pk: int) -> HttpResponse:
    """Compare a version with another, or with the current shot; redirects to the comparison."""
    shot = get_for_user_or_404(Shot, request.user, right=Right.REMARK, pk=pk)
    if request.method != "POST":
        return redirect("remarks", pk)
    rows = soundtrack_of(shot).versions
    before = get_object_or_404(rows, pk=whole_number(request.POST.get("before")) or 0)
    number = whole_number(request.POST.get("after"))
    after = get_object_or_404(rows, pk=number) if number else None
    made = compare(shot=shot, before=before, after=after, by=request.user)
    return redirect("comparison", made.pk)


def comparison(request: UserRequest, pk: int) -> HttpResponse:
    """The page of a comparison: side by side, as a wipe, or alternating."""
    found = get_for_user_or_404(Comparison, request.user, pk=pk)
    shot, rate = found.shot, found.shot.production.rate
    context = {
        "comparison": found,
        "shot": shot,
        "job": None if found.film else job_of(found),
        "working": is_anyone_working(),
        "document": {
            "rate": [rate.value.numerator, rate.value.denominator],
            "frames": found.frames,
            "firstFrame": shot.first_frame,
            "differs": found.differs,
        },
    }
    return render(request, "review/comparison.html", context)


def comparison_film(request: UserRequest, pk: int) -> HttpResponseBase:
    """The film of a comparison."""
    found = get_for_user_or_404(Comparison, request.user, pk=pk)
    if not found.film:
        raise Http404
    return serve_file(request, found.film, "video/mp4")
