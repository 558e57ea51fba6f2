"""Telling open pages what has changed: a word to all who listen, sent when the transaction it is part of is kept
(PostgreSQL's NOTIFY)."""

import json

from django.db import connection

CHANNEL = "tinfork"


def announce(kind: str, **about: int | str) -> None:
    """Tell those who look on that something has changed. about: by "production", "scene" and "person" the numbers of
    whom it concerns, and what else is to be told of it; short."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, json.dumps({"kind": kind, **about})])
