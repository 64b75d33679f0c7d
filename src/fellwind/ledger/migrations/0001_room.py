import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('ledger', name) for name in ('0001_bow_pages',)]

    dependencies = [
        ('builds', '0001_room'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='BowBill',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('rate', models.DecimalField(decimal_places=2, help_text='for an hour', max_digits=10)),
                ('money', models.CharField(blank=True, max_length=8)),
                ('parts', models.TextField(blank=True, help_text='one a line, its price last')),
                ('build', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='bill', to='builds.build')),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='PublicLink',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('token', models.CharField(max_length=40, unique=True)),
                ('since', models.DateTimeField(default=django.utils.timezone.now)),
                ('build', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='public_link', to='builds.build')),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
            ],
        ),
    ]
