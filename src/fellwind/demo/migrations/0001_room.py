from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('demo', name) for name in ('0001_sample',)]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='SampleRow',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('label', models.CharField(max_length=40)),
                ('key', models.PositiveBigIntegerField()),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.UniqueConstraint(fields=('label', 'key'), name='one_sample_row')],
            },
        ),
    ]
