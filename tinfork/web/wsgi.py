"""What gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

from tinfork.web.collecting import collect_after_answers

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.web.settings")
application = get_wsgi_application()

collect_after_answers()
