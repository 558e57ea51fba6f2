"""The listening copy and peaks of a channel are called so."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("sound", "0002_marks_in_their_sounds")]

    operations = [
        migrations.RemoveConstraint("hearing", "one_hearing_of_a_channel"),
        migrations.RenameModel("Hearing", "ChannelCopy"),
        migrations.AlterField(
            "channelcopy",
            "sound",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="copies", to="sound.soundfile"
            ),
        ),
        migrations.AddConstraint(
            "channelcopy", models.UniqueConstraint(fields=("sound", "channel"), name="one_copy_of_a_channel")
        ),
    ]
