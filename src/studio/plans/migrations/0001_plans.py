
import django.core.validators
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Routine',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('spec', models.JSONField(help_text='routine/1')),
                ('repeats', models.PositiveSmallIntegerField(default=3, help_text='one more on an off day', validators=[django.core.validators.MinValueValidator(1), django.core.validators.MaxValueValidator(20)])),
                ('low', models.PositiveSmallIntegerField(default=70, help_text='of a hundred takes clean, at least')),
                ('high', models.PositiveSmallIntegerField(default=85, help_text='at most')),
                ('weekly_minutes', models.PositiveSmallIntegerField(blank=True, help_text='a goal', null=True)),
                ('alarm_minutes', models.PositiveSmallIntegerField(blank=True, help_text='before a session', null=True)),
                ('token', models.CharField(blank=True, help_text="of the calendar's address", max_length=64, null=True, unique=True)),
                ('player', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='routine', to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.CreateModel(
            name='Day',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('day', models.DateField()),
                ('minutes', models.PositiveSmallIntegerField(blank=True, help_text="the routine's own where not said", null=True)),
                ('began_at', models.DateTimeField(blank=True, help_text='since then each take leads to the next', null=True)),
                ('closed_at', models.DateTimeField(blank=True, null=True)),
                ('rested_at', models.DateTimeField(blank=True, help_text='when a pause was waved away', null=True)),
                ('over', models.JSONField(default=list, help_text='slots that are done or skipped, by their word')),
                ('swapped', models.JSONField(default=dict, help_text="what is played in place of a slot's exercise")),
                ('player', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='days', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-day'],
                'constraints': [models.UniqueConstraint(fields=('player', 'day'), name='one_day_a_date')],
            },
        ),
        migrations.CreateModel(
            name='Week',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('monday', models.DateField()),
                ('days', models.JSONField(help_text='dates; null for those of the routine', null=True)),
                ('goal', models.CharField(blank=True, max_length=200)),
                ('player', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='weeks', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['monday'],
                'constraints': [models.UniqueConstraint(fields=('player', 'monday'), name='one_week_a_monday')],
            },
        ),
    ]
