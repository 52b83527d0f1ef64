from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("parts", "0004_undo_kept_with_the_log")]

    operations = [migrations.AddField("partrecord", "settled", models.PositiveIntegerField(default=0))]
