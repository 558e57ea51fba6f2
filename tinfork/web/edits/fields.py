"""Fields for what is large and read and kept with every edit."""

from typing import Any

import msgspec
from django.db import models


class PackedJSONField(models.JSONField):
    """JSON as the bytes that msgspec makes and reads. PostgreSQL's own JSON of 70 kB takes four times as long to keep:
    it is taken apart, put in order and compressed there, and nothing is ever looked for in it. Holds no numbers that
    JSON has none for. None is kept as none."""

    def db_type(self, connection: Any) -> str:
        """Return the database's bytes."""
        return "bytea"

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """Return what was kept."""
        return value if value is None else msgspec.json.decode(value)

    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        """Return what is kept."""
        return value if value is None else msgspec.json.encode(value)
