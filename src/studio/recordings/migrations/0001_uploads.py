
import django.db.models.deletion
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        ('takes', '0009_sound'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Upload',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ('number', models.BigIntegerField(editable=False, help_text='for the lock of whoever hears it', unique=True)),
                ('drill', models.JSONField(help_text='drill/1 or drill/2, whose click played')),
                ('origin', models.CharField(blank=True, max_length=80)),
                ('words', models.TextField(blank=True, help_text='the sentence, for the way back')),
                ('name', models.CharField(help_text='of the file, as it came', max_length=200)),
                ('file', models.FileField(blank=True, upload_to='uploads/')),
                ('keeps_sound', models.BooleanField(default=False)),
                ('state', models.CharField(choices=[('waiting', 'waits to be heard'), ('hearing', 'is being heard'), ('done', 'has become a take'), ('failed', 'can’t be read'), ('cancelled', 'was cancelled')], default='waiting', max_length=10)),
                ('share', models.FloatField(default=0.0, help_text='of the work that is done')),
                ('problem', models.CharField(blank=True, max_length=400)),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('player', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='uploads', to=settings.AUTH_USER_MODEL)),
                ('take', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='upload', to='takes.take')),
            ],
            options={
                'ordering': ['-made_at'],
            },
        ),
    ]
