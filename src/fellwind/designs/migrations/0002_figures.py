"""The figures of a design become one column."""

from django.db import migrations, models

from bowyery.design.figures import taken_from


# The columns as they stood: figures that came later never had one.
COLUMNS = ["handle", "handle_depth", "grip_width", "grip_drop", "fade", "fade_shape", "width", "parallel", "root_width", "tip_width", "section", "section_radius", "tube_wall", "solve_for", "depth_root", "depth_nock", "least_tip", "reflex", "tip_bent", "tip_angle", "tip_static", "nock_style", "beyond_upper", "beyond_lower", "back", "back_root", "back_nock", "belly", "belly_root", "belly_nock", "brace_height", "family", "gap", "fibre", "arrow", "moisture", "back_is", "centre_line", "back_bow_length", "back_bow_count", "back_bow_width", "back_bow_tip", "back_bow_root", "back_bow_nock", "back_bow_tied", "cable_tension", "cable_slack", "marked_in", "places_from", "kind", "outline", "line", "lams"]


def _gathered(apps, schema_editor):
    rows = apps.get_model("designs", "Design").objects.using(schema_editor.connection.alias)
    for row in rows.all():
        row.sizes = taken_from({name: getattr(row, name) for name in COLUMNS})
        row.save(update_fields=["sizes"])


class Migration(migrations.Migration):

    dependencies = [("designs", "0001_room")]

    operations = [
        migrations.AddField("design", "sizes", models.JSONField(default=dict, help_text="its figures by name; one that is missing is as usual")),
        migrations.RunPython(_gathered, migrations.RunPython.noop),
        *(migrations.RemoveField("design", name) for name in COLUMNS),
    ]
