from django.apps import AppConfig


class ReviewConfig(AppConfig):
    name = "tinfork.apps.review"

    def ready(self) -> None:
        """Register remarks as second looks."""
        from tinfork.apps.reading.looks import MORE_LOOKS
        from tinfork.apps.review.remarks import looks_at_remarks

        MORE_LOOKS.append(looks_at_remarks)
