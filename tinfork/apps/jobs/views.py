"""Views of jobs."""

from django.http import Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import serve_file
from tinfork.apps.jobs.actions import ask_to_cancel, do_again
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.jobs.tasks import work_of
from tinfork.apps.people.access import get_for_user_or_404, listed


def job_list(request: UserRequest) -> HttpResponse:
    """The latest jobs."""
    jobs = listed(Job, request.user).select_related("shot__production", "character", "production")[:100]
    return render(request, "jobs/job_list.html", {"jobs": jobs})


def job_panel(request: UserRequest, pk: str) -> HttpResponse:
    """The fragment with a job's progress, which pages poll every second while the job is open."""
    job = get_for_user_or_404(Job, request.user, pk=pk)
    then = request.GET.get("then")
    if then == "here" and not job.is_open:
        return HttpResponse(headers={"HX-Refresh": "true"})
    if then and then != "here" and job.state == Job.State.DONE:
        return HttpResponse(headers={"HX-Redirect": work_of(job).after(job)})
    return render(
        request,
        "jobs/_job_panel.html",
        {"job": job, "working": is_anyone_working(), "then": request.GET.get("then", "")},
    )


@require_POST
def job_cancel(request: UserRequest, pk: str) -> HttpResponse:
    """Cancel a job."""
    job = get_for_user_or_404(Job, request.user, change=True, pk=pk)
    ask_to_cancel(job)
    return redirect(work_of(job).home(job))


@require_POST
def job_again(request: UserRequest, pk: str) -> HttpResponse:
    """Repeat a job that failed on our side."""
    job = do_again(get_for_user_or_404(Job, request.user, change=True, pk=pk), by=request.user)
    return redirect(work_of(job).home(job))


def job_result(request: UserRequest, pk: str) -> HttpResponseBase:
    """Download the file that a job made; with `view`, show it in the browser if possible."""
    job = get_for_user_or_404(Job, request.user, pk=pk)
    if not job.result or job.state != Job.State.DONE:
        raise Http404
    media_type = job.options["type"]
    is_shown = request.GET.get("view") and media_type in Job.SHOWN
    return serve_file(request, job.result, media_type, download_as="" if is_shown else job.options["name"])
