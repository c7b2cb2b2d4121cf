from django.db import migrations


class Migration(migrations.Migration):
    """A version's settings under that name."""

    dependencies = [("reading", "0017_timeline_and_annotations")]

    operations = [
        migrations.RenameField("version", "beside", "shot_settings"),
    ]
