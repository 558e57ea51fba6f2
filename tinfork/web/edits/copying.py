"""A scene's documents once more, in another scene: everything that was decided and what follows from it, without the
history of how it came about."""

from typing import Any

from django.db import connection

from tinfork.web.productions.models import Scene

from .models import Document


def copy_documents(scene: Scene, to: Scene) -> None:
    """Put copies of all documents of a scene into a new one, with the rows they keep parts of themselves in."""
    for kind in Document.__subclasses__():
        for one in list(kind.of_scene(scene)):
            before = one.pk
            one.pk, one._state.adding, one.scene = None, True, to
            one.save(force_insert=True)
            for name in kind.OWNED:
                _copy_rows(kind._meta.get_field(name), before, one.pk)


def _copy_rows(relation: Any, before: int, now: int) -> None:
    """Put copies of all that belongs to one row under another, in the database."""
    rows, of = relation.related_model._meta, relation.remote_field.column
    quoted = connection.ops.quote_name
    columns = [quoted(field.column) for field in rows.concrete_fields if not field.primary_key and field.column != of]
    others = ", ".join(columns)
    with connection.cursor() as cursor:
        cursor.execute(
            f"INSERT INTO {quoted(rows.db_table)} ({quoted(of)}, {others}) "
            f"SELECT %s, {others} FROM {quoted(rows.db_table)} WHERE {quoted(of)} = %s ORDER BY id",
            [now, before],
        )
