"""How gunicorn serves us, behind what stands in front."""

import ctypes
import os
import signal
import threading

from tinfork.core.speech import phones
from tinfork.web.files import aside

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
    """A server's child ends with it, whatever ended it: the next has children of its own (prctl(2))."""
    ctypes.CDLL(None).prctl(_ON_PARENTS_DEATH, signal.SIGTERM)
    threading.Thread(target=_get_ready, daemon=True).start()


def _get_ready() -> None:
    """What takes seconds, and nobody's edit should wait for: the features of rare sounds, and what opens files."""
    aside.get_ready()
    phones.load_features()
