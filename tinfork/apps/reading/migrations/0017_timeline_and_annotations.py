from django.db import migrations


class Migration(migrations.Migration):
    """What is heard when, and what people set by hand, under those names."""

    dependencies = [("reading", "0016_lines_of_their_own")]

    operations = [
        migrations.RenameField("soundtrack", "heard", "timeline"),
        migrations.RenameField("soundtrack", "rows", "annotations"),
    ]
