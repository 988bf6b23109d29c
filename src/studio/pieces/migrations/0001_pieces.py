
import django.core.validators
import django.db.models.deletion
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        ('exercises', '0003_parts'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Piece',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ('name', models.CharField(max_length=100)),
                ('goal_bpm', models.FloatField(validators=[django.core.validators.MinValueValidator(10), django.core.validators.MaxValueValidator(400)], verbose_name='Goal')),
                ('found_bpm', models.FloatField(blank=True, help_text='at which it goes now', null=True, validators=[django.core.validators.MinValueValidator(10), django.core.validators.MaxValueValidator(400)], verbose_name='Found')),
                ('school', models.CharField(choices=[('after', 'no click while learning'), ('checks', 'spot checks only'), ('throughout', 'the click throughout')], default='after', max_length=10)),
                ('click', models.CharField(choices=[('beats', 'on every beat'), ('bars', 'on each bar line'), ('alternate', 'once through with it, once alone')], default='beats', max_length=10)),
                ('first_bar', models.PositiveSmallIntegerField(default=1, validators=[django.core.validators.MinValueValidator(0), django.core.validators.MaxValueValidator(2000)])),
                ('last_bar', models.PositiveSmallIntegerField(validators=[django.core.validators.MinValueValidator(0), django.core.validators.MaxValueValidator(2000)])),
                ('begins', models.JSONField(help_text='the first bar of each chunk')),
                ('by_hands', models.BooleanField(default=False, help_text='each stretch hands apart, then together')),
                ('music', models.JSONField(help_text='the bars of each hand, from the score; null without one', null=True)),
                ('beats', models.PositiveSmallIntegerField(default=4, help_text='in a bar, where there is no score')),
                ('grid', models.PositiveSmallIntegerField(default=2, help_text='notes to the beat, where there is no score')),
                ('score', models.BinaryField(help_text='the file as it came', null=True)),
                ('score_name', models.CharField(blank=True, max_length=120)),
                ('note', models.TextField(blank=True, max_length=4000)),
                ('is_draft', models.BooleanField(default=False, help_text='looked at, and not kept yet')),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('deleted_at', models.DateTimeField(blank=True, null=True)),
                ('player', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pieces', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['created_at'],
            },
        ),
        migrations.CreateModel(
            name='Mark',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('bar', models.PositiveSmallIntegerField(validators=[django.core.validators.MinValueValidator(0), django.core.validators.MaxValueValidator(2000)])),
                ('beat', models.PositiveSmallIntegerField(default=1, validators=[django.core.validators.MinValueValidator(1), django.core.validators.MaxValueValidator(32)])),
                ('sort', models.CharField(choices=[('rush', 'I rush'), ('drag', 'I drag'), ('stumble', 'I stumble')], default='rush', max_length=8)),
                ('note', models.CharField(blank=True, max_length=200)),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('piece', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='marks', to='pieces.piece')),
            ],
            options={
                'ordering': ['bar', 'beat'],
                'constraints': [models.UniqueConstraint(fields=('piece', 'bar', 'beat'), name='one_mark_a_place')],
            },
        ),
        migrations.CreateModel(
            name='Stretch',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('chunk', 'Chunk'), ('join', 'Join'), ('larger', 'larger stretch'), ('whole', 'Whole'), ('spot', 'spot')], max_length=6)),
                ('first_bar', models.PositiveSmallIntegerField()),
                ('last_bar', models.PositiveSmallIntegerField()),
                ('learned_at', models.DateTimeField(blank=True, help_text="by its player's word", null=True)),
                ('exercise', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='stretch', to='exercises.exercise')),
                ('piece', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='stretches', to='pieces.piece')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('piece', 'first_bar', 'last_bar', 'kind'), name='one_stretch_a_kind')],
            },
        ),
    ]
