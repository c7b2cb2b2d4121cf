"""Looking at the queue."""

from datetime import timedelta

from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateWorker

from tinfork.apps.jobs.tasks import STALLED_AFTER_S


def is_anyone_working() -> bool:
    """Whether a worker gave a sign of life lately."""
    since = timezone.now() - timedelta(seconds=STALLED_AFTER_S)
    return ProcrastinateWorker.objects.filter(last_heartbeat__gte=since).exists()
