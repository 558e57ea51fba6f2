"""When what is not used any more is looked for: after answers, not within them. A long scene makes so many objects for
an edit that the old ones were gone through now and then in the middle of it, for as long as the edit took."""

import gc

from django.core.signals import request_finished

_MOST_WITHIN, _NEVER = 500_000, 1_000_000
"""So many objects more than before may be made before they are looked through within an answer."""

_LEFT, _OFTEN = 20_000, 4
"""From so many young objects left by answers on they are looked through, and every so many times all are."""


def collect_after_answers() -> None:
    """From now on. What is there already stays for good, and is not looked through again."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(_MOST_WITHIN, _NEVER, _NEVER)
    request_finished.connect(_collect, dispatch_uid="collect after answers")


def _collect(**_: object) -> None:
    young, looks = gc.get_count()[0], gc.get_count()[2]
    if young >= _LEFT:
        gc.collect(2 if looks >= _OFTEN else 1)
