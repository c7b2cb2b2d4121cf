"""Names, pictures and more roles; invitations keep a digest instead of what opens them."""

import hashlib

import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models

import tinfork.core.messages

ROLES = [
    ("owner", tinfork.core.messages.Message("Owner")),
    ("lead", tinfork.core.messages.Message("Lead")),
    ("animator", tinfork.core.messages.Message("Animator")),
    ("reviewer", tinfork.core.messages.Message("Reviewer")),
    ("viewer", tinfork.core.messages.Message("Viewer")),
]


def digest(apps, schema_editor):
    """Links that were made before go on to work."""
    for invitation in apps.get_model("people", "Invitation").objects.all():
        invitation.digest = hashlib.sha256(invitation.token.encode()).hexdigest()
        invitation.uses = 1 if invitation.used_by_id else 0
        invitation.save(update_fields=["digest", "uses"])


class Migration(migrations.Migration):
    dependencies = [("people", "0003_tour")]

    operations = [
        migrations.AddField("user", "name", models.CharField(blank=True, max_length=80)),
        migrations.AddField("user", "picture", models.FileField(blank=True, upload_to="")),
        migrations.AddField(
            "user",
            "studio",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="people.studio"
            ),
        ),
        migrations.AddField("user", "news_mail", models.JSONField(blank=True, default=dict)),
        migrations.AddField("studio", "status_names", models.JSONField(blank=True, default=dict)),
        migrations.AddField(
            "membership",
            "since",
            models.DateTimeField(auto_now_add=True, default=django.utils.timezone.now),
            preserve_default=False,
        ),
        migrations.AlterField("membership", "role", models.CharField(choices=ROLES, default="animator", max_length=12)),
        migrations.AlterField("invitation", "role", models.CharField(choices=ROLES, default="animator", max_length=12)),
        migrations.AddField("invitation", "digest", models.CharField(default="", max_length=64)),
        migrations.AddField("invitation", "email", models.EmailField(blank=True, max_length=254)),
        migrations.AddField("invitation", "most_uses", models.PositiveSmallIntegerField(default=1, null=True)),
        migrations.AddField("invitation", "uses", models.PositiveIntegerField(default=0)),
        migrations.AddField("invitation", "withdrawn_at", models.DateTimeField(null=True)),
        migrations.AddField(
            "invitation",
            "by",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.RunPython(digest, migrations.RunPython.noop),
        migrations.AlterField("invitation", "digest", models.CharField(max_length=64, unique=True)),
        migrations.RemoveField("invitation", "token"),
        migrations.RemoveField("invitation", "used_by"),
        migrations.AlterModelOptions("invitation", {"ordering": ["-pk"]}),
    ]
