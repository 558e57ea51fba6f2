from django.apps import AppConfig


class ReadingConfig(AppConfig):
    """Readings and mouth tracks; they follow what is decided about them and about their sounds."""

    name = "tinfork.web.reading"

    def ready(self) -> None:
        """Hear of changes."""
        # Only once all models are there.
        from . import planning  # noqa: F401, PLC0415
