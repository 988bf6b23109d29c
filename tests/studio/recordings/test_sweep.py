"""What was to be forgotten and is still there; what could not be kept; workers that die at their work."""

from __future__ import annotations

import io
import os
import tempfile
import time
from pathlib import Path
from unittest.mock import patch
from uuid import uuid4

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from giusto.simulation.instrument import Room
from studio.queue import DIED, KEPT, LOST, bury, deaths, prune
from studio.recordings import sweeping, watchman
from studio.recordings.sweeping import UNREAD, sweep
from studio.recordings.watchman import TOO_MUCH, Watchman
from studio.takes import kept_sound, waiting
from studio.takes.models import KeptSound, SoundPiece, Take
from studio.takes.tasks import read, tell_silence
from studio.takes.waiting import read_again
from tests.committed import CommittedTestCase
from tests.studio.playing import play
from tests.studio.takes.test_sound import SoundTests as _Sounds

ROOM = Room("skin", -25.0, -60.0, 43.0)
NO_ROOM = OSError(28, "No space left on device")


class SweepTests(_Sounds):
    """With the sound that the tests of sound send, in a folder of its own."""

    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(self.settings(MEDIA_ROOT=folder.name))

    def test_a_sound_that_finds_no_room_fails_no_reading_and_is_kept_later(self) -> None:
        with patch.object(kept_sound, "keep_sound", side_effect=NO_ROOM), self.assertLogs("studio.takes.kept_sound"):
            take = self.send_sound(self.sound(ROOM), keep=True)
        self.assertEqual((take.reading.refusal_code, KeptSound.objects.count()), ("", 0))
        self.assertIn("No space left on device", " ".join(take.reading.spec["notes"]))
        pieces = SoundPiece.objects.count()
        self.assertGreater(pieces, 0)
        with patch.object(kept_sound, "keep_sound", side_effect=NO_ROOM), self.assertLogs("studio.takes.kept_sound"):
            self.assertEqual(sweep(), {})  # still none
        self.assertEqual(SoundPiece.objects.count(), pieces)
        self.assertEqual(sweep()["sounds kept at last"], 1)
        self.assertEqual((KeptSound.objects.count(), SoundPiece.objects.count()), (1, 0))
        self.assertEqual(self.client.get(f"{self.path}sound/").status_code, 200)

    def test_pieces_of_a_take_that_was_heard_go(self) -> None:
        take = self.send_sound(self.sound(ROOM))
        SoundPiece.objects.create(take=take, frame=0, samples=b"\x00\x00")
        self.assertEqual(sweep(), {"takes whose sound was to be forgotten": 1})
        self.assertEqual(SoundPiece.objects.count(), 0)

    def test_sound_that_waits_or_may_still_be_read_stays(self) -> None:
        take = self.send_sound(self.sound(ROOM)[:40], heard=False)
        pieces = SoundPiece.objects.count()
        self.assertEqual(sweep(), {})
        broken = patch("studio.takes.sources.microphone.through_microphone", side_effect=ZeroDivisionError)
        with broken, self.assertLogs("studio.takes.reading", "ERROR"):
            call_command("work", once=True)
        take.refresh_from_db()
        self.assertEqual(take.reading.refusal_code, "failed")
        sweep()
        self.assertEqual(SoundPiece.objects.count(), pieces)
        Take.objects.update(started_at=timezone.now() - UNREAD * 2)
        self.assertEqual(sweep()["takes whose sound was to be forgotten"], 1)

    def test_files_that_no_row_names_go_once_they_are_old(self) -> None:
        named = self.send_sound(self.sound(ROOM), keep=True).sound.file.name
        stray = default_storage.save("uploads/stray.wav", ContentFile(b"x"))
        self.addCleanup(default_storage.delete, stray)
        sweep()
        self.assertTrue(default_storage.exists(stray))
        old = time.time() - 2 * sweeping.YOUNG.total_seconds()
        os.utime(default_storage.path(stray), (old, old))
        os.utime(default_storage.path(named), (old, old))
        self.assertEqual(sweep()["recordings that nobody waits for"], 1)
        self.assertEqual([default_storage.exists(name) for name in (stray, named)], [False, True])

    def test_the_command_tells_what_it_found(self) -> None:
        written = io.StringIO()
        call_command("sweep", stdout=written)
        self.assertEqual(written.getvalue(), "nothing was left to sweep\n")


# What these tests inherit is tested where it is written.
for _name in [name for name in dir(_Sounds) if name.startswith("test_")]:
    setattr(SweepTests, _name, None)


