"""What the lines' rows and the track took the place of is removed."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("reading", "0002_lines_in_rows")]

    operations = [migrations.RemoveField("stave", "reading"), migrations.RemoveField("stave", "exposures")]
