"""How gunicorn serves us, behind what stands in front."""

import ctypes
import os
import signal
import threading

from tinfork.core.speech import phones

bind = f"unix:{os.environ.get('TINFORK_RUN', '.')}/web.sock"
workers = int(os.environ.get("TINFORK_SERVERS", "2"))
worker_class = "gthread"
threads = 4
timeout = 300
graceful_timeout = 4
loglevel = "warning"
preload_app = True

_ON_PARENTS_DEATH = 1


def post_fork(server: object, worker: object) -> None:
    """A server's child ends with it, whatever ended it: the next has children of its own (prctl(2)). The features of
    rare sounds take seconds to load; nobody's edit should wait for them."""
    ctypes.CDLL(None).prctl(_ON_PARENTS_DEATH, signal.SIGTERM)
    threading.Thread(target=phones.load_features, daemon=True).start()
