from django.apps import AppConfig


class CommonConfig(AppConfig):
    name = "tinfork.apps.common"

    def ready(self) -> None:
        """Translate the core's messages with Django, and create the folder for uploads."""
        from django.conf import settings
        from django.utils.translation import gettext, ngettext

        from tinfork.core import messages

        messages.speak(gettext, ngettext)

        if settings.DATA.exists():
            settings.FILE_UPLOAD_TEMP_DIR.mkdir(exist_ok=True)
