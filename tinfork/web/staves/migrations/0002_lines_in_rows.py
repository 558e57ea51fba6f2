"""A reading keeps each of its lines in a row of its own, and a track is kept as few numbers."""

from typing import Any

import django.db.models.deletion
from django.db import migrations, models

from tinfork.core.exposure.track import Exposure, Track
from tinfork.core.speech.reading import Line
from tinfork.web.staves.models import heard_of, spans_of
from tinfork.core.plain import restore


RENAME = """
    UPDATE reading_stave SET
        reading = replace(reading::text, '"material":', '"source_id":')::jsonb,
        pins = replace(pins::text, '"material":', '"source_id":')::jsonb
"""


def into_rows(apps: Any, editor: Any) -> None:
    """Give every line of every reading its row. Steps of undo that held whole readings cannot be told apart by lines,
    and are let go of."""
    stave_model, line_model, edit_model = (
        apps.get_model(*name) for name in (("reading", "Stave"), ("reading", "ReadLine"), ("edits", "Edit"))
    )
    for stave in stave_model.objects.all():
        reading = stave.reading
        if reading is None:
            continue
        lines = reading["lines"]
        line_model.objects.bulk_create(
            line_model(
                stave=stave, number=number, body=line, line=line.get("id", 0), heard=heard_of(restore(line, Line))
            )
            for number, line in enumerate(lines, 1)
        )
        stave.about = {name: reading[name] for name in ("seconds", "rate", "language")}
        stave.order = list(range(1, len(lines) + 1))
        stave.where = {str(number): spans_of(restore(line, Line)) for number, line in enumerate(lines, 1)}
        stave.lost = reading.get("lost", [])
        track = Track.of([Exposure(e["frame"], e["frames"], e["drawing"], e["pinned"]) for e in stave.exposures])
        stave.cells, stave.drawings = track.packed(), list(track.drawings)
        stave.unplanned = [[0, len(track)]] if len(track) else []
        stave.save()
    steps = edit_model.objects.filter(area__startswith="stave ").values_list("scene", "step")
    for scene, step in set(steps):
        edit_model.objects.filter(scene=scene, step=step).delete()


class Migration(migrations.Migration):
    dependencies = [("reading", "0001_initial"), ("edits", "0003_steps_of_a_scene"), ("productions", "0001_initial")]

    operations = [
        migrations.AddField("stave", "about", models.JSONField(blank=True, null=True)),
        migrations.AddField("stave", "order", models.JSONField(default=list)),
        migrations.AddField("stave", "lost", models.JSONField(default=list)),
        migrations.AddField("stave", "where", models.JSONField(default=dict)),
        migrations.AddField("stave", "cells", models.BinaryField(default=b"")),
        migrations.AddField("stave", "drawings", models.JSONField(default=list)),
        migrations.AddField("stave", "unplanned", models.JSONField(default=list)),
        migrations.CreateModel(
            name="ReadLine",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.PositiveIntegerField()),
                ("body", models.JSONField()),
                ("line", models.PositiveIntegerField()),
                ("heard", models.JSONField()),
                (
                    "stave",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="lines", to="reading.stave"
                    ),
                ),
            ],
            options={"ordering": ["stave", "number"]},
        ),
        migrations.AddConstraint(
            "readline", models.UniqueConstraint(fields=["stave", "number"], name="one_line_of_a_number")
        ),
        migrations.AddIndex(
            "readline", models.Index(fields=["stave", "line"], name="reading_rea_stave_i_line_idx")
        ),
        migrations.RunSQL(RENAME, migrations.RunSQL.noop),
        migrations.RunPython(into_rows, migrations.RunPython.noop),
    ]
