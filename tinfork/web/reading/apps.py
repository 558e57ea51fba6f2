from django.apps import AppConfig


class ReadingConfig(AppConfig):
    """Hearing what is said, and its correction; long work, which workers find in its tasks."""

    name = "tinfork.web.reading"
    label = "hearing"

    def ready(self) -> None:
        """Hear of marks."""
        # Only once all models are there.
        from tinfork.web.sound.arranging import follow_marks  # noqa: PLC0415

        from .scene import name_marked  # noqa: PLC0415

        follow_marks(name_marked)
