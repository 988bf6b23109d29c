"""Hearing behind the page: followed, cancelled, and neither lost nor doubled whoever dies."""

from __future__ import annotations

import io
import os
import signal
import subprocess
import sys
import time
from unittest import mock

import psycopg
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import OperationalError, connection
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from giusto.simulation.instrument import RATE_HZ, Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from launch.place import ROOT
from studio.locks import RECORDING
from studio.queue import bury
from studio.recordings import actions, work
from studio.recordings.models import Upload
from studio.takes.models import Take
from tests.committed import CommittedTestCase
from tests.drills import planned

ADDRESS = "/recording/?drill=two-heard-two-silent&bpm=96&cycles=12"


class TaskTests(CommittedTestCase):
    def setUp(self) -> None:
        plan = planned(cycles=12)
        onsets_s = simulate(plan, SimulatedPlayer(), seed=2).onsets_s
        buffer = io.BytesIO()
        soundfile.write(buffer, recording(plan, onsets_s, Room("wood", -25.0), seed=2), RATE_HZ, format="WAV")
        answer = self.client.post(ADDRESS, {"file": SimpleUploadedFile("a.wav", buffer.getvalue())})
        self.upload = Upload.objects.get()
        self.assertEqual(answer["Location"], self.upload.get_absolute_url())

    def test_its_page_follows_it_and_leads_to_the_take(self) -> None:
        self.assertContains(self.client.get(self.upload.get_absolute_url()), "It waits to be heard.")
        shares: list[float] = []
        with mock.patch.object(work, "TELL_S", 0.0), mock.patch.object(work._Telling, "__call__", _told(shares)):
            work.hear_upload(str(self.upload.pk))
        self.assertGreater(len(shares), 20)
        self.assertEqual(shares, sorted(shares))
        page = self.client.get(self.upload.get_absolute_url())
        self.assertRedirects(page, Take.objects.get().get_absolute_url())
        polled = self.client.get(self.upload.get_absolute_url(), headers={"HX-Request": "true"})
        self.assertEqual(polled["HX-Redirect"], Take.objects.get().get_absolute_url())
        self.upload.refresh_from_db()
        self.assertEqual((self.upload.state, self.upload.file.name), ("done", ""))

    def test_it_can_be_cancelled_while_it_is_heard(self) -> None:
        name, storage = self.upload.file.name, self.upload.file.storage

        def told(telling: work._Telling, share: float) -> None:
            if share > 0.1:
                self.client.post(f"{self.upload.get_absolute_url()}cancel/")
            original(telling, share)

        original = work._Telling.__call__
        with mock.patch.object(work, "TELL_S", 0.0), mock.patch.object(work._Telling, "__call__", told):
            work.hear_upload(str(self.upload.pk))
        self.upload.refresh_from_db()
        self.assertEqual((self.upload.state, Take.objects.count(), storage.exists(name)), ("cancelled", 0, False))
        call_command("work", once=True)
        self.assertEqual(Take.objects.count(), 0)

    def test_what_a_dead_worker_left_is_heard_and_only_once(self) -> None:
        DBTaskResult.objects.all().delete()
        Upload.objects.update(state="hearing", share=0.4)
        call_command("work", once=True)
        self.assertEqual(Take.objects.count(), 1)
        work.hear_upload(str(self.upload.pk))
        self.assertEqual((actions.hear_again(), Take.objects.count()), (0, 1))

    def test_whatever_goes_wrong_is_said_once_and_not_tried_for_ever(self) -> None:
        with (
            mock.patch.object(work, "recorded", side_effect=ZeroDivisionError("odd")),
            self.assertLogs("studio.recordings.work", "ERROR"),
        ):
            work.hear_upload(str(self.upload.pk))
        self.upload.refresh_from_db()
        self.assertEqual((self.upload.state, self.upload.problem, self.upload.file.name), ("failed", work.FAILED, ""))
        self.assertEqual(actions.hear_again(), 0)

    def test_what_kills_every_worker_is_left_alone_at_last(self) -> None:
        DBTaskResult.objects.all().delete()
        for _ in range(3):
            self.assertEqual(actions.hear_again(), 1)
            DBTaskResult.objects.get(status=TaskResultStatus.READY).claim("a worker")
            Upload.objects.update(state="hearing")
            bury("a worker")
        call_command("work", once=True)
        self.upload.refresh_from_db()
        self.assertEqual((self.upload.state, self.upload.problem), ("failed", work.DIED))
        self.assertContains(self.client.get(self.upload.get_absolute_url()), "each time whoever heard it died")

    def test_a_database_that_goes_away_is_no_fault_of_the_recording(self) -> None:
        with (
            mock.patch.object(work, "recorded", side_effect=OperationalError("gone")),
            self.assertRaises(OperationalError),
        ):
            work.hear_upload(str(self.upload.pk))
        self.upload.refresh_from_db()
        self.assertEqual((self.upload.state, self.upload.tries), ("hearing", 1))
        call_command("work", once=True)
        self.assertEqual(Take.objects.count(), 1)

    def test_what_somebody_hears_is_left_to_them(self) -> None:
        DBTaskResult.objects.all().delete()
        settings = connection.settings_dict
        other = psycopg.connect(
            host=settings["HOST"],
            port=settings["PORT"],
            dbname=settings["NAME"],
            user=settings["USER"],
            password=settings["PASSWORD"],
        )
        other.execute("select pg_advisory_lock(%s, %s)", [RECORDING, self.upload.number % 2**31])
        self.assertEqual(actions.hear_again(), 0)
        work.hear_upload(str(self.upload.pk))
        self.assertEqual(Take.objects.count(), 0)
        other.execute("select pg_advisory_unlock_all()")  # at once; the server notices a closed line by and by
        other.close()
        self.assertEqual(actions.hear_again(), 1)

    def test_a_worker_that_is_killed_in_the_middle(self) -> None:
        """A real one, by SIGKILL; the next one takes it up."""
        environment = {
            **os.environ,
            "GIUSTO_DB_NAME": connection.settings_dict["NAME"],
            "GIUSTO_DB_PORT": str(connection.settings_dict["PORT"]),
        }
        command = [sys.executable, "-m", "django", "work", "--once"]
        worker = subprocess.Popen(command, cwd=ROOT, env=environment, start_new_session=True)
        deadline = time.monotonic() + 60
        while Upload.objects.get().state == "waiting" and time.monotonic() < deadline:
            time.sleep(0.02)
        os.killpg(worker.pid, signal.SIGKILL)
        worker.wait()
        self.assertEqual((Upload.objects.get().state, Take.objects.count()), ("hearing", 0))
        done = subprocess.run(command, cwd=ROOT, env=environment, check=False, timeout=120, capture_output=True)
        self.assertEqual(done.returncode, 0, done.stderr[-500:])
        self.assertEqual((Upload.objects.get().state, Take.objects.count()), ("done", 1))


def _told(shares: list[float]) -> object:
    """Return a stand-in for the telling that remembers what it was told."""

    def told(telling: object, share: float) -> None:
        shares.append(share)

    return told
