"""Browsers by the names that people know."""

from django import template
from django.utils.translation import gettext

register = template.Library()

#: What a browser calls itself, and its name: the first that fits, since most call themselves by older names, too.
_BROWSERS = (
    ("Edg", "Edge"),
    ("OPR/", "Opera"),
    ("Firefox/", "Firefox"),
    ("FxiOS/", "Firefox"),
    ("Chrome/", "Chrome"),
    ("CriOS/", "Chrome"),
    ("HeadlessChrome", "Chrome"),
    ("Safari/", "Safari"),
)
_SYSTEMS = (
    ("iPhone", "iPhone"),
    ("iPad", "iPad"),
    ("Android", "Android"),
    ("Windows", "Windows"),
    ("Mac OS X", "Mac"),
    ("CrOS", "Chromebook"),
    ("Linux", "Linux"),
)


@register.filter
def browser_name(user_agent: str) -> str:
    """The browser and the system of a `User-Agent` header, as far as they are known."""
    browser = next((name for mark, name in _BROWSERS if mark in user_agent), "")
    system = next((name for mark, name in _SYSTEMS if mark in user_agent), "")
    if browser and system:
        return gettext("{browser} on {system}").format(browser=browser, system=system)
    return browser or system or gettext("unknown")
