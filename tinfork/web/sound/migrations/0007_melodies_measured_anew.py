from django.db import migrations


def forget(apps, schema_editor):
    """Melodies are measured again where they are needed: pitch had leaps of an octave in them."""
    apps.get_model("sound", "SoundMelody").objects.all().delete()


class Migration(migrations.Migration):

    dependencies = [
        ("sound", "0006_take_at"),
    ]

    operations = [
        migrations.RunPython(forget, migrations.RunPython.noop),
    ]
