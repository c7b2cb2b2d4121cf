"""Views of one's own account: name, picture, data export, deletion."""

import tempfile
from pathlib import Path
from typing import Any

from django.contrib import messages
from django.contrib.auth import logout
from django.http import Http404, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render

from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import PNG, serve_file
from tinfork.apps.people.actions import delete_account, portrait_from
from tinfork.apps.people.export import personal_data
from tinfork.apps.people.forms import AboutMeForm, DeleteForm, StudioForm
from tinfork.apps.people.members import studios_alone, studios_without_owner
from tinfork.apps.people.models import User
from tinfork.core.errors import FormatError
from tinfork.core.messages import Message

_PORTRAITS = ConcurrencyLimit(2)


def account(request: UserRequest) -> HttpResponse:
    """The account page: name, picture, studios, and links to all other settings."""
    user = request.user
    form = AboutMeForm(request.POST or None, request.FILES or None, initial={"name": user.name})
    if form.is_valid():
        try:
            _save(user, form.cleaned_data)
        except FormatError as error:
            form.add_error("picture", str(error))
        else:
            messages.success(request, str(Message("Saved.")))
            return redirect("account")
    context = {"form": form, "memberships": user.memberships.select_related("studio"), "founding": StudioForm()}
    return render(request, "people/account.html", context, status=422 if form.errors else 200)


def _save(user: User, data: dict[str, Any]) -> None:
    if picture := data["picture"]:
        with _PORTRAITS.inside(), tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
            path = Path(folder) / "picture"
            with path.open("wb") as out:
                out.writelines(picture.chunks())
            user.picture.name = portrait_from(path, picture.name)
    user.name = data["name"]
    user.save(update_fields=["name", "picture"])


def portrait(request: UserRequest, pk: int) -> HttpResponseBase:
    """The picture of a person in one of one's studios."""
    found = get_object_or_404(User.objects.filter(studios__in=request.user.studios.all()).distinct(), pk=pk)
    if not found.picture:
        raise Http404
    return serve_file(request, found.picture, PNG)


def account_export(request: UserRequest) -> JsonResponse:
    """Download all data about oneself."""
    answer = JsonResponse(personal_data(request.user), json_dumps_params={"indent": 2, "ensure_ascii": False})
    answer["Content-Disposition"] = 'attachment; filename="my-account.json"'
    return answer


def account_delete(request: UserRequest) -> HttpResponse:
    """Delete the account, after showing what is deleted with it."""
    user = request.user
    held = studios_without_owner(user)
    form = DeleteForm(request.POST or None, user=user)
    if not held and form.is_valid():
        delete_account(user)
        logout(request)
        messages.success(request, str(Message("Your account was deleted.")))
        return redirect("account_login")
    context = {"form": form, "held": held, "alone": studios_alone(user)}
    return render(request, "people/account_delete.html", context, status=422 if form.errors else 200)
