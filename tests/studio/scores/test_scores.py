"""A score behind its page: read once, by a worker, whatever dies; nobody else's; forgotten after a day."""

from __future__ import annotations

from datetime import timedelta
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from studio.accounts.models import Player, local_player
from studio.pieces.models import Piece
from studio.queue import bury
from studio.scores.actions import read_again, take_in
from studio.scores.models import ScoreFile
from studio.scores.tasks import FAILED, read
from tests.giusto.drill.passage.scores import bar, musicxml
from tests.studio.scores import read_all, read_and_shown

SCORE = musicxml(*(bar("q q q q", number=n, metre="4/4") for n in (1, 2)))


class ScoreFileTests(TestCase):
    def bring(self) -> str:
        """Bring a score in; return the address that says how far it is."""
        answer = self.client.post("/pieces/new/", {"file": SimpleUploadedFile("a.musicxml", SCORE)})
        return str(answer.url)

    def test_no_request_reads_it_and_its_bytes_go_once_it_is_read(self) -> None:
        with patch("giusto.drill.passage.reader.read_score", side_effect=AssertionError("in a request")):
            address = self.bring()
            self.assertContains(self.client.get(address), "It is being read.")
        self.assertEqual(Piece.objects.count(), 0)
        read_all(apart=True)
        row = ScoreFile.objects.get()
        self.assertEqual(bytes(row.content), b"")
        self.assertEqual(row.leads_to, Piece.objects.get().get_absolute_url())
        told = self.client.get(address, headers={"HX-Request": "true"})
        self.assertEqual(told.headers["HX-Redirect"], address)
        self.assertRedirects(self.client.get(address), row.leads_to)

    def test_read_twice_it_is_read_once(self) -> None:
        self.bring()
        number = str(ScoreFile.objects.get().pk)
        for _ in range(2):
            read.call(number)
        self.assertEqual(Piece.objects.count(), 1)

    def test_what_a_dead_worker_left_is_put_in_line_anew_and_not_for_ever(self) -> None:
        self.bring()
        DBTaskResult.objects.all().delete()
        self.assertEqual((read_again(), read_again()), (1, 0))
        for death in range(3):
            self.assertEqual(read_again(), int(death > 0))
            DBTaskResult.objects.get(status=TaskResultStatus.READY).claim("a worker")
            bury("a worker")
        read_again()
        read_all()
        self.assertEqual(ScoreFile.objects.get().problem, FAILED)

    def test_a_fault_of_ours_is_said_without_a_traceback(self) -> None:
        with patch("studio.pieces.scores.make", side_effect=RuntimeError("a secret")), self.assertLogs("studio.scores"):
            answer = self.client.post("/pieces/new/", {"file": SimpleUploadedFile("a.musicxml", SCORE)})
            page = read_and_shown(self.client, answer)
        self.assertContains(page, "could not be worked with")
        self.assertNotContains(page, "secret")

    def test_nobody_elses_and_forgotten_after_a_day(self) -> None:
        other = Player.objects.create(username="other")
        file = SimpleUploadedFile("b.musicxml", SCORE)
        theirs = take_in(player=other, file=file, words={}, maker="x", back="/")
        self.assertEqual(self.client.get(theirs.get_absolute_url()).status_code, 404)
        self.bring()
        ScoreFile.objects.update(made_at=timezone.now() - timedelta(days=2))
        self.bring()
        self.assertEqual(ScoreFile.objects.of(local_player()).count(), 1)
        self.assertEqual(ScoreFile.objects.of(other).count(), 1)
