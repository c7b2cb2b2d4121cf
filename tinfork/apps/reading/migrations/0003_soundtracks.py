import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def one_clip_each(apps, schema_editor):
    """Each shot's take becomes one clip from its first frame, with the shot's reading as its voice."""
    Shot = apps.get_model("produce", "Shot")
    Soundtrack = apps.get_model("reading", "Soundtrack")
    TakeUse = apps.get_model("reading", "TakeUse")
    readings = {r.shot_id: r for r in apps.get_model("reading", "Reading").objects.all()}
    for shot in Shot.objects.exclude(take=None).exclude(take__listening="").select_related("take"):
        take, old = shot.take, readings.get(shot.pk)
        document = old.document if old else {"version": 1, "duration": take.duration_us / 1e6, "lines": []}
        for line in document["lines"]:
            line["speaker"] = str(shot.character_id)
        soundtrack = Soundtrack.objects.create(
            shot=shot,
            revision=old.revision if old else 1,
            is_read=old is not None,
            duration_us=take.duration_us,
            doubts=sum(w["confidence"] < 0.5 for line in document["lines"] for w in line["words"]),
            warnings=old.warnings if old else [],
            document={
                "version": 1,
                "length": 0,
                "tracks": [{"id": 1, "name": "Voice", "kind": "voice", "muted": False}],
                "clips": [
                    {
                        "id": 1, "track": 1, "take": take.pk, "take_length": take.duration_us, "start": 0, "in": 0,
                        "length": take.duration_us, "voice": 1, "fade_in": 0, "fade_out": 0, "gain": 0.0, "slip": 0,
                    }
                ],
                "voices": [{"id": 1, "take": take.pk, "reading": document}],
            },
        )
        TakeUse.objects.create(soundtrack=soundtrack, take=take)


class Migration(migrations.Migration):

    dependencies = [
        ('produce', '0003_casts_of_shots'),
        ('reading', '0002_setstretch'),
        ('sound', '0002_library_and_reels'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Soundtrack',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('document', models.JSONField()),
                ('revision', models.PositiveIntegerField(default=1)),
                ('is_read', models.BooleanField(default=False)),
                ('duration_us', models.PositiveBigIntegerField(default=0)),
                ('doubts', models.PositiveIntegerField(default=0)),
                ('warnings', models.JSONField(default=list)),
                ('proposal', models.JSONField(null=True)),
                ('mixes', models.JSONField(default=dict)),
                ('changed_at', models.DateTimeField(auto_now=True)),
                ('shot', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='soundtrack', to='produce.shot')),
            ],
        ),
        migrations.CreateModel(
            name='TakeUse',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('soundtrack', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='uses', to='reading.soundtrack')),
                ('take', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='uses', to='sound.take')),
            ],
        ),
        migrations.AddConstraint(
            model_name='takeuse',
            constraint=models.UniqueConstraint(fields=('soundtrack', 'take'), name='a_take_once_a_soundtrack'),
        ),
        migrations.AddField(
            model_name='soundtrack',
            name='takes',
            field=models.ManyToManyField(related_name='soundtracks', through='reading.TakeUse', to='sound.take'),
        ),
        migrations.CreateModel(
            name='Edit',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=40)),
                ('parameters', models.JSONField(default=dict)),
                ('before', models.JSONField()),
                ('after', models.JSONField()),
                ('is_undone', models.BooleanField(default=False)),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('soundtrack', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='edits', to='reading.soundtrack')),
            ],
            options={'ordering': ['pk']},
        ),
        migrations.RunPython(one_clip_each, migrations.RunPython.noop),
        migrations.DeleteModel(name='Reading'),
    ]
