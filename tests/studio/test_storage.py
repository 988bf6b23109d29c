"""Sounds and recordings in an object store: kept, heard, played and swept through the storage alone, by no path.

Outside check: the store is moto's, which answers as S3 does; what lies in it is read back by boto3.
"""

from __future__ import annotations

import io
import os
from datetime import timedelta
from unittest.mock import patch

import boto3
import soundfile
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from moto.server import ThreadedMotoServer

from giusto.drill import validate
from giusto.schedule import schedule
from giusto.simulation.instrument import Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.accounts.models import local_player
from studio.recordings.models import Upload
from studio.recordings.sweeping import sweep
from studio.recordings.work import hear_upload
from studio.storage import at_hand
from studio.takes.models import KeptSound, Take
from studio.views import _ready
from tests.drills import plain
from tests.studio.playing import play
from tests.studio.recordings.test_recordings import wav

BUCKET = "sounds"
KEYS = {"AWS_ACCESS_KEY_ID": "x", "AWS_SECRET_ACCESS_KEY": "x", "AWS_DEFAULT_REGION": "eu-central-1"}


class ObjectStoreTests(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.enterClassContext(patch.dict(os.environ, KEYS))
        server = ThreadedMotoServer(port=0, verbose=False)
        server.start()
        cls.addClassCleanup(server.stop)
        host, port = server.get_host_and_port()
        endpoint = f"http://{host}:{port}"
        cls.s3 = boto3.client("s3", endpoint_url=endpoint)
        cls.s3.create_bucket(
            Bucket=BUCKET, CreateBucketConfiguration={"LocationConstraint": KEYS["AWS_DEFAULT_REGION"]}
        )
        options = {"bucket_name": BUCKET, "endpoint_url": endpoint, "file_overwrite": False, "default_acl": None}
        store = {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}
        static = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
        cls.enterClassContext(override_settings(STORAGES={"default": store, "staticfiles": static}))

    def names(self) -> list[str]:
        """Return what lies in the store, by another program's word."""
        return [one["Key"] for one in self.s3.list_objects_v2(Bucket=BUCKET).get("Contents", [])]

    def test_a_recording_is_heard_and_its_sound_kept_and_played(self) -> None:
        plan = schedule(validate(plain()))
        onsets_s = simulate(plan, SimulatedPlayer(bias_percent=-1.0), seed=4).onsets_s
        content = wav(recording(plan, onsets_s, Room("skin", -25.0, -55.0, 60.0, 90.0), seed=4))
        upload = Upload.objects.create(player=local_player(), number=1, drill=plain(), name="a.wav", keeps_sound=True)
        upload.file.save("a.wav", ContentFile(content))
        with at_hand(upload.file) as path:
            self.assertEqual(path.read_bytes(), content)
        self.assertFalse(path.exists())
        hear_upload(str(upload.pk))
        upload.refresh_from_db()
        self.assertEqual((upload.state, upload.problem), (Upload.State.DONE, ""))
        take = Take.objects.get()
        self.assertIn(take.sound.file.name, self.names())
        answer = self.client.get(reverse("takes:sound", args=[take.pk]), {"from": 0, "to": 2})
        samples, _ = soundfile.read(io.BytesIO(answer.content))
        self.assertGreater(abs(samples).max(), 0.01)

    def test_what_no_row_names_is_swept_once_it_is_old(self) -> None:
        take = play(self.client)
        kept = KeptSound(player=take.player, take=take, bytes=4, zero_s=0.0)
        kept.file.save("kept.wav", ContentFile(b"RIFF"))
        stray = default_storage.save("sounds/2026/01/stray.flac", ContentFile(b"fLaC"))
        sweep()
        self.assertIn(stray, self.names())
        with patch.object(timezone, "now", return_value=timezone.now() + timedelta(hours=2)):
            sweep()
        self.assertNotIn(stray, self.names())
        self.assertIn(kept.file.name, self.names())

    def test_a_store_that_is_away_is_not_ready(self) -> None:
        _ready.cache_clear()
        self.addCleanup(_ready.cache_clear)
        self.assertEqual(self.client.get("/ready/").status_code, 200)
        self.assertEqual([name for name in self.names() if name.startswith("ready/")], [])
        with patch("studio.views.default_storage.save", side_effect=OSError("away")):
            _ready.cache_clear()
            answer = self.client.get("/ready/")
        self.assertEqual((answer.status_code, answer.json()["storage"]), (503, "OSError"))
