"""Steps are numbered by the database."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("edits", "0003_steps_of_a_scene")]

    operations = [
        migrations.RunSQL(
            "CREATE SEQUENCE edits_step; SELECT setval('edits_step', 1 + coalesce(max(step), 0)) FROM edits_edit;",
            "DROP SEQUENCE edits_step;",
        )
    ]
