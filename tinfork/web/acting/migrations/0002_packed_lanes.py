"""Lanes kept as packed JSON."""

from django.db import migrations

import tinfork.web.edits.fields

_LANES = ("body", "gestures")


def _kept_as(kind, using):
    return [f"ALTER TABLE acting_actedlane ALTER COLUMN {name} TYPE {kind} USING {using.format(name)}" for name in _LANES]


_APART = [f"ALTER TABLE acting_actedlane ALTER COLUMN {name} SET STORAGE EXTERNAL" for name in _LANES]


class Migration(migrations.Migration):

    dependencies = [("acting", "0001_initial")]

    operations = [
        migrations.RunSQL(
            [*_kept_as("bytea", "convert_to({}::text, 'UTF8')"), *_APART],
            _kept_as("jsonb", "convert_from({}, 'UTF8')::jsonb"),
            state_operations=[
                migrations.AlterField("actedlane", name, tinfork.web.edits.fields.PackedJSONField(null=True))
                for name in _LANES
            ],
        )
    ]
