"""What gunicorn serves."""

import os
import threading

from django.core.wsgi import get_wsgi_application

from tinfork.core.speech import phones
from tinfork.web.collecting import collect_after_answers

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.web.settings")
application = get_wsgi_application()

collect_after_answers()

# The features of rare sounds take seconds to load; nobody's edit should wait for them.
threading.Thread(target=phones.load_features, daemon=True).start()
