"""The web process's entry."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.site.settings")
application = get_wsgi_application()


def settle_in() -> None:
    """Load every page's code now, and leave what is loaded out of garbage collections.

    A whole one would make an edit wait for a tenth of a second now and then.
    """
    from django.urls import get_resolver

    get_resolver().check()
    gc.collect()
    gc.freeze()
    gc.set_threshold(2_000, 20, 200)


settle_in()
