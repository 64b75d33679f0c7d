"""The figures of a design become one column; those that are as usual are not written."""

from dataclasses import MISSING, fields

from django.db import migrations, models

from bowyery.design.figures import Figures


def _gathered(apps, schema_editor):
    rows = apps.get_model("designs", "Design").objects.using(schema_editor.connection.alias)
    for row in rows.all():
        for one in fields(Figures):
            usual = one.default_factory() if one.default is MISSING else one.default
            value = getattr(row, one.name)
            if one.name == "tip_static":
                value = "1" if value else ""
            elif one.name == "back_bow_count":
                value = str(value)
            if value != usual:
                row.sizes[one.name] = value
        row.save(update_fields=["sizes"])


class Migration(migrations.Migration):

    dependencies = [("designs", "0001_room")]

    operations = [
        migrations.AddField("design", "sizes", models.JSONField(default=dict, help_text="the figures that are not as usual, by name")),
        migrations.RunPython(_gathered, migrations.RunPython.noop),
        *(migrations.RemoveField("design", one.name) for one in fields(Figures)),
    ]
