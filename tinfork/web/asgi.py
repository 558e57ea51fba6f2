"""What uvicorn serves: the one address that stays open, by which pages hear of changes. All others are gunicorn's."""

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.web.settings")
application = get_asgi_application()
