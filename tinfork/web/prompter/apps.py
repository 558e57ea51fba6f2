from django.apps import AppConfig


class PrompterConfig(AppConfig):
    """Frame by frame at the camera, and the log of what was shot."""

    name = "tinfork.web.prompter"
