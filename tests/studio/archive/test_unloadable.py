"""A row that no page can load is found and put away, and the pages are back."""

from __future__ import annotations

import io
import json
import tempfile
from pathlib import Path

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TestCase

from studio.takes.models import Take
from tests.studio.playing import play


class UnloadableTests(TestCase):
    def setUp(self) -> None:
        self.good, self.bad = play(self.client), play(self.client)
        folder = self.enterContext(tempfile.TemporaryDirectory())
        self.path = Path(folder) / "away.json"

    def spoil(self) -> None:
        """Give a take a date before the year one, as an archive once brought in."""
        with connection.cursor() as cursor:
            moment = "0001-01-01 00:00:00+00 BC"
            cursor.execute("update takes_take set started_at = %s where id = %s", [moment, self.bad.pk])

    def told(self, *options: str) -> str:
        written = io.StringIO()
        call_command("unloadable", *options, stdout=written)
        return written.getvalue()

    def test_nothing_is_found_where_all_can_be_loaded(self) -> None:
        self.assertEqual(self.told(), "0 rows can't be loaded\n")

    def test_it_is_found_told_put_away_and_the_log_is_back(self) -> None:
        self.spoil()
        self.assertIn(f"takes.Take {self.bad.pk}", self.told())
        self.assertEqual(Take.objects.values("pk").count(), 2)  # to look changes nothing
        told = self.told("--put-away", str(self.path))
        self.assertIn("1 rows are put away", told)
        away = json.loads(self.path.read_text())
        self.assertEqual([row["id"] for row in away], [str(self.bad.pk)])
        self.assertIn("BC", away[0]["started_at"])
        self.assertEqual(list(Take.objects.values_list("pk", flat=True)), [self.good.pk])
        self.assertEqual(self.client.get("/log/").status_code, 200)

    def test_what_can_t_be_written_down_is_not_deleted(self) -> None:
        self.spoil()
        self.path.touch()
        with self.assertRaisesMessage(CommandError, "nothing is deleted"):
            self.told("--put-away", str(self.path))
        self.assertEqual(Take.objects.values("pk").count(), 2)
