"""What gunicorn serves."""

import gc
import os
import threading

from django.core.wsgi import get_wsgi_application

from tinfork.core.speech import phones

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.web.settings")
application = get_wsgi_application()

# What is there by now stays for good: it is not looked through again and again for what can be thrown away.
gc.collect()
gc.freeze()

# The features of rare sounds take seconds to load; nobody's edit should wait for them.
threading.Thread(target=phones.load_features, daemon=True).start()
