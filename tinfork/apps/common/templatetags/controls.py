"""Form controls with the classes of the site's style."""

from django import forms, template
from django.utils.safestring import SafeString

register = template.Library()


@register.filter
def control(field: forms.BoundField, extra: str = "") -> SafeString:
    """The field's control, tied to its hint and errors for screen readers."""
    kind = "form-select" if isinstance(field.field.widget, forms.Select) else "form-control"
    attributes = {"class": f"{kind} {extra}".strip()}
    if field.errors:
        attributes |= {"aria-invalid": "true", "aria-describedby": f"{field.auto_id}_wrong"}
    return field.as_widget(attrs=attributes)


@register.filter
def get(mapping: dict[str, str], key: str) -> str:
    """A dictionary's value by a variable key."""
    return mapping.get(key, "")
