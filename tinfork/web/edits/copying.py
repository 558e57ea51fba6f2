"""A scene's documents once more, in another scene: everything that was decided and what follows from it, without the
history of how it came about."""

from tinfork.web.productions.models import Scene

from .models import Document


def copy_documents(scene: Scene, to: Scene) -> None:
    """Put copies of all documents of a scene into a new one, with the rows they keep parts of themselves in."""
    for kind in Document.__subclasses__():
        for one in list(kind.of_scene(scene)):
            rows = {name: list(getattr(one, name).all()) for name in kind.OWNED}
            one.pk, one._state.adding, one.scene = None, True, to
            one.save(force_insert=True)
            for name, own in rows.items():
                field = one._meta.get_field(name).remote_field.name  # type: ignore[union-attr]
                for row in own:
                    row.pk, row._state.adding = None, True
                    setattr(row, field, one)
                type(own[0]).objects.bulk_create(own) if own else None
