import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('produce', '0003_casts_of_shots'),
        ('reading', '0003_soundtracks'),
        ('sound', '0002_library_and_reels'),
    ]

    operations = [
        migrations.RemoveField(model_name='shot', name='character'),
        migrations.RemoveField(model_name='shot', name='take'),
        migrations.AddField(
            model_name='shot',
            name='cast',
            field=models.ManyToManyField(related_name='shots', through='produce.ShotCharacter', to='cast.character'),
        ),
        migrations.AddField(
            model_name='shot',
            name='reel',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='shots', to='sound.reel'),
        ),
        migrations.AddField(
            model_name='shot',
            name='reel_from_us',
            field=models.BigIntegerField(default=0),
        ),
    ]
