from django.db import migrations

from tinfork.core.script import lines
from tinfork.core.script.casting import clips_of
from tinfork.core.sound import arrangement
from tinfork.core.timebase import parse_rate
from tinfork.core.plain import plain, restore


def bind(apps, schema_editor):
    """The lines' times were kept in the time of the scene; they are kept in that of the sounds they lie on."""
    bodies = dict(apps.get_model("sound", "Arrangement").objects.values_list("scene_id", "body"))
    for document in apps.get_model("script", "Script").objects.select_related("scene").iterator():
        if document.scene_id not in bodies:
            continue
        value = restore(bodies[document.scene_id], arrangement.Arrangement)

        def own(line):
            return clips_of(value, line.character) if line.character is not None else value.clips

        rate = float(parse_rate(document.scene.rate))
        document.body = plain(lines.bound(restore(document.body, lines.Script), 0, own, rate))
        document.save(update_fields=["body"])


class Migration(migrations.Migration):

    dependencies = [
        ('script', '0001_initial'),
        ('sound', '0002_marks_in_their_sounds'),
    ]

    operations = [migrations.RunPython(bind, migrations.RunPython.noop)]
