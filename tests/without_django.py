"""A pytest plugin: Django cannot be imported. The tests of core are run with it, so that core never needs it."""

import sys
from importlib.abc import MetaPathFinder


class _NoDjango(MetaPathFinder):
    def find_spec(self, fullname, path=None, target=None):
        if fullname.partition(".")[0] == "django":
            raise ModuleNotFoundError("Core and its tests do without Django.", name=fullname)
        return


sys.meta_path.insert(0, _NoDjango())


def pytest_addoption(parser):
    parser.addini("DJANGO_SETTINGS_MODULE", "Of the plugin that is not there.")
