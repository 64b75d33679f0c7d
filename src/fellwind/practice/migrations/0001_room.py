import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('practice', name) for name in ('0001_sessions',)]

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Session',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('pattern', models.CharField(choices=[('flatbow', 'flatbow'), ('pyramid', 'pyramid bow'), ('longbow', 'deep, narrow longbow'), ('bending grip', 'bow that bends through the grip'), ('short', 'short, wide bow'), ('sinew', 'short bow under sinew')], max_length=20)),
                ('wood', models.CharField(choices=[('european ash', 'european ash'), ('wych elm', 'wych elm'), ('black locust', 'black locust'), ('rowan', 'rowan'), ('hazel', 'hazel'), ('european yew', 'european yew')], max_length=40)),
                ('trouble', models.CharField(choices=[('clear', 'clear, even wood'), ('stiff', 'a stiff place'), ('hinge', 'a hinge'), ('knot', 'a hinge behind a knot'), ('crook', 'naturally bent wood'), ('book', 'wood that is not as the book says'), ('limbs', 'one limb stiffer than the other'), ('string', 'a string off the middle'), ('light', 'too light already'), ('heavy', 'far too heavy yet'), ('sinew', 'sinew laid on unevenly'), ('green', 'wood that is not dry yet'), ('brittle', 'wood that breaks early')], max_length=20)),
                ('seed', models.PositiveIntegerField(help_text='1 to 999999')),
                ('errors', models.BooleanField(default=True, help_text="the learner's own hands err, too")),
                ('lesson', models.CharField(blank=True, max_length=40)),
                ('begun', models.DateTimeField(default=django.utils.timezone.now)),
                ('changed', models.DateTimeField(default=django.utils.timezone.now)),
                ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='practice_sessions', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-changed', '-pk'],
            },
        ),
        migrations.CreateModel(
            name='Done',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField(help_text='from 1')),
                ('data', models.JSONField(help_text='as of bowyery.practice.session.Act.as_data')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('session', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='acts', to='practice.session')),
            ],
            options={
                'ordering': ['number'],
                'constraints': [models.UniqueConstraint(fields=('session', 'number'), name='one_act_in_each_place')],
            },
        ),
    ]
