"""The figures of a design become one column."""

from dataclasses import fields

from django.db import migrations, models

from bowyery.design.figures import Figures, taken_from


def _gathered(apps, schema_editor):
    rows = apps.get_model("designs", "Design").objects.using(schema_editor.connection.alias)
    for row in rows.all():
        row.sizes = taken_from({one.name: getattr(row, one.name) for one in fields(Figures)})
        row.save(update_fields=["sizes"])


class Migration(migrations.Migration):

    dependencies = [("designs", "0001_room")]

    operations = [
        migrations.AddField("design", "sizes", models.JSONField(default=dict, help_text="its figures by name; one that is missing is as usual")),
        migrations.RunPython(_gathered, migrations.RunPython.noop),
        *(migrations.RemoveField("design", one.name) for one in fields(Figures)),
    ]