class DeathTests(CommittedTestCase):
    def claimed(self, worker: str, *arguments: object) -> DBTaskResult:
        """Return a task that a worker has taken up."""
        result = DBTaskResult.objects.get(pk=read.enqueue(*arguments).id)
        result.claim(worker)
        return result

    def test_what_a_worker_was_at_when_it_died_is_buried_by_its_follower(self) -> None:
        mine, others = self.claimed("work long", "a"), self.claimed("work now", "b")
        self.assertEqual(bury("work long"), 1)
        mine.refresh_from_db()
        others.refresh_from_db()
        self.assertEqual((mine.status, others.status), (TaskResultStatus.FAILED, TaskResultStatus.RUNNING))
        self.assertEqual([deaths(read, "a"), deaths(read, "b"), deaths(tell_silence, "a")], [1, 0, 0])

    def test_a_database_that_went_away_is_no_death(self) -> None:
        self.claimed("work", "a")
        self.assertEqual((bury("work", LOST), deaths(read, "a")), (1, 0))

    def test_done_tasks_are_pruned_after_a_day(self) -> None:
        for number, age in enumerate((KEPT * 0.9, KEPT * 1.1)):
            result = self.claimed("work", str(number))
            result.set_successful(None)
            DBTaskResult.objects.filter(pk=result.pk).update(finished_at=timezone.now() - age)
        read.enqueue("waits")
        self.assertEqual((prune(), DBTaskResult.objects.count()), (1, 2))


class GivenUpTests(_Sounds):
    """A take whose readers die."""

    def test_after_three_deaths_it_is_given_up_and_said(self) -> None:
        take = self.send_sound(self.sound(ROOM)[:40], heard=False)
        for _ in range(3):
            self.assertEqual(read_again(), 0)  # it is in line
            DBTaskResult.objects.get(status=TaskResultStatus.READY).claim("work")
            bury("work")
            found = read_again()
        self.assertEqual(found, 0)
        take = Take.objects.get(pk=take.pk)
        self.assertEqual(take.reading.refusal_code, "died")
        self.assertContains(self.client.get(self.path), "It was tried three times")
        self.assertEqual(DBTaskResult.objects.filter(exception_class_path=DIED).count(), 3)


for _name in [name for name in dir(_Sounds) if name.startswith("test_")]:
    setattr(GivenUpTests, _name, None)


class LeftTests(CommittedTestCase):
    def test_a_take_whose_server_was_killed_at_its_end_is_read_by_the_worker(self) -> None:
        """Found by the drill of kills: its end was kept, its reading was not, until the next start."""
        take = play(self.client)
        take.reading.delete()
        self.assertEqual(read_again(), 0)  # a request may be at it
        with patch.object(waiting, "LEFT_S", 0.0):
            self.assertEqual((read_again(), read_again()), (1, 0))
        call_command("work", once=True)
        self.assertEqual(Take.objects.get().reading.refusal_code, "")
        self.assertEqual((read_again(), waiting.SEEN), (0, {}))


class WatchmanTests(CommittedTestCase):
    def setUp(self) -> None:
        self.sign = Path(default_storage.path(f"{uuid4()}.alive"))
        self.addCleanup(self.sign.unlink, missing_ok=True)
        self.watchman = Watchman(self.sign)

    def test_a_sign_of_life_is_another_each_time(self) -> None:
        self.sign.parent.mkdir(parents=True, exist_ok=True)
        self.watchman.look(1)
        first = self.sign.read_text()
        self.watchman.look(2)
        self.assertNotEqual(self.sign.read_text(), first)

    def test_what_takes_too_long_or_too_much_ends_its_process_and_is_told(self) -> None:
        for name, most in (("LONGEST_S", -1.0), ("MOST_MB", 1)):
            self.watchman.at = ("hear something", time.monotonic())
            with (
                self.subTest(name),
                patch.object(watchman, name, most),
                patch("os._exit") as ended,
                patch("logging.shutdown"),
                self.assertLogs("studio.work", "ERROR") as logged,
            ):
                self.watchman.look(1)
            ended.assert_called_once_with(TOO_MUCH)
            self.assertIn("hear something", logged.output[0])
        self.watchman.at = None
        with patch("os._exit") as ended, patch.object(watchman, "MOST_MB", 1):
            self.watchman.look(2)  # between two tasks nothing is ended
        ended.assert_not_called()

    def test_the_log_says_what_was_done_and_how_it_ended(self) -> None:
        with self.assertLogs("studio.work", "INFO") as logged:
            take = uuid4()
            read.enqueue(str(take))
            call_command("work", once=True)
        self.assertRegex(logged.output[0], rf"read {take}: failed in \d+\.\d s")
        self.assertIn("DoesNotExist", logged.output[1])
