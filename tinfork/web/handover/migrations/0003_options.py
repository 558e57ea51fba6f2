from django.db import migrations


def into_options(apps, schema_editor):
    """How pictures are called is an option of their format."""
    for name in ("Preset", "Handover"):
        for one in apps.get_model("handover", name).objects.filter(wish__has_key="pattern"):
            pattern = one.wish.pop("pattern")
            one.wish["options"] = {"png": {"pattern": pattern}}
            one.save(update_fields=["wish"])


class Migration(migrations.Migration):
    dependencies = [("handover", "0002_backdrop")]

    operations = [migrations.RunPython(into_options, migrations.RunPython.noop)]
