import os

from django.conf import settings

# The browser's driver keeps an event loop in the thread the tests run in; Django would refuse the database beside it.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"


def pytest_configure():
    """Pages are made without collecting the static files first."""
    plain = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
    settings.STORAGES = settings.STORAGES | {"staticfiles": plain}
