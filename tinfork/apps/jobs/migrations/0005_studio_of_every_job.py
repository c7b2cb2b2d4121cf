"""Every job has a studio, and is on a shot or on a character."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0004_jobs_on_characters")]

    operations = [
        migrations.AlterField("job", "studio", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="people.studio")),
        migrations.AlterField("job", "shot", models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="produce.shot")),
    ]
