from django.apps import AppConfig


class SheetConfig(AppConfig):
    """Exposure sheets, and the notes people write on them."""

    name = "tinfork.web.sheet"
