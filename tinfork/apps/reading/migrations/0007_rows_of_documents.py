from django.db import migrations, models

ROWS = ("pins", "notes")


def apart(apps, schema_editor):
    """Pins and notes get a column of their own: most edits change nothing else."""
    Soundtrack = apps.get_model("reading", "Soundtrack")
    for row in Soundtrack.objects.iterator(chunk_size=20):
        row.rows = {key: row.heard.pop(key, []) for key in ROWS}
        row.save(update_fields=["heard", "rows"])


def together(apps, schema_editor):
    """As it was before."""
    Soundtrack = apps.get_model("reading", "Soundtrack")
    for row in Soundtrack.objects.iterator(chunk_size=20):
        row.heard |= row.rows
        row.save(update_fields=["heard"])


class Migration(migrations.Migration):

    dependencies = [
        ('reading', '0006_versions_beside'),
    ]

    operations = [
        migrations.AlterModelOptions(
            name='soundtrack',
            options={'base_manager_name': 'objects'},
        ),
        migrations.RenameField(
            model_name='soundtrack',
            old_name='document',
            new_name='heard',
        ),
        migrations.AddField(
            model_name='soundtrack',
            name='rows',
            field=models.JSONField(default=dict),
        ),
        migrations.RunPython(apart, together),
    ]
