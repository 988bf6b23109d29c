"""Requests that take too long, and a disk without room: one sentence each, and nothing half done."""

from __future__ import annotations

import errno
import os
import signal
import time
from typing import Any
from unittest.mock import MagicMock, patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, transaction
from django.http import HttpRequest, HttpResponse
from django.test import Client, SimpleTestCase, TestCase
from django.test.utils import override_settings
from django.urls import path

from studio import limits, urls
from studio.accounts.models import Player, local_player
from studio.limits import LIMITS, RequestsUnderWay, TooLongError, takes_its_time
from studio.room import is_full
from tests.committed import CommittedTestCase


def slow(request: HttpRequest) -> HttpResponse:
    """Write something, then work for longer than is allowed."""
    local_player()
    with transaction.atomic():
        Player.objects.update(display_name="half done")
        try:
            deadline = time.monotonic() + 30
            while time.monotonic() < deadline:
                pass
        except Exception:  # what catches everything must not keep a request
            return HttpResponse("caught")
    return HttpResponse("too late")


@takes_its_time
def large(request: HttpRequest) -> HttpResponse:
    """Take longer than is allowed, and be allowed to."""
    time.sleep(1.2)
    return HttpResponse("all of it")


def full(request: HttpRequest) -> HttpResponse:
    """Fail as a write on a full disk does."""
    raise OSError(errno.ENOSPC, "No space left on device")


urlpatterns = [path("slow/", slow), path("large/", large), path("full/", full), *urls.urlpatterns]
handler404, handler500 = urls.handler404, urls.handler500


@override_settings(ROOT_URLCONF=__name__)
class LimitTests(CommittedTestCase):
    def setUp(self) -> None:
        self.enterContext(patch.object(limits, "LONGEST_S", 0.7))

    def test_what_takes_too_long_is_ended_with_a_word_and_counted(self) -> None:
        before, began = LIMITS.ended, time.monotonic()
        with self.assertLogs("studio.limits", "ERROR") as logged:
            answer = self.client.get("/slow/")
        self.assertLess(time.monotonic() - began, 20)
        self.assertContains(answer, "so that it holds up nobody", status_code=503)
        self.assertIn("/slow/", logged.output[0])
        self.assertEqual(LIMITS.ended, before + 1)
        self.assertEqual(Client().get("/alive/").json(), {"alive": True, "ended": before + 1, "of": ""})
        self.assertFalse(Player.objects.filter(display_name="half done").exists())

    def test_a_script_gets_a_line(self) -> None:
        with self.assertLogs("studio.limits", "ERROR"):
            answer = self.client.get("/slow/", headers={"Accept": "application/json"})
        self.assertIn("longer than", answer.json()["error"])

    def test_a_large_file_takes_its_time(self) -> None:
        self.assertEqual(self.client.get("/large/").content, b"all of it")


class EdgeTests(SimpleTestCase):
    def test_a_request_that_is_ended_as_it_ends_is_forgotten(self) -> None:
        """Left in the list, it would end the whole process twenty seconds later."""
        mine, lock = RequestsUnderWay(), MagicMock()
        with self.assertRaises(TooLongError), mine.on("/slow/"):
            lock.__enter__.side_effect = TooLongError
            mine.lock = lock
        self.assertEqual(mine.requests, {})


class MemoryTests(SimpleTestCase):
    def test_a_worker_that_holds_too_much_ends_after_its_requests_and_once(self) -> None:
        mine = RequestsUnderWay()
        self.enterContext(patch.object(LIMITS, "is_renewed", new=True))  # this process has a thread that looks on
        with patch("os.kill") as killed, patch.object(limits, "RENEWED_MB", 1):
            mine.renew()  # no gunicorn's: a test, a command
            killed.assert_not_called()
            with patch.dict(os.environ, {"GIUSTO_START": "x"}), self.assertLogs("studio.limits", "INFO"):
                mine.renew()
                mine.renew()
            killed.assert_called_once_with(os.getpid(), signal.SIGTERM)
            with patch.dict(os.environ, {"GIUSTO_START": "x"}), patch.object(limits, "RENEWED_MB", 100_000):
                RequestsUnderWay().renew()
            killed.assert_called_once()


class FullDiskTests(TestCase):
    @override_settings(ROOT_URLCONF=__name__)
    def test_a_full_disk_is_told_in_a_sentence(self) -> None:
        with self.assertLogs("studio.limits", "ERROR"):
            answer = self.client.get("/full/")
        self.assertContains(answer, "disk of the machine that Giusto runs on is full", status_code=507)

    def test_a_file_that_finds_no_room_while_it_comes_in(self) -> None:
        """Found with a full disk: the answer was a connection cut off."""
        handler = "django.core.files.uploadhandler.TemporaryFileUploadHandler.receive_data_chunk"
        sound = SimpleUploadedFile("a.wav", b"RIFF" + b"\0" * 3_000_000)
        full = patch(handler, side_effect=OSError(errno.ENOSPC, "No space left on device"))
        with full, self.assertLogs("studio.limits", "ERROR"):
            answer = self.client.post("/recording/?drill=two-heard-two-silent&bpm=96&cycles=12", {"file": sound})
        self.assertContains(answer, "disk of the machine that Giusto runs on is full", status_code=507)

    def test_of_files_and_of_the_database(self) -> None:
        """PostgreSQL's words for SQLSTATE 53100 are those of the system's error."""
        told = OperationalError('could not extend file "base/1/2": No space left on device')
        wrapped = _caused_by(OSError(errno.ENOSPC, "No space left on device"))
        quota = OSError(errno.EDQUOT, "Disk quota exceeded")
        self.assertEqual([is_full(error) for error in (told, wrapped, quota)], [True] * 3)
        self.assertEqual([is_full(error) for error in (OperationalError("gone"), OSError(2, "no file"))], [False] * 2)


def _caused_by(cause: Exception) -> Exception:
    found: Any = ValueError("odd")
    found.__cause__ = cause
    return found
