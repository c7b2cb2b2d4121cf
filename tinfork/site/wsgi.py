"""The WSGI application of the web process."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.site.settings")
application = get_wsgi_application()


def settle_in() -> None:
    """Import all code now, and exclude it from garbage collection.

    A full collection would sometimes delay an edit by a tenth of a second.
    """
    from django.urls import get_resolver

    get_resolver().check()
    gc.collect()
    gc.freeze()
    gc.set_threshold(2_000, 20, 200)


settle_in()
