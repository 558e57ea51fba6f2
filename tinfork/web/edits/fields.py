"""Fields for what is large and read and kept with every edit."""

from typing import Any

import msgspec
from django.db import models
from psycopg.types.json import Jsonb


def _packed(value: Any) -> bytes:
    return msgspec.json.encode(value)


class LargeJSONField(models.JSONField):
    """JSON that is read and written by msgspec: a third of the time of Python's own. Holds no numbers that JSON has
    none for."""

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """What was kept."""
        return value if value is None else msgspec.json.decode(value)

    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        """What is kept."""
        if value is None or not isinstance(value, (dict, list)):
            return super().get_db_prep_value(value, connection, prepared)
        return Jsonb(value, dumps=_packed)
