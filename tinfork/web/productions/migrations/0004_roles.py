from django.db import migrations, models

_NOW = {"editor": "animator", "viewer": "reviewer"}


def _rename(apps, names):
    for before, after in names.items():
        apps.get_model("productions", "Membership").objects.filter(role=before).update(role=after)


class Migration(migrations.Migration):
    dependencies = [("productions", "0003_heard_voices")]

    operations = [
        migrations.RunPython(
            lambda apps, _: _rename(apps, _NOW),
            lambda apps, _: _rename(apps, {after: before for before, after in _NOW.items()}),
        ),
        migrations.AlterField(
            "membership",
            "role",
            models.CharField(
                choices=[("owner", "Owner"), ("animator", "Animator"), ("reviewer", "Reviewer")],
                default="animator",
                max_length=8,
            ),
        ),
    ]
