"""Twice is once: every form that makes something, sent six times at once, makes one; by real threads."""

from __future__ import annotations

import io
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from threading import Barrier
from typing import Any

import numpy as np
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, models
from django.test import Client, override_settings
from django.utils import timezone

from studio.accounts.models import Answered, local_player
from studio.drills.models import OwnDrill
from studio.exercises.models import Exercise
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.ladders.shelf import ready
from studio.pieces.models import Mark, Piece
from studio.plans.models import Routine
from studio.recordings.models import Upload
from studio.scores.models import ScoreFile
from tests.committed import CommittedTestCase
from tests.giusto.drill.passage.scores import bar, musicxml
from tests.studio.ladders.climbing import ladder_core

AT_ONCE = 6


def six_times(send: Callable[[Client], Any]) -> list[Any]:
    """Send something six times at the same moment, each from a browser of its own; return the answers."""
    ready = Barrier(AT_ONCE)

    def one(_: int) -> Any:
        client = Client()
        ready.wait()
        try:
            return send(client)
        finally:
            connection.close()

    with ThreadPoolExecutor(AT_ONCE) as pool:
        return list(pool.map(one, range(AT_ONCE)))


@override_settings(TWIN_S=2.0)
class OnceTests(CommittedTestCase):
    def setUp(self) -> None:
        local_player()

    def once(self, path: str, words: dict[str, Any], model: type[models.Model], *, count: int = 1) -> None:
        """Check that a form sent six times at once makes as much as sent once."""

        def send(client: Client) -> Any:
            return client.post(path, {name: word() if callable(word) else word for name, word in words.items()})

        before = model._default_manager.count()
        answers = six_times(send)
        self.assertEqual({answer.status_code for answer in answers}, {302})
        self.assertEqual(len({answer["Location"] for answer in answers}), 1)
        self.assertEqual(model._default_manager.count() - before, count)

    def test_a_ready_routine_with_its_ladders(self) -> None:
        self.once("/routine/preset/", {"preset": "hour"}, Ladder, count=2)
        self.assertEqual(Routine.objects.count(), 1)

    def test_a_ready_ladder_and_its_copy(self) -> None:
        self.once("/climb/start/", {"slug": "no-such-ladder"}, Ladder, count=0)
        slug = next(iter(ready()))
        self.once("/climb/start/", {"slug": slug}, Ladder)
        self.once(f"/climb/{Ladder.objects.get().pk}/copy/", {}, Ladder)

    def test_a_ladder_of_a_drill(self) -> None:
        self.once("/climb/of/", {"words": "drill=every-beat", "by": "tempo"}, Ladder)
        self.assertEqual(Exercise.objects.count(), 1)

    def test_a_piece_its_score_and_a_stretch(self) -> None:
        self.once("/pieces/new/", {"name": "A tune", "bars": "8", "beats": "4", "grid": "2"}, Piece)
        piece = Piece.objects.get()
        Piece.objects.update(is_draft=False)
        stretch = piece.stretches.first()
        assert stretch
        self.once(f"/pieces/{piece.pk}/{stretch.pk}/climb/", {}, Ladder)
        self.once(f"/pieces/{piece.pk}/mark/", {"bar": "3", "beat": "2", "sort": "rush", "note": "rush"}, Mark)
        score = musicxml(bar("q q q q", number=1, metre="4/4"))
        self.once("/pieces/new/", {"file": lambda: SimpleUploadedFile("a.musicxml", score), "name": ""}, ScoreFile)

    def test_a_recording(self) -> None:
        wave = io.BytesIO()
        soundfile.write(wave, np.zeros(44_100), 44_100, format="WAV")
        file = {"file": lambda: SimpleUploadedFile("a.wav", wave.getvalue())}
        self.once("/recording/?drill=every-beat", file, Upload)

    def test_a_drill_of_ones_own(self) -> None:
        self.once("/set/own/keep/?", {"words": "drill=every-beat&bpm=77", "name": "Mine", "family": "follow"}, OwnDrill)

    def test_a_click_after_the_answer_is_the_same_click_for_a_while(self) -> None:
        ladder = start_ladder(player=local_player(), ladder=ladder_core())
        path = f"/climb/{ladder.pk}/copy/"
        with override_settings(TWIN_S=2.0):
            first, second = self.client.post(path), self.client.post(path)
            self.assertEqual(first["Location"], second["Location"])
            self.assertEqual(Ladder.objects.count(), 2)
            Answered.objects.update(at=timezone.now() - timedelta(seconds=3))
            self.assertNotEqual(self.client.post(path)["Location"], first["Location"])
        self.assertEqual(Ladder.objects.count(), 3)

    def test_another_form_is_another(self) -> None:
        answers = [self.client.post("/routine/preset/", {"preset": key}) for key in ("five", "hour")]
        self.assertEqual([answer.status_code for answer in answers], [302, 302])
        self.assertEqual(Routine.objects.get().core.minutes, 60)
