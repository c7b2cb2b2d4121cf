from django.db import migrations, models
import django.db.models.deletion

from tinfork.core.formats.soundtrack_json import ANNOTATIONS, soundtrack_from_dict, soundtrack_to_dict
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.soundtrack.numbering import numbered


def part(apps, schema_editor):
    """Lines go to rows of their own; in what is heard they are named by their numbers."""
    Soundtrack = apps.get_model("reading", "Soundtrack")
    ReadLine = apps.get_model("reading", "ReadLine")
    for row in Soundtrack.objects.iterator(chunk_size=20):
        if not all("id" in line for voice in row.heard["voices"] for line in voice["reading"]["lines"]):
            # Restored from a backup of before lines had numbers, and not edited since.
            st, row.next_id = numbered(CoreSoundtrack(), soundtrack_from_dict(row.heard | row.rows), row.next_id)
            row.heard = {key: part for key, part in soundtrack_to_dict(st).items() if key not in ANNOTATIONS}
        for voice in row.heard["voices"]:
            lines = voice["reading"]["lines"]
            ReadLine.objects.bulk_create(
                ReadLine(soundtrack=row, number=line["id"], mark=0, content=line) for line in lines
            )
            voice["reading"]["lines"] = [line["id"] for line in lines]
        row.save(update_fields=["heard", "next_id"])


def join(apps, schema_editor):
    """Back into what is heard."""
    Soundtrack = apps.get_model("reading", "Soundtrack")
    for row in Soundtrack.objects.iterator(chunk_size=20):
        lines = dict(row.lines.values_list("number", "content"))
        for voice in row.heard["voices"]:
            voice["reading"]["lines"] = [lines[number] for number in voice["reading"]["lines"]]
        row.save(update_fields=["heard"])


class Migration(migrations.Migration):

    dependencies = [
        ('reading', '0015_kept_versions'),
    ]

    operations = [
        migrations.CreateModel(
            name='ReadLine',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('mark', models.BigIntegerField()),
                ('content', models.JSONField()),
                ('soundtrack', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lines', to='reading.soundtrack')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('soundtrack', 'number'), name='a_line_s_number_once_a_shot')],
            },
        ),
        migrations.RunPython(part, join),
    ]
