"""Jobs may be on a character; a job knows its studio."""

import django.db.models.deletion
from django.db import migrations, models


def fill_studio(apps, schema_editor):
    Job = apps.get_model("jobs", "Job")
    for job in Job.objects.select_related("shot__production"):
        Job.objects.filter(pk=job.pk).update(studio=job.shot.production.studio_id)


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0003_initial"),
        ("cast", "0004_drawings_of_charts"),
        ("people", "0001_initial"),
        ("produce", "0002_initial"),
    ]

    operations = [
        migrations.AddField("job", "studio", models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="people.studio")),
        migrations.AddField("job", "character", models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="cast.character")),
        migrations.AddField("job", "notes", models.JSONField(default=list)),
        migrations.RunPython(fill_studio, migrations.RunPython.noop, elidable=True),
    ]
