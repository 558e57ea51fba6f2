from django.db import migrations

INDEXES = {
    "finding_script_words": "script_script USING gin (to_tsvector('simple'::regconfig, body))",
    "finding_note_words": (
        "rushes_comment USING gin "
        "(to_tsvector('simple'::regconfig, COALESCE(text, '') || ' ' || COALESCE(name, '')))"
    ),
}


class Migration(migrations.Migration):
    dependencies = [
        ("script", "0001_initial"),
        ("rushes", "0002_comment_guest_comment_link"),
    ]

    operations = [
        migrations.RunSQL(f"CREATE INDEX {name} ON {what}", f"DROP INDEX IF EXISTS {name}")
        for name, what in INDEXES.items()
    ]
