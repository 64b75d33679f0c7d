import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('shop', name) for name in ('0001_initial', '0002_own_material', '0003_versions', '0004_backups', '0005_tiller_bench', '0006_rests', '0007_jig',)]

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Backup',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('path', models.CharField(blank=True, max_length=400)),
                ('size', models.PositiveBigIntegerField(default=0, help_text='bytes')),
                ('trouble', models.CharField(blank=True, max_length=300)),
            ],
            options={
                'ordering': ['-at', '-pk'],
            },
        ),
        migrations.CreateModel(
            name='Archer',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=80)),
                ('left_handed', models.BooleanField(default=False)),
                ('draw', models.FloatField(help_text='m, nocking point to pivot')),
                ('draw_text', models.CharField(max_length=40)),
                ('draw_ruler', models.CharField(default='pivot', max_length=6)),
                ('weight', models.FloatField(help_text='N, wanted at that draw')),
                ('weight_text', models.CharField(max_length=40)),
                ('fingers', models.CharField(default='one above, two below', max_length=24)),
                ('notes', models.TextField(blank=True)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Gear',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=80)),
                ('kind', models.CharField(choices=[('rope', 'rope'), ('pulley', 'pulley'), ('hook', 'hook'), ('scale', 'scale'), ('tree', 'tree')], max_length=10)),
                ('rating', models.FloatField(help_text='N')),
                ('rating_text', models.CharField(max_length=40)),
                ('in_use', models.BooleanField(default=True)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['kind', 'name'],
            },
        ),
        migrations.CreateModel(
            name='OwnMaterial',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=40, unique=True)),
                ('kind', models.CharField(choices=[('wood', 'a wood'), ('bamboo', 'a bamboo'), ('backing', 'a backing of fibre or hide'), ('horn', 'horn'), ('glass', 'glass in resin'), ('plastic', 'a plastic'), ('natural thread', 'thread of plant or animal fibre'), ('smooth thread', 'thread of drawn filaments')], default='wood', max_length=20)),
                ('modulus', models.FloatField(blank=True, null=True)),
                ('rupture', models.FloatField(blank=True, null=True)),
                ('density', models.FloatField(blank=True, null=True)),
                ('work', models.FloatField(blank=True, help_text='to maximum load', null=True)),
                ('line_mass', models.FloatField(blank=True, help_text='of a strand', null=True)),
                ('breaking', models.FloatField(blank=True, help_text='of a strand', null=True)),
                ('stretch', models.FloatField(blank=True, null=True)),
                ('source', models.CharField(blank=True, max_length=200)),
                ('caution', models.CharField(blank=True, max_length=200)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='OwnRest',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=60, unique=True)),
                ('what', models.CharField(choices=[('glue', 'glue'), ('soak', 'soak'), ('backing', 'backing'), ('heat', 'heat'), ('wood', 'wood'), ('tiller', 'tiller'), ('finish', 'finish'), ('other', 'other')], default='other', max_length=10)),
                ('low', models.FloatField()),
                ('usual', models.FloatField()),
                ('high', models.FloatField()),
                ('air', models.CharField(choices=[('none', 'keeps to the clock'), ('cures', 'faster in the warm: twice for every 10 °C (18 °F)'), ('dries', 'as fast as the air takes water up')], default='none', max_length=6)),
                ('note', models.CharField(blank=True, max_length=200)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Tool',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=40, unique=True)),
                ('like', models.CharField(choices=[('drawknife', 'drawknife'), ('spokeshave', 'spokeshave'), ('rasp', 'rasp'), ('file', 'file'), ('scraper', 'scraper'), ('sandpaper', 'sandpaper'), ('power sander', 'power sander')], default='scraper', max_length=20)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='Workshop',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(default='The workshop', max_length=80)),
                ('air_celsius', models.FloatField(default=18.0, help_text='°C')),
                ('air_humidity', models.FloatField(default=0.55, help_text='relative, 0 to 1')),
                ('denominator', models.PositiveSmallIntegerField(choices=[(16, '1/16 in'), (32, '1/32 in')], default=16)),
                ('paper', models.CharField(choices=[('A4', 'A4'), ('Letter', 'Letter')], default='A4', max_length=6)),
                ('finishing_loss', models.FloatField(default=0.045)),
                ('shooting_loss', models.FloatField(default=0.04)),
                ('jig', models.FloatField(blank=True, help_text="m; the string jig's longest reach", null=True)),
                ('backup_folder', models.CharField(blank=True, help_text='where daily backups go; empty: with the data', max_length=300)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'abstract': False,
            },
        ),
    ]
