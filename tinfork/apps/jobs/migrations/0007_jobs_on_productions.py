import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('jobs', '0006_alter_job_kind_job_on_a_shot_or_a_character'),
        ('produce', '0004_sound_moves_to_soundtracks'),
    ]

    operations = [
        migrations.RemoveConstraint(model_name='job', name='on_a_shot_or_a_character'),
        migrations.AddField(
            model_name='job',
            name='production',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='jobs', to='produce.production'),
        ),
        migrations.AlterField(
            model_name='job',
            name='kind',
            field=models.CharField(choices=[('read', 'Reading'), ('pictures', 'Picture sequence'), ('drawings', 'Bringing in drawings'), ('page', 'Looking at the page'), ('cut', 'Cutting up the page'), ('mend', 'Mending the chart'), ('measure', 'Measuring the chart'), ('import', 'Importing the character'), ('take', 'Opening the sound'), ('speak', 'Speaking the words'), ('lines', 'Finding the lines'), ('replace', 'Replacing the take'), ('voices', 'Telling the voices apart'), ('reel', 'Opening the story reel')], max_length=20),
        ),
        migrations.AddConstraint(
            model_name='job',
            constraint=models.CheckConstraint(
                condition=models.Q(('character__isnull', True), ('production__isnull', True), ('shot__isnull', False))
                | models.Q(('character__isnull', False), ('production__isnull', True), ('shot__isnull', True))
                | models.Q(('character__isnull', True), ('production__isnull', False), ('shot__isnull', True)),
                name='on_a_shot_a_character_or_a_production',
            ),
        ),
    ]
