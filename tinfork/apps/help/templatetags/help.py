"""Links to the help for the current page, and for an error."""

from typing import Any

from django import template

from tinfork.apps.help.topics import address_of_topic, topic_of_error, topic_of_page

register = template.Library()


@register.simple_tag(takes_context=True)
def help_here(context: dict[str, Any]) -> str:
    """The URL of the chapter about the current page."""
    request = context.get("request")
    match = request.resolver_match if request else None
    return address_of_topic(topic_of_page((match.url_name if match else "") or ""))


@register.filter
def help_with(error: object) -> str:
    """The URL of the help for an error."""
    return address_of_topic(topic_of_error(error))
