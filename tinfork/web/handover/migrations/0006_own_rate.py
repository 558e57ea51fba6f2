from django.db import migrations, models


def take_over(apps, schema):
    """Versions that were shown before are of their scenes' rates: nobody could change these."""
    Version = apps.get_model("handover", "Version")
    scenes = apps.get_model("productions", "Scene").objects
    for pk, rate, first in scenes.values_list("pk", "rate", "start_frame"):
        Version.objects.filter(scene=pk).update(rate=rate, start_frame=first)


class Migration(migrations.Migration):
    dependencies = [("handover", "0005_who_showed_a_version"), ("productions", "__first__")]

    operations = [
        migrations.AddField("version", "rate", models.CharField(max_length=20, default=""), preserve_default=False),
        migrations.AddField("version", "start_frame", models.PositiveIntegerField(default=1), preserve_default=False),
        migrations.RunPython(take_over, migrations.RunPython.noop),
    ]
