"""When what is not used any more is looked for: after answers, not within them. A long scene makes so many objects for
an edit that the old ones were gone through now and then in the middle of it, for as long as the edit took."""

import gc

from django.core.signals import request_finished

_YOUNG, _MIDDLE, _NEVER = 5_000, 10, 1_000_000
_OFTEN = 4


def collect_after_answers() -> None:
    """From now on. What is there already stays for good, and is not looked through again."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(_YOUNG, _MIDDLE, _NEVER)
    request_finished.connect(_collect, dispatch_uid="collect after answers")


def _collect(**_: object) -> None:
    if gc.get_count()[2] >= _OFTEN:
        gc.collect()
