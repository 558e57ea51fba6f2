from django.apps import AppConfig


class StavesConfig(AppConfig):
    """Readings and mouth tracks; they follow what is decided about them and about their sounds."""

    name = "tinfork.web.staves"
    # As the tables are called since there were any.
    label = "reading"

    def ready(self) -> None:
        """Hear of changes."""
        # Only once all models are there.
        from . import dressing, planning  # noqa: F401, PLC0415
