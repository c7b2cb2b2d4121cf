from django.apps import AppConfig


class CommonConfig(AppConfig):
    name = "tinfork.apps.common"

    def ready(self) -> None:
        """Uploads need their folder before the first of them comes."""
        from django.conf import settings

        if settings.DATA.exists():
            settings.FILE_UPLOAD_TEMP_DIR.mkdir(exist_ok=True)
