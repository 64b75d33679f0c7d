import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('kit', name) for name in ('0001_initial', '0002_initial',)]

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='SentForm',
            fields=[
                ('form_id', models.UUIDField(primary_key=True, serialize=False)),
                ('location', models.CharField(blank=True, max_length=300)),
                ('at', models.DateTimeField(db_index=True, default=django.utils.timezone.now)),
                ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
        ),
    ]
