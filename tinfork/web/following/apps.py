from django.apps import AppConfig


class FollowingConfig(AppConfig):
    """What was set in a scene goes along when what lies beneath it becomes another."""

    name = "tinfork.web.following"

    def ready(self) -> None:
        """Hear of changes."""
        # Only once all models are there.
        from . import clock  # noqa: F401, PLC0415
