"""Readable names of browsers."""

from django import template
from django.utils.translation import gettext

register = template.Library()

#: Marks in User-Agent headers and names of browsers; the first match counts, since most also contain older names.
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
    """The browser and operating system of a `User-Agent` header, if known."""
    browser = next((name for mark, name in _BROWSERS if mark in user_agent), "")
    system = next((name for mark, name in _SYSTEMS if mark in user_agent), "")
    if browser and system:
        return gettext("{browser} on {system}").format(browser=browser, system=system)
    return browser or system or gettext("unknown")
