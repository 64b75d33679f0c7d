import django.db.models.deletion
import django.utils.timezone
import fellwind.kit.models
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('rack', name) for name in ('0001_initial', '0002_versions', '0003_tree',)]

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Stave',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('number', models.PositiveIntegerField(unique=True)),
                ('kind', models.CharField(default='log split', max_length=20)),
                ('material', models.CharField(max_length=40)),
                ('length', models.FloatField()),
                ('length_text', models.CharField(max_length=40)),
                ('width', models.FloatField()),
                ('width_text', models.CharField(max_length=40)),
                ('depth', models.FloatField()),
                ('depth_text', models.CharField(max_length=40)),
                ('reflex', models.FloatField(default=0.0, help_text='m; natural, of the tips towards the back; deflex is negative')),
                ('modulus', models.FloatField(blank=True, null=True)),
                ('rupture', models.FloatField(blank=True, null=True)),
                ('density', models.FloatField(blank=True, null=True)),
                ('acquired', models.DateField(default=django.utils.timezone.localdate)),
                ('source', models.CharField(blank=True, help_text='where from', max_length=120)),
                ('tree', models.CharField(blank=True, help_text='or board that it was split from', max_length=60)),
                ('price', models.CharField(blank=True, max_length=40)),
                ('bought_at', models.FloatField(blank=True, help_text='moisture when it came, as a fraction', null=True)),
                ('ring', models.FloatField(blank=True, help_text='m; width of a growth ring', null=True)),
                ('late_share', models.FloatField(blank=True, help_text="late wood's share of a ring", null=True)),
                ('sapwood', models.FloatField(blank=True, help_text='m; depth below the back', null=True)),
                ('drift', models.FloatField(blank=True, help_text='m; how far the grain drifts to the side', null=True)),
                ('drift_over', models.FloatField(blank=True, help_text='m; over this length', null=True)),
                ('wall', models.FloatField(blank=True, help_text='m; of a bamboo culm', null=True)),
                ('cut_left', models.FloatField(default=0.0, help_text='m; sliced off the left end')),
                ('cut_right', models.FloatField(default=0.0)),
                ('notes', models.TextField(blank=True)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-number'],
            },
        ),
        migrations.CreateModel(
            name='Section',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('text', models.CharField(max_length=200)),
                ('written', models.DateTimeField(default=django.utils.timezone.now)),
                ('gone', models.BooleanField(default=False, help_text='cut away, or noted by mistake')),
                ('at', models.FloatField()),
                ('width', models.FloatField(blank=True, null=True)),
                ('depth', models.FloatField(blank=True, null=True)),
                ('crown', models.FloatField(blank=True, help_text='radius of the back', null=True)),
                ('side', models.FloatField(blank=True, help_text='off a straight string, towards the belly', null=True)),
                ('sideways', models.FloatField(blank=True, help_text='off a straight string, towards the upper edge', null=True)),
                ('twist', models.FloatField(blank=True, help_text='against the left end', null=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('replaced_by', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='replaces', to='rack.section')),
                ('stave', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='sections', to='rack.stave')),
            ],
            options={
                'ordering': ['at'],
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Photo',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(help_text='of its file, without the ending', max_length=40, unique=True)),
                ('caption', models.CharField(max_length=200)),
                ('at', models.FloatField(blank=True, help_text='m; from the left end, where it shows one place', null=True)),
                ('width', models.PositiveIntegerField(help_text='pixels')),
                ('height', models.PositiveIntegerField()),
                ('day', models.DateField(default=django.utils.timezone.localdate)),
                ('written', models.DateTimeField(default=django.utils.timezone.now)),
                ('gone', models.BooleanField(default=False)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('stave', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='photos', to='rack.stave')),
            ],
            options={
                'ordering': ['day', 'written'],
            },
        ),
        migrations.CreateModel(
            name='Flaw',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('text', models.CharField(max_length=200)),
                ('written', models.DateTimeField(default=django.utils.timezone.now)),
                ('gone', models.BooleanField(default=False, help_text='cut away, or noted by mistake')),
                ('kind', models.CharField(max_length=20)),
                ('face', models.CharField(default='back', max_length=10)),
                ('at', models.FloatField(help_text='from the left end, seen from the back')),
                ('off', models.FloatField(default=0.0, help_text='across, towards the upper edge as drawn')),
                ('length', models.FloatField()),
                ('width', models.FloatField()),
                ('depth', models.FloatField()),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('replaced_by', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='replaces', to='rack.flaw')),
                ('stave', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='flaws', to='rack.stave')),
            ],
            options={
                'ordering': ['at'],
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='StripTest',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('span', models.FloatField()),
                ('load', models.FloatField()),
                ('sag', models.FloatField()),
                ('width', models.FloatField()),
                ('depth', models.FloatField()),
                ('length', models.FloatField(blank=True, null=True)),
                ('mass', models.FloatField(blank=True, null=True)),
                ('moisture', models.FloatField(default=0.12)),
                ('text', models.CharField(max_length=200)),
                ('written', models.DateTimeField(default=django.utils.timezone.now)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('stave', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='strip_tests', to='rack.stave')),
            ],
            options={
                'ordering': ['-written'],
            },
        ),
        migrations.CreateModel(
            name='Weighing',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('day', models.DateField(default=django.utils.timezone.localdate)),
                ('mass', models.FloatField(blank=True, help_text='kg', null=True)),
                ('text', models.CharField(blank=True, help_text='the mass as written', max_length=40)),
                ('meter', models.FloatField(blank=True, help_text='moisture by a meter, as a fraction', null=True)),
                ('meter_text', models.CharField(blank=True, max_length=40)),
                ('written', models.DateTimeField(default=django.utils.timezone.now)),
                ('client_id', models.UUIDField(default=fellwind.kit.models.new_id, unique=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('corrects', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='corrected_by', to='rack.weighing')),
                ('stave', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='weighings', to='rack.stave')),
            ],
            options={
                'ordering': ['day', 'written'],
            },
        ),
    ]
