from django.apps import AppConfig


class ReadingConfig(AppConfig):
    """Hearing what is said, and its correction; long work, which workers find in its tasks."""

    name = "tinfork.web.reading"
    label = "hearing"
