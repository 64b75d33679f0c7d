import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('designs', name) for name in ('0001_initial', '0002_initial', '0003_gap', '0004_versions', '0005_drawn', '0006_slack', '0007_back_bow_count', '0008_skin', '0009_learned',)]

    dependencies = [
        ('rack', '0001_room'),
        ('shop', '0001_room'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Design',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=80)),
                ('material', models.CharField(max_length=40)),
                ('moisture', models.FloatField(default=0.09)),
                ('weight', models.FloatField()),
                ('draw', models.FloatField()),
                ('fingers', models.CharField(max_length=24)),
                ('gap', models.FloatField(blank=True, help_text='upper less lower at brace; none: as the hold asks', null=True)),
                ('brace_height', models.FloatField(default=0.15239999999999998)),
                ('family', models.CharField(default='elliptical', max_length=20)),
                ('length', models.FloatField()),
                ('handle', models.FloatField(default=0.1016)),
                ('fade', models.FloatField(default=0.0508)),
                ('width', models.FloatField(default=0.044449999999999996)),
                ('tip_width', models.FloatField(default=0.0127)),
                ('parallel', models.FloatField(default=0.5)),
                ('root_width', models.FloatField(default=1.0)),
                ('grip_drop', models.FloatField(default=0.0)),
                ('handle_depth', models.FloatField(default=0.044449999999999996)),
                ('least_tip', models.FloatField(default=0.0079375)),
                ('reflex', models.FloatField(default=0.0)),
                ('solve_for', models.CharField(choices=[('thickness', 'the thickness'), ('width', 'the width'), ('nothing', 'nothing: the stock has its thickness')], default='thickness', max_length=10)),
                ('depth_root', models.FloatField(default=0.01397)),
                ('depth_nock', models.FloatField(default=0.01016)),
                ('back', models.CharField(blank=True, max_length=40)),
                ('back_root', models.FloatField(default=0.0)),
                ('back_nock', models.FloatField(default=0.0)),
                ('belly', models.CharField(blank=True, max_length=40)),
                ('belly_root', models.FloatField(default=0.0)),
                ('belly_nock', models.FloatField(default=0.0)),
                ('centre_line', models.CharField(choices=[('follow', 'following the grain'), ('straight', 'straight from nock to nock')], default='follow', max_length=10)),
                ('back_is', models.CharField(choices=[('bark', 'as it grew under the bark'), ('ring', 'one ring, chased'), ('sawn', 'as sawn')], default='bark', max_length=10)),
                ('fade_shape', models.CharField(choices=[('straight', 'straight'), ('smooth', 'smooth, in a double curve'), ('hollow', 'hollow, like a spoon')], default='smooth', max_length=10)),
                ('nock_style', models.CharField(choices=[('side', 'grooves in the sides'), ('pin', 'a pin with shoulders'), ('overlay', 'an overlay with a groove over the back')], default='side', max_length=10)),
                ('kind', models.CharField(blank=True, help_text='a layout that it began with', max_length=40)),
                ('outline', models.JSONField(blank=True, help_text='width points by limb, as shares of it; none: by its sizes', null=True)),
                ('places_from', models.CharField(choices=[('centre', 'from the centre'), ('tip', 'from the nock')], default='centre', max_length=10)),
                ('grip_width', models.FloatField(blank=True, null=True)),
                ('beyond_upper', models.FloatField(default=0.0254, help_text='wood beyond the nock')),
                ('beyond_lower', models.FloatField(default=0.0254)),
                ('line', models.JSONField(blank=True, default=dict, help_text='natural line by limb: shares, and offsets to the belly')),
                ('tip_bent', models.FloatField(blank=True, help_text='length of a bent tip', null=True)),
                ('tip_angle', models.FloatField(default=0.0, help_text='to the back')),
                ('tip_static', models.BooleanField(default=False)),
                ('lams', models.JSONField(blank=True, default=list, help_text='further layers, from the outermost to the core')),
                ('fibre', models.CharField(default='polyester', max_length=40)),
                ('arrow', models.FloatField(blank=True, null=True)),
                ('section', models.CharField(default='rectangle', max_length=40)),
                ('section_radius', models.FloatField(blank=True, help_text='of the log or the culm', null=True)),
                ('tube_wall', models.FloatField(blank=True, null=True)),
                ('back_bow_length', models.FloatField(blank=True, help_text='of a back-bow; none without it', null=True)),
                ('back_bow_count', models.PositiveSmallIntegerField(default=1)),
                ('back_bow_width', models.FloatField(default=0.03175)),
                ('back_bow_tip', models.FloatField(default=0.019049999999999997)),
                ('back_bow_root', models.FloatField(default=0.007619999999999999)),
                ('back_bow_nock', models.FloatField(default=0.00508)),
                ('back_bow_tied', models.FloatField(default=0.0, help_text='how far in from the nocks the cable is tied')),
                ('cable_tension', models.FloatField(default=60.0, help_text='of each cable before the bow is strung')),
                ('cable_slack', models.FloatField(default=0.0, help_text='by how much each cable hangs loose')),
                ('marked_in', models.CharField(choices=[('imperial', 'shop fractions (64ths)'), ('metric', 'millimetres (half steps)')], default='imperial', max_length=10)),
                ('learned', models.JSONField(blank=True, help_text="of its wood's modulus, as the shop knew it when the design was made", null=True)),
                ('by_book', models.BooleanField(default=False, help_text='nothing that the shop learned counts')),
                ('made', models.DateTimeField(default=django.utils.timezone.now)),
                ('notes', models.TextField(blank=True)),
                ('bow_file', models.TextField(blank=True)),
                ('archer', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='designs', to='shop.archer')),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('stave', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='designs', to='rack.stave')),
            ],
            options={
                'ordering': ['-made'],
            },
        ),
    ]
