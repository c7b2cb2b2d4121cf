"""What the move to charts leaves: links made firm, what is not needed any more removed."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("cast", "0003_parts_and_charts")]

    operations = [
        migrations.AlterField("drawing", "chart", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="drawings", to="cast.chart")),
        migrations.RemoveField("drawing", "character"),
        migrations.RemoveField("character", "mouth_x"),
        migrations.RemoveField("character", "mouth_y"),
        migrations.RemoveField("character", "mouth_width"),
        migrations.AlterModelOptions("drawing", {"ordering": ["position", "number"]}),
        migrations.AddConstraint("part", models.UniqueConstraint(fields=("character", "name"), name="part_name_once_a_character")),
        migrations.AddConstraint("part", models.UniqueConstraint(condition=models.Q(("kind", "mouth")), fields=("character",), name="one_mouth_a_character")),
        migrations.AddConstraint("chart", models.UniqueConstraint(fields=("part", "name"), name="chart_name_once_a_part")),
        migrations.AddConstraint("drawing", models.UniqueConstraint(fields=("chart", "number"), name="drawing_number_once_a_chart")),
        migrations.AddConstraint("drawing", models.UniqueConstraint(condition=models.Q(("key", ""), _negated=True), fields=("chart", "key"), name="key_once_a_chart")),
        migrations.AddConstraint("drawing", models.CheckConstraint(condition=models.Q(("size__gte", -1), ("size__lte", 1)), name="small_any_or_big")),
        migrations.AddConstraint("drawing", models.CheckConstraint(condition=models.Q(("height__gt", 0), ("width__gt", 0)), name="a_drawing_has_a_canvas")),
    ]
