"""What every test shares. Tests of core and engines need neither database nor browser."""

import pytest
from hypothesis import HealthCheck, settings

# Other examples each time: a run says its seed, and `--hypothesis-seed` runs them again.
# A machine that is busy with the browser's tests is slow, and no test is wrong for it.
settings.register_profile(
    "tin-fork", deadline=None, max_examples=60, print_blob=True, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("tin-fork")


@pytest.fixture(autouse=True)
def _files_of_their_own(request, tmp_path_factory):
    """Files that a database test stores go to a folder of its own."""
    asks = {"db", "transactional_db"} & set(request.fixturenames) or request.node.get_closest_marker("django_db")
    if not asks:
        yield
        return
    from django.conf import settings as django_settings
    from django.test import override_settings

    storages = {**django_settings.STORAGES}
    storages["default"] = {**storages["default"], "OPTIONS": {"location": tmp_path_factory.mktemp("files")}}
    storages["staticfiles"] = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
    with override_settings(STORAGES=storages, PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"]):
        yield
