import django.db.models.deletion
import django.utils.timezone
import fellwind.kit.models
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('builds', name) for name in ('0001_initial', '0002_initial', '0003_initial', '0004_versions', '0005_tiller_bench', '0006_rests', '0007_laid', '0008_heat', '0009_finish', '0010_endings', '0011_photos',)]

    dependencies = [
        ('designs', '0001_room'),
        ('rack', '0001_room'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Build',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField(unique=True)),
                ('name', models.CharField(max_length=80)),
                ('stage', models.CharField(default='wood', max_length=10)),
                ('school', models.CharField(choices=[('W', 'W, by weight'), ('D', 'D, by draw')], default='W', max_length=1)),
                ('beginner', models.BooleanField(default=False)),
                ('draw_ruler', models.CharField(default='pivot', max_length=6)),
                ('tool', models.CharField(blank=True, help_text='in hand; empty: as it suits', max_length=40)),
                ('laid', models.JSONField(blank=True, help_text='the place in the stave taken over', null=True)),
                ('started', models.DateTimeField(default=django.utils.timezone.now)),
                ('finished', models.DateTimeField(blank=True, help_text='closed, however it ended', null=True)),
                ('ending', models.CharField(blank=True, help_text='a key of ENDINGS', max_length=10)),
                ('ending_words', models.CharField(blank=True, max_length=200)),
                ('became', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='cut_from', to='builds.build')),
                ('design', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='builds', to='designs.design')),
                ('stave', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='builds', to='rack.stave')),
            ],
            options={
                'ordering': ['-number'],
            },
        ),
        migrations.CreateModel(
            name='Entry',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('bench', 'bench'), ('stage', 'stage'), ('tick', 'tick'), ('proof', 'proof'), ('string', 'string'), ('wait', 'wait'), ('finish', 'finish'), ('photo', 'photo')], default='bench', max_length=10)),
                ('stage', models.CharField(max_length=10)),
                ('text', models.TextField()),
                ('world', models.CharField(default='imperial', max_length=10)),
                ('minutes', models.PositiveIntegerField(default=0)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('client_id', models.UUIDField(default=fellwind.kit.models.new_id, unique=True)),
                ('build', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='entries', to='builds.build')),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('corrects', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='corrected_by', to='builds.entry')),
            ],
            options={
                'ordering': ['at', 'pk'],
            },
        ),
        migrations.CreateModel(
            name='BenchPhoto',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(help_text='of its file, without the ending', max_length=40, unique=True)),
                ('width', models.PositiveIntegerField(help_text='pixels')),
                ('height', models.PositiveIntegerField()),
                ('gone', models.BooleanField(default=False)),
                ('entry', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='photo', to='builds.entry')),
            ],
        ),
        migrations.CreateModel(
            name='HeatJob',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what', models.CharField(choices=[('reflex', 'reflex, tips to the back'), ('deflex', 'deflex, tips to the belly'), ('twist', 'a twist taken out'), ('side', 'a sideways bend taken out')], max_length=8)),
                ('limb', models.CharField(max_length=5)),
                ('way', models.CharField(max_length=12)),
                ('wood', models.CharField(max_length=40)),
                ('wanted', models.FloatField()),
                ('form', models.FloatField()),
                ('start', models.FloatField()),
                ('end', models.FloatField()),
                ('stayed', models.FloatField(blank=True, null=True)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('build', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='heat_jobs', to='builds.build')),
            ],
            options={
                'ordering': ['-at', '-pk'],
            },
        ),
        migrations.CreateModel(
            name='Inquest',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('how', models.CharField(choices=[('back', 'the back tore across'), ('fret', 'the belly crushed or fretted'), ('fold', 'it folded in one place'), ('splinter', 'a splinter lifted off the back'), ('knot', 'it let go at a knot'), ('glue', 'a glue line opened'), ('nock', 'it let go at the nock or tip'), ('twist', 'the limb twisted over'), ('handle', 'it let go in the handle or at a fade')], max_length=10)),
                ('limb', models.CharField(choices=[('upper', 'upper'), ('lower', 'lower')], max_length=5)),
                ('place', models.FloatField(help_text="from the bow's centre")),
                ('draw', models.FloatField(blank=True, help_text='to the pivot', null=True)),
                ('judged', models.CharField(blank=True, help_text='a cause, as the maker judges', max_length=14)),
                ('words', models.TextField(blank=True)),
                ('build', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='inquest', to='builds.build')),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Measure',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(help_text='of a statement, or of a figure of the proof', max_length=24)),
                ('limb', models.CharField(blank=True, max_length=5)),
                ('value', models.FloatField(help_text='none where it was not written', null=True)),
                ('draw', models.FloatField(blank=True, help_text='m, to the pivot', null=True)),
                ('start', models.FloatField(blank=True, help_text='m from the centre', null=True)),
                ('end', models.FloatField(blank=True, null=True)),
                ('more', models.FloatField(blank=True, help_text='a second figure, in SI', null=True)),
                ('how', models.CharField(blank=True, help_text='face, side, colour, look, stuff', max_length=40)),
                ('tool', models.CharField(blank=True, help_text='that took the wood', max_length=40)),
                ('text', models.CharField(max_length=80)),
                ('entry', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='measures', to='builds.entry')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='Wait',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what', models.CharField(max_length=120)),
                ('since', models.DateTimeField(default=django.utils.timezone.now)),
                ('until', models.DateTimeField()),
                ('ended', models.DateTimeField(blank=True, null=True)),
                ('least', models.FloatField(blank=True, help_text='hours, where a rest says so', null=True)),
                ('most', models.FloatField(blank=True, help_text='hours', null=True)),
                ('after', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='followers', to='builds.wait')),
                ('build', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='waits', to='builds.build')),
            ],
            options={
                'ordering': ['until', 'pk'],
            },
        ),
        migrations.AddIndex(
            model_name='entry',
            index=models.Index(fields=['build', 'at'], name='builds_entr_build_i_35afb7_idx'),
        ),
        migrations.AddConstraint(
            model_name='entry',
            constraint=models.UniqueConstraint(condition=models.Q(('kind', 'tick')), fields=('build', 'text'), name='one_tick'),
        ),
    ]
