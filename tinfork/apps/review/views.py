"""Reviews as members see them: links of a production, and what was said of a shot."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import may_change, reach, studio_of
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.review.forms import LinkForm, RemarkForm
from tinfork.apps.review.links import make_link, withdraw
from tinfork.apps.review.models import Remark, ReviewLink
from tinfork.apps.review.remarks import add_remark, remarks_document
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message


def reviews(request: UserRequest, pk: int, form: LinkForm | None = None, made: str = "") -> HttpResponse:
    """The links of a production: who they are for, whether they were opened, what came back."""
    production = reach(Production, request.user, pk=pk)
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
    """Make a link; its address is shown this once."""
    production = reach(Production, request.user, change=True, pk=pk)
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
        )
    except TinForkError as error:
        form.add_error(None, str(error))
        return reviews(request, pk, form)
    return reviews(request, pk, made=f"/review/{token}/")


@require_POST
def review_withdraw(request: UserRequest, pk: int) -> HttpResponse:
    """A link opens no more."""
    link = reach(ReviewLink, request.user, change=True, pk=pk)
    withdraw(link)
    messages.success(request, str(Message("The link was withdrawn. Nobody can open it any more.")))
    return redirect("reviews", link.production_id)


def remarks(request: UserRequest, pk: int, form: RemarkForm | None = None) -> HttpResponse:
    """What was said of a shot, with answers, and who decided what."""
    shot = reach(Shot, request.user, pk=pk)
    decision = shot.decisions.first()
    context = {
        "shot": shot,
        "remarks": remarks_document(shot),
        "decisions": shot.decisions.select_related("version")[:20],
        # An edit since then: what was approved is not what is there.
        "is_changed": bool(decision and decision.revision != soundtrack_of(shot).revision),
        "form": form or RemarkForm(),
        "can_change": may_change(request.user, shot.production.studio),
    }
    return render(request, "review/remarks.html", context, status=422 if form and form.errors else 200)


@require_POST
def remark_new(request: UserRequest, pk: int) -> HttpResponse:
    """A member's remark, or their answer to one."""
    shot = reach(Shot, request.user, change=True, pk=pk)
    form = RemarkForm(request.POST)
    if not form.is_valid():
        return remarks(request, pk, form)
    answers_to = None
    if form.cleaned_data["answers_to"]:
        answers_to = reach(Remark, request.user, pk=form.cleaned_data["answers_to"], shot=shot, answers_to=None)
    add_remark(
        shot=shot,
        text=form.cleaned_data["text"],
        name=request.user.email.split("@")[0],
        frame=(form.cleaned_data["frame"] or shot.first_frame) - shot.first_frame,
        by=request.user,
        answers_to=answers_to,
    )
    return redirect("remarks", pk)
