from django.db import migrations, models


def fill(apps, schema_editor):
    """What could be undone and redone after each change there is."""
    entries = apps.get_model("parts", "LogEntry").objects.order_by("part_id", "version")
    part, undo, redo, filled = None, [], [], []
    for entry in entries.only("part_id", "version", "kind").iterator():
        if entry.part_id != part:
            part, undo, redo = entry.part_id, [], []
        if entry.kind == "command":
            undo.append(entry.version)
            redo.clear()
        elif entry.kind == "undo":
            redo.append(undo.pop())
        else:
            undo.append(redo.pop())
        entry.undo_top, entry.redo_top = (undo or [None])[-1], (redo or [None])[-1]
        filled.append(entry)
    apps.get_model("parts", "LogEntry").objects.bulk_update(filled, ["undo_top", "redo_top"], batch_size=500)


class Migration(migrations.Migration):
    dependencies = [("parts", "0003_library_by_pages")]

    operations = [
        migrations.AddField("logentry", "document", models.JSONField(null=True)),
        migrations.AddField("logentry", "redo_top", models.PositiveIntegerField(null=True)),
        migrations.AddField("logentry", "undo_top", models.PositiveIntegerField(null=True)),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
