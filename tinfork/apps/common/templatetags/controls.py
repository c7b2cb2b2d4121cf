"""Template filters for form controls and values."""

from django import forms, template
from django.utils.safestring import SafeString
from django.utils.translation import gettext

from tinfork.core.clock import seconds_from_us

register = template.Library()


@register.filter
def control(field: forms.BoundField, extra: str = "") -> SafeString:
    """The field's control, linked to its hint and errors for screen readers."""
    kind = "form-select" if isinstance(field.field.widget, forms.Select) else "form-control"
    if isinstance(field.field.widget, forms.CheckboxInput):
        kind = "form-check-input"
    attributes: dict[str, str | bool] = {"class": f"{kind} {extra}".strip()}
    if field.errors:
        attributes |= {"aria-invalid": "true", "aria-describedby": f"{field.auto_id}_wrong"}
    return field.as_widget(attrs=attributes)


@register.filter
def get(mapping: dict[str, str], key: str) -> str:
    """A dictionary's value for a key."""
    return mapping.get(key, "")


@register.filter
def seconds(time_us: int) -> str:
    """Microseconds as seconds with two decimals."""
    return f"{seconds_from_us(time_us):.2f}"


@register.filter
def clock(time_us: int) -> str:
    """Microseconds as minutes, seconds and tenths."""
    tenths = round(time_us / 100_000)
    return f"{tenths // 600}:{tenths // 10 % 60:02d}.{tenths % 10}"


@register.filter
def minus(a: int, b: int) -> int:
    """Subtract."""
    return a - b


@register.filter
def say(text: str) -> str:
    """Translate a label or hint from the core's tables."""
    return gettext(str(text)) if text else ""
