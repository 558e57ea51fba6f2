from django.db import migrations, models


RENAME = """
    UPDATE edits_edit SET
        before = replace(before::text, '"material":', '"source_id":')::jsonb,
        after = replace(after::text, '"material":', '"source_id":')::jsonb
"""


def keep_what_changed(apps, schema_editor):
    """What was kept whole, before and after, becomes a change; every edit until now is a step of its own."""
    Edit = apps.get_model("edits", "Edit")
    for edit in Edit.objects.all().iterator(chunk_size=50):
        edit.changes = {name: [[[], edit.before[name], value]] for name, value in edit.after.items()}
        edit.step = edit.pk
        edit.save(update_fields=["changes", "step"])


class Migration(migrations.Migration):

    dependencies = [
        ('edits', '0002_runs'),
    ]

    operations = [
        migrations.RenameField(model_name='edit', old_name='run', new_name='batch'),
        migrations.AddField(model_name='edit', name='changes', field=models.JSONField(default=dict)),
        migrations.AddField(model_name='edit', name='step', field=models.PositiveBigIntegerField(default=0)),
        migrations.RunSQL(RENAME, migrations.RunSQL.noop),
        migrations.RunPython(keep_what_changed, migrations.RunPython.noop),
        migrations.RunSQL('SET CONSTRAINTS ALL IMMEDIATE', migrations.RunSQL.noop),  # or no table can be altered
        migrations.RemoveField(model_name='edit', name='before'),
        migrations.RemoveField(model_name='edit', name='after'),
        migrations.AddIndex(
            model_name='edit',
            index=models.Index(fields=['scene', 'step'], name='edits_edit_scene_i_step_idx'),
        ),
    ]
