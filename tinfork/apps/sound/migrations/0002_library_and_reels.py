import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('cast', '0004_drawings_of_charts'),
        ('produce', '0003_casts_of_shots'),
        ('sound', '0001_initial'),
    ]

    operations = [
        migrations.AlterModelOptions(name='take', options={'ordering': ['-created_at', '-pk']}),
        migrations.AlterField('take', 'original', models.FileField(blank=True, upload_to='')),
        migrations.AddField('take', 'source', models.CharField(choices=[('file', 'file'), ('recorded', 'recorded here'), ('spoken', 'spoken by machine'), ('reel', 'from a story reel')], default='file', max_length=12)),
        migrations.AddField('take', 'speaker', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='takes', to='cast.character')),
        migrations.AddField('take', 'levels', models.FileField(blank=True, upload_to='')),
        migrations.AddField('take', 'loudness', models.FloatField(null=True)),
        migrations.AddField('take', 'true_peak_db', models.FloatField(default=0.0)),
        migrations.AddField('take', 'findings', models.JSONField(default=list)),
        migrations.AddField('take', 'words', models.TextField(blank=True)),
        migrations.AddField('take', 'reading', models.JSONField(null=True)),
        migrations.CreateModel(
            name='Reel',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=200)),
                ('original', models.FileField(blank=True, upload_to='')),
                ('film', models.FileField(blank=True, upload_to='')),
                ('duration_us', models.PositiveBigIntegerField(default=0)),
                ('width', models.PositiveIntegerField(default=0)),
                ('height', models.PositiveIntegerField(default=0)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('production', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reels', to='produce.production')),
                ('take', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='reels', to='sound.take')),
            ],
            options={'ordering': ['-created_at', '-pk']},
        ),
    ]
