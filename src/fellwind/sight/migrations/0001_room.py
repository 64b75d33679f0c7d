import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('sight', name) for name in ('0001_sightings',)]

    dependencies = [
        ('builds', '0001_room'),
        ('rack', '0001_room'),
    ]

    operations = [
        migrations.CreateModel(
            name='Sighting',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('state', models.CharField(choices=[('drawn', 'drawn'), ('braced', 'braced'), ('unstrung', 'unstrung')], default='drawn', max_length=8)),
                ('seen', models.JSONField(help_text="places in the picture and in the bow's frame", null=True)),
                ('taps', models.JSONField(help_text='five places that were tapped (pixels)', null=True)),
                ('why', models.TextField(blank=True, help_text='why it was not read, or what was noticed')),
                ('weight', models.CharField(blank=True, help_text='on the scale, as typed', max_length=40)),
                ('moved', models.JSONField(default=dict, help_text='places put right by hand (pixels)')),
                ('entry', models.OneToOneField(blank=True, help_text='the check that was made of it', null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='sighting', to='builds.entry')),
                ('photo', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='sighting', to='builds.benchphoto')),
            ],
        ),
        migrations.CreateModel(
            name='StaveLine',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('ends', models.JSONField(help_text='left and right end (pixels)', null=True)),
                ('seen', models.JSONField(null=True)),
                ('why', models.TextField(blank=True, help_text='why it was not read')),
                ('kept', models.BooleanField(default=False)),
                ('photo', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='line', to='rack.photo')),
            ],
        ),
    ]
