from django.db import migrations

from tinfork.core.script import marks
from tinfork.core.script.casting import clips_of
from tinfork.core.sound import arrangement
from tinfork.core.timebase import parse_rate
from tinfork.core.plain import plain, restore


RENAME = """UPDATE sound_arrangement SET body = replace(body::text, '"material":', '"source_id":')::jsonb"""


def bind(apps, schema_editor):
    """Marks were kept in the time of the scene; they are kept in that of the sounds they lie on."""
    for document in apps.get_model("sound", "Arrangement").objects.select_related("scene").iterator():
        value, shown = restore(document.body, arrangement.Arrangement), restore(document.marks, marks.Marks)
        rate = float(parse_rate(document.scene.rate))
        kept = marks.with_changes(marks.Marks(), marks.Marks(), shown, lambda who: clips_of(value, who), rate)
        document.marks = plain(kept)
        document.save(update_fields=["marks"])


class Migration(migrations.Migration):

    dependencies = [
        ('sound', '0001_initial'),
    ]

    operations = [
        migrations.RunSQL(RENAME, migrations.RunSQL.noop),
        migrations.RunPython(bind, migrations.RunPython.noop),
    ]
