from django.apps import AppConfig


class HandoverConfig(AppConfig):
    """Files to hand over."""

    name = "tinfork.web.handover"
