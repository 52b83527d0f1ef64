import django.contrib.postgres.indexes
from django.contrib.postgres.operations import TrigramExtension
from django.db import migrations, models
from django.utils import timezone


class Migration(migrations.Migration):
    dependencies = [("parts", "0005_settled")]

    operations = [
        TrigramExtension(),
        migrations.AddIndex(
            "partrecord",
            django.contrib.postgres.indexes.GinIndex(
                django.contrib.postgres.indexes.OpClass("words", name="gin_trgm_ops"), name="parts_by_words"
            ),
        ),
        migrations.AddField(
            "storedfile", "stored", models.DateTimeField(auto_now_add=True, default=timezone.now), preserve_default=False
        ),
    ]
