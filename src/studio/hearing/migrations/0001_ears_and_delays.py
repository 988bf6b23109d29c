
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
            name='Ear',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('by', models.CharField(choices=[('keys', 'keys and touch'), ('microphone', 'a microphone'), ('midi', 'a MIDI instrument'), ('stand-in', 'a simulated instrument'), ('stand-in-midi', 'a simulated MIDI keyboard')], default='keys', max_length=14)),
                ('microphone', models.CharField(blank=True, help_text='its name; any where empty', max_length=200)),
                ('port', models.CharField(blank=True, help_text="the MIDI port's name; any where empty", max_length=200)),
                ('channel', models.PositiveSmallIntegerField(default=0, help_text='of MIDI, 1 to 16; any where 0', validators=[django.core.validators.MaxValueValidator(16)])),
                ('keeps_sound', models.BooleanField(default=False)),
                ('counts_in', models.BooleanField(default=True, help_text='whether four even strokes count the next take in')),
                ('counts_by', models.CharField(choices=[('drill', 'the drill’s tempo'), ('strokes', 'the tempo of the strokes')], default='drill', max_length=8)),
                ('pads', models.JSONField(blank=True, default=dict, help_text='what was chosen: a note, a pedal or a key of each')),
                ('threshold_db', models.FloatField(blank=True, null=True, validators=[django.core.validators.MinValueValidator(-60.0), django.core.validators.MaxValueValidator(-20.0)])),
                ('refractory_s', models.FloatField(blank=True, null=True, validators=[django.core.validators.MinValueValidator(0.02), django.core.validators.MaxValueValidator(0.2)])),
                ('sound', models.CharField(choices=[('skin', 'skin'), ('wood', 'wood'), ('string', 'string'), ('metal', 'metal')], default='skin', max_length=8)),
                ('bleed_db', models.FloatField(blank=True, default=-25.0, null=True, validators=[django.core.validators.MinValueValidator(-60), django.core.validators.MaxValueValidator(-10)])),
                ('noise_db', models.FloatField(default=-60.0, validators=[django.core.validators.MinValueValidator(-90), django.core.validators.MaxValueValidator(-30)])),
                ('delay_ms', models.FloatField(default=38.0, validators=[django.core.validators.MinValueValidator(0), django.core.validators.MaxValueValidator(400)])),
                ('player', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='ear', to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.CreateModel(
            name='Delay',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('by', models.CharField(choices=[('keys', 'keys and touch'), ('microphone', 'a microphone'), ('midi', 'a MIDI instrument'), ('stand-in', 'a simulated instrument'), ('stand-in-midi', 'a simulated MIDI keyboard')], max_length=14)),
                ('device', models.CharField(blank=True, max_length=200)),
                ('browser', models.CharField(blank=True, max_length=400)),
                ('delay_ms', models.FloatField()),
                ('low_ms', models.FloatField()),
                ('high_ms', models.FloatField()),
                ('count', models.PositiveSmallIntegerField(help_text='clicks or taps behind it')),
                ('measured_at', models.DateTimeField()),
                ('player', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='delays', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-measured_at'],
                'constraints': [models.UniqueConstraint(models.F('player'), models.F('by'), models.F('device'), models.F('browser'), name='one_delay_a_device_and_browser')],
            },
        ),
    ]
