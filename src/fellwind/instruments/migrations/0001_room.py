import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('instruments', name) for name in ('0001_instruments',)]

    dependencies = [
        ('builds', '0001_room'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Instrument',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60)),
                ('kind', models.CharField(choices=[('scale', 'scale'), ('chronograph', 'chronograph'), ('calipers', 'calipers'), ('meter', 'meter'), ('balance', 'balance'), ('air', 'air')], default='scale', max_length=12)),
                ('digest', models.CharField(max_length=64, unique=True)),
                ('made', models.DateTimeField(default=django.utils.timezone.now)),
                ('gone', models.BooleanField(default=False, help_text='its token was taken back')),
                ('heard', models.DateTimeField(blank=True, help_text='when it spoke last', null=True)),
                ('good', models.PositiveIntegerField(default=0, help_text='lines that were read')),
                ('bad', models.PositiveIntegerField(default=0, help_text='lines that were not')),
                ('last_bad', models.CharField(blank=True, help_text='why the newest was not', max_length=200)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['gone', 'name', 'pk'],
            },
        ),
        migrations.CreateModel(
            name='TracedPull',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('samples', models.JSONField()),
                ('entry', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='traced_pull', to='builds.entry')),
            ],
        ),
    ]
