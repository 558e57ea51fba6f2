import os

import hypothesis
from django.conf import settings

# The browser's driver keeps an event loop in the thread the tests run in; Django would refuse the database beside it.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

# The same examples every time, so that who changed something learns what that broke; others are looked for when asked.
hypothesis.settings.register_profile("steady", derandomize=True)
hypothesis.settings.load_profile("default" if os.environ.get("TINFORK_EXPLORE") else "steady")


def pytest_configure():
    """Pages are made without collecting the static files first."""
    plain = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
    settings.STORAGES = settings.STORAGES | {"staticfiles": plain}
