"""Readings made anew."""

import io
import json

from django.core.management import call_command
from django.test import TestCase

from studio.takes.models import Reading
from tests.studio.playing import play


class RereadTests(TestCase):
    def test_readings_of_an_older_core_are_computed_anew(self) -> None:
        take = play(self.client)
        spec = take.reading.spec
        Reading.objects.update(core_version="0.0.1", spec={"giusto": "reading/1"})
        take.silences.all().delete()
        out = io.StringIO()
        call_command("reread", stdout=out)
        take.reading.refresh_from_db()
        self.assertEqual(take.reading.spec, json.loads(json.dumps(spec)))
        self.assertEqual(take.silences.count(), 4)
        self.assertIn("1 takes read", out.getvalue())
        call_command("reread", stdout=out)
        self.assertIn("0 takes read", out.getvalue())
