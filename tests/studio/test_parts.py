"""What a page says of parts that are down, and of a full disk."""

from __future__ import annotations

import json
import tempfile
from collections import namedtuple
from pathlib import Path
from unittest.mock import patch

from django.test import TestCase

Usage = namedtuple("Usage", "total used free")


class PartsTests(TestCase):
    def setUp(self) -> None:
        self.run_folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(self.settings(RUN=self.run_folder))

    def down(self, *names: str) -> str:
        (self.run_folder / "down.json").write_text(json.dumps(names))
        return self.client.get("/method/").content.decode()

    def test_what_waits_is_said_in_one_line(self) -> None:
        self.assertNotIn("being started again", self.client.get("/method/").content.decode())  # nobody told anything
        self.assertNotIn("being started again", self.down())
        page = self.down("worker", "second worker")
        self.assertEqual(page.count("A part of Giusto is being started again: "), 1)
        self.assertIn("takes by microphone and scores wait to be read; recordings wait to be heard.", page)

    def test_a_page_that_is_there_says_nothing_of_what_made_it(self) -> None:
        self.assertNotIn("being started again", self.down("web server", "database"))

    def test_half_a_file_hurts_no_page(self) -> None:
        (self.run_folder / "down.json").write_text("[")
        self.assertEqual(self.client.get("/method/").status_code, 200)

    def test_a_full_disk_is_said(self) -> None:
        for free, is_said in ((1_000_000, True), (10**9, False)):
            with patch("shutil.disk_usage", return_value=Usage(10**10, 10**10 - free, free)):
                page = self.client.get("/method/").content.decode()
            self.assertEqual("is full. What you play stays in this browser" in page, is_said)
