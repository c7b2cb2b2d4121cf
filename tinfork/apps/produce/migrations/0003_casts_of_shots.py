import django.db.models.deletion
from django.db import migrations, models


def copy_characters(apps, schema_editor):
    Shot = apps.get_model("produce", "Shot")
    ShotCharacter = apps.get_model("produce", "ShotCharacter")
    ShotCharacter.objects.bulk_create(
        ShotCharacter(shot_id=shot, character_id=character, place=0)
        for shot, character in Shot.objects.values_list("pk", "character_id")
    )


class Migration(migrations.Migration):

    dependencies = [
        ('cast', '0004_drawings_of_charts'),
        ('produce', '0002_initial'),
    ]

    operations = [
        migrations.CreateModel(
            name='ShotCharacter',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('place', models.PositiveSmallIntegerField()),
                ('character', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='cast.character')),
                ('shot', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='parts', to='produce.shot')),
            ],
            options={
                'ordering': ['place', 'pk'],
            },
        ),
        migrations.AddConstraint(
            model_name='shotcharacter',
            constraint=models.UniqueConstraint(fields=('shot', 'character'), name='a_character_once_a_shot'),
        ),
        migrations.RunPython(copy_characters, migrations.RunPython.noop),
    ]
