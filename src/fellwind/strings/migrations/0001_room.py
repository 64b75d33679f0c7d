import django.db.models.deletion
import django.utils.timezone
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True
    replaces = [('strings', name) for name in ('0001_initial', '0002_versions', '0003_room',)]

    dependencies = [
        ('builds', '0001_room'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='BowString',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('role', models.CharField(choices=[('working', 'working string'), ('spare', 'its spare'), ('later', 'a later string'), ('tillering', 'tillering string'), ('bracing', 'bracing string'), ('cable', 'cable of the back-bow')], default='working', max_length=10)),
                ('kind', models.CharField(default='continuous loop', max_length=30)),
                ('fibre', models.CharField(max_length=40)),
                ('strands', models.PositiveIntegerField(blank=True, help_text="the maker's own number, or none", null=True)),
                ('plies', models.PositiveSmallIntegerField(blank=True, null=True)),
                ('strip', models.FloatField(blank=True, help_text='width of each strip of hide', null=True)),
                ('rule', models.CharField(choices=[('highest', 'the highest of them'), ('fifteen', 'ten times the weight at 15 in'), ('four', 'four times the greatest weight'), ('five', 'five times the greatest weight'), ('six', 'six times the greatest weight'), ('statics', 'what it stands under at brace and draw'), ('shot', 'what the shot pulls')], default='highest', max_length=10)),
                ('turns', models.PositiveIntegerField(blank=True, null=True)),
                ('direction', models.CharField(choices=[('right', 'to the right'), ('left', 'to the left')], default='right', max_length=5)),
                ('colour_one', models.CharField(blank=True, choices=[('', 'as the thread'), ('slate', 'slate'), ('heather', 'heather'), ('moss', 'moss'), ('bracken', 'bracken'), ('gorse', 'gorse'), ('undyed', 'undyed')], max_length=10)),
                ('colour_two', models.CharField(blank=True, choices=[('', 'as the thread'), ('slate', 'slate'), ('heather', 'heather'), ('moss', 'moss'), ('bracken', 'bracken'), ('gorse', 'gorse'), ('undyed', 'undyed')], max_length=10)),
                ('brace_height', models.FloatField(help_text='wanted')),
                ('own_length', models.FloatField(blank=True, help_text='nock to nock', null=True)),
                ('loop_upper', models.FloatField(blank=True, null=True)),
                ('loop_lower', models.FloatField(blank=True, null=True)),
                ('throat', models.FloatField(blank=True, help_text='served below each loop', null=True)),
                ('serving', models.FloatField(blank=True, null=True)),
                ('serving_above', models.FloatField(blank=True, help_text='of the square place', null=True)),
                ('nock_above', models.FloatField(blank=True, help_text='the square place', null=True)),
                ('serving_thread', models.FloatField(default=0.00014, help_text='kg/m')),
                ('pieces', models.PositiveSmallIntegerField(blank=True, null=True)),
                ('piece', models.FloatField(blank=True, null=True)),
                ('silencers', models.FloatField(default=0.0, help_text='kg, both')),
                ('silencers_at', models.FloatField(blank=True, help_text='from either nock', null=True)),
                ('made', models.DateTimeField(default=django.utils.timezone.now)),
                ('notes', models.TextField(blank=True)),
                ('build', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='bowstrings', to='builds.build')),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('like', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='matched', to='strings.bowstring')),
            ],
            options={
                'verbose_name': 'string',
                'ordering': ['build', 'pk'],
            },
        ),
        migrations.CreateModel(
            name='StringEntry',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('brace', 'brace height'), ('twist', 'turns put in'), ('shorter', 'made shorter at a loop'), ('length', 'length under load'), ('stretch', 'stretch under load'), ('mass', 'mass'), ('serving', 'centre serving'), ('nocking point', 'nocking point above the square'), ('upper gap', 'upper gap'), ('lower gap', 'lower gap'), ('off the grip', 'off the middle of the grip'), ('fit', 'how it lies'), ('cord', 'test cord'), ('shots', 'shots'), ('waxed', 'waxed again'), ('served', 'served anew'), ('strand', 'strand broken'), ('broke', 'it broke'), ('put away', 'put away'), ('step', 'step done')], max_length=20)),
                ('value', models.FloatField(blank=True, null=True)),
                ('second', models.FloatField(blank=True, null=True)),
                ('pulls', models.PositiveIntegerField(blank=True, help_text='since the string was new, at a brace height', null=True)),
                ('text', models.CharField(help_text='as typed', max_length=120)),
                ('world', models.CharField(default='imperial', max_length=10)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('client_id', models.UUIDField(default=uuid.uuid4, unique=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('strikes', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='struck_by', to='strings.stringentry')),
                ('string', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='entries', to='strings.bowstring')),
            ],
            options={
                'ordering': ['at', 'pk'],
            },
        ),
        migrations.CreateModel(
            name='Thread',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('version', models.PositiveIntegerField(default=0)),
                ('changed', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=60, unique=True)),
                ('fibre', models.CharField(help_text='as the book has it', max_length=40)),
                ('line_mass', models.FloatField(blank=True, help_text="kg/m; none: the book's", null=True)),
                ('colour', models.CharField(blank=True, max_length=30)),
                ('stock', models.FloatField(blank=True, help_text='kg left', null=True)),
                ('notes', models.TextField(blank=True)),
                ('changed_by', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='StrandTest',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('width', models.FloatField(blank=True, help_text='m; of a strip', null=True)),
                ('width_text', models.CharField(blank=True, max_length=40)),
                ('load', models.FloatField(help_text='N; none where it strikes another', null=True)),
                ('load_text', models.CharField(max_length=40)),
                ('day', models.DateField(default=django.utils.timezone.localdate)),
                ('written', models.DateTimeField(default=django.utils.timezone.now)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('strikes', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='struck_by', to='strings.strandtest')),
                ('thread', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='tests', to='strings.thread')),
            ],
            options={
                'ordering': ['day', 'written', 'pk'],
            },
        ),
        migrations.AddField(
            model_name='bowstring',
            name='thread',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='strings.thread'),
        ),
    ]
