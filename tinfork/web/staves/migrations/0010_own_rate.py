from django.db import migrations, models


def take_over(apps, schema):
    """Takes that were kept before are of their scenes' rates: nobody could change these."""
    takes = apps.get_model("reading", "TrackTake").objects
    for pk, rate in apps.get_model("productions", "Scene").objects.values_list("pk", "rate"):
        takes.filter(stave__scene=pk).update(rate=rate)


class Migration(migrations.Migration):
    dependencies = [("reading", "0009_sounds_that_moved"), ("productions", "__first__")]

    operations = [
        migrations.AddField("tracktake", "rate", models.CharField(max_length=20, default=""), preserve_default=False),
        migrations.RunPython(take_over, migrations.RunPython.noop),
    ]
