"""Links to the help that belongs to where one is, and to what went wrong."""

from typing import Any

from django import template

from tinfork.apps.help.topics import address_of_topic, topic_of_error, topic_of_page

register = template.Library()


@register.simple_tag(takes_context=True)
def help_here(context: dict[str, Any]) -> str:
    """The address of the chapter about the page that is seen."""
    request = context.get("request")
    match = request.resolver_match if request else None
    return address_of_topic(topic_of_page((match.url_name if match else "") or ""))


@register.filter
def help_with(error: object) -> str:
    """The address of what mends an error."""
    return address_of_topic(topic_of_error(error))
