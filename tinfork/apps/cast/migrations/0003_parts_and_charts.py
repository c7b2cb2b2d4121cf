"""Drawings move from the character to charts of its parts; every character's drawings become its first set."""

import django.db.models.deletion
from django.db import migrations, models

KEYS = "asdfgqwertzxcvb1234567890yuhm"


def make_charts(apps, schema_editor):
    Character = apps.get_model("cast", "Character")
    Part = apps.get_model("cast", "Part")
    Chart = apps.get_model("cast", "Chart")
    for character in Character.objects.all():
        part = Part.objects.create(
            character=character, kind="mouth", name="Mouth",
            x=character.mouth_x, y=character.mouth_y, width=character.mouth_width,
        )
        chart = Chart.objects.create(part=part, name="calm")
        for at, drawing in enumerate(character.drawings.order_by("number")):
            drawing.chart, drawing.position, drawing.key = chart, at, KEYS[at : at + 1]
            drawing.save()


class Migration(migrations.Migration):
    dependencies = [("cast", "0002_initial")]

    operations = [
        migrations.AddField("character", "archived_at", models.DateTimeField(blank=True, null=True)),
        migrations.CreateModel(
            name="Part",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(choices=[("mouth", "Mouth"), ("eyes", "Eyes"), ("brows", "Brows"), ("other", "Other")], default="mouth", max_length=10)),
                ("name", models.CharField(max_length=80)),
                ("x", models.FloatField(default=0.5)),
                ("y", models.FloatField(default=0.65)),
                ("width", models.FloatField(default=0.3)),
                ("angle", models.FloatField(default=0.0)),
                ("character", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="parts", to="cast.character")),
            ],
            options={"ordering": ["pk"]},
        ),
        migrations.CreateModel(
            name="Chart",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80)),
                ("part", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="charts", to="cast.part")),
            ],
            options={"ordering": ["pk"]},
        ),
        migrations.CreateModel(
            name="Page",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=200)),
                ("original", models.FileField(upload_to="")),
                ("picture", models.FileField(blank=True, upload_to="")),
                ("width", models.PositiveIntegerField(default=0)),
                ("height", models.PositiveIntegerField(default=0)),
                ("gap", models.PositiveIntegerField(default=0)),
                ("parts", models.JSONField(default=list, help_text="What is connected on it: drawings are made up of these.")),
                ("boxes", models.JSONField(default=list)),
                ("created_at", models.DateTimeField(auto_now_add=True)),
                ("chart", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="pages", to="cast.chart")),
            ],
            options={"ordering": ["-created_at"]},
        ),
        migrations.RemoveConstraint("drawing", "drawing_number_once"),
        migrations.RenameField("drawing", "visemes", "shows"),
        migrations.AddField("drawing", "chart", models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="drawings", to="cast.chart")),
        migrations.AddField("drawing", "key", models.CharField(blank=True, max_length=1, default=""), preserve_default=False),
        migrations.AddField("drawing", "size", models.SmallIntegerField(default=0)),
        migrations.AddField("drawing", "is_hidden", models.BooleanField(default=False)),
        migrations.AddField("drawing", "position", models.PositiveIntegerField(default=0)),
        migrations.AddField("drawing", "thumb", models.FileField(blank=True, upload_to="", default=""), preserve_default=False),
        # Until now every drawing was drawn by rule, on one canvas.
        migrations.AddField("drawing", "width", models.PositiveIntegerField(default=400), preserve_default=False),
        migrations.AddField("drawing", "height", models.PositiveIntegerField(default=300), preserve_default=False),
        migrations.AddField("drawing", "canvas_width", models.FloatField(default=400.0), preserve_default=False),
        migrations.AddField("drawing", "point_x", models.FloatField(default=200.0), preserve_default=False),
        migrations.AddField("drawing", "point_y", models.FloatField(default=150.0), preserve_default=False),
        migrations.AddField("drawing", "offset_x", models.FloatField(default=0.0)),
        migrations.AddField("drawing", "offset_y", models.FloatField(default=0.0)),
        migrations.AddField("drawing", "measures", models.JSONField(blank=True, null=True)),
        migrations.AddField("drawing", "revision", models.PositiveIntegerField(default=1)),
        migrations.RunPython(make_charts, migrations.RunPython.noop, elidable=True),
    ]
