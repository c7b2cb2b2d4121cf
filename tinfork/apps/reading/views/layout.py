"""The background of a shot."""

from django.http import Http404, JsonResponse
from django.http.response import HttpResponseBase
from django.views.decorators.http import require_http_methods

from tinfork.apps.cast.views.shared import keep_upload
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import PICTURE_TYPES, serve_file
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.core.messages import Message
from tinfork.engines.limits import MAX_FACE_BYTES


@require_http_methods(["GET", "HEAD", "POST"])
def shot_background(request: UserRequest, pk: int) -> HttpResponseBase:
    """The background picture; a post uploads a new one, which a job opens."""
    shot = get_for_user_or_404(Shot, request.user, change=request.method == "POST", pk=pk)
    if request.method != "POST":
        if not shot.background:
            raise Http404
        suffix = "." + str(shot.background.name).rpartition(".")[2]
        return serve_file(request, shot.background, PICTURE_TYPES[suffix])
    file = request.FILES.get("picture")
    if file is None or not file.size:
        return JsonResponse(
            {"error": str(Message("Choose a picture: PNG, JPEG, WebP, GIF, TIFF, SVG or OpenRaster."))}, status=422
        )
    if file.size > MAX_FACE_BYTES:
        return JsonResponse(
            {
                "error": str(
                    Message(
                        "“{name}” is larger than {max_face_bytes} MB.",
                        name=file.name,
                        max_face_bytes=MAX_FACE_BYTES // 2**20,
                    )
                )
            },
            status=422,
        )
    if not soundtrack_of(shot).is_read:
        return JsonResponse({"error": str(Message("Read the track first. Then the shot has a picture."))}, status=422)
    job = start_job(kind=Job.Kind.BACKGROUND, on=shot, by=request.user, options={"files": [keep_upload(file)]})
    return JsonResponse({"job": str(job.pk), "working": is_anyone_working()})
