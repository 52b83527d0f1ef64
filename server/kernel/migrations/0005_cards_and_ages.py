import django.contrib.postgres.indexes
from django.db import migrations, models
from django.utils import timezone


def fill(apps, schema_editor):
    """Cards of the builds there are."""
    from kernel.models import build_card

    records = apps.get_model("kernel", "BuildRecord").objects
    for record in records.only("pk", "figures").iterator():
        records.filter(pk=record.pk).update(card=build_card(record.figures))


class Migration(migrations.Migration):
    dependencies = [("kernel", "0004_artifact_workspace"), ("parts", "0006_search_by_index")]

    operations = [
        migrations.AddField("buildrecord", "card", models.JSONField(null=True)),
        migrations.AddField(
            "previewturn", "at", models.DateTimeField(auto_now=True, default=timezone.now), preserve_default=False
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
        migrations.AddIndex("artifact", models.Index(fields=["kind", "made"], name="kept_results_by_age")),
        migrations.AddIndex(
            "buildrecord",
            django.contrib.postgres.indexes.GinIndex(fields=["bodies"], name="builds_by_picture"),
        ),
    ]
