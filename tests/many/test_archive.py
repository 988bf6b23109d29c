"""Leaving with all of it: what a studio added goes along, and comes back in elsewhere."""

from __future__ import annotations

import io
import json
import zipfile

from django.test import TestCase
from django.urls import reverse

from studio.accounts.models import Player
from studio.archive.reading import read_archive
from studio.archive.writing import write_archive
from studio.takes.models import KeptSound
from studio.teaching.models import Assignment, Consent, Remark
from tests.many.people import Things, client_of, person


class ArchiveTests(TestCase):
    def test_remarks_and_assignments_come_along_and_consents_are_told(self) -> None:
        of = Things()
        KeptSound.objects.all().delete()
        buffer = io.BytesIO()
        write_archive(of.pupil, buffer)
        with zipfile.ZipFile(buffer) as packed:
            told = json.loads(packed.read("teaching.json"))
        self.assertEqual(told["remarks"][0]["text"], "Lean back.")
        self.assertEqual(told["consents"][0]["scopes"], ["takes", "words", "sound"])
        self.assertTrue(any("said something" in line["what"] for line in told["lines"]))
        Player.objects.filter(pk=of.pupil.pk).delete()
        elsewhere = person("mira")
        buffer.seek(0)
        read_archive(elsewhere, buffer)
        remark = Remark.objects.get(player=elsewhere)
        self.assertEqual(
            (remark.text, remark.by, remark.by_name, remark.take_id), ("Lean back.", None, "Teacher", of.take.pk)
        )
        self.assertEqual(Assignment.objects.get(player=elsewhere).goal, "four days")
        self.assertFalse(Consent.objects.filter(player=elsewhere).exists())
        client = client_of(elsewhere, raises=True)
        self.assertContains(client.get(reverse("plan:today")), "Lean back.")
        client.post(reverse("teaching:accept", args=[Assignment.objects.get().pk]))
        self.assertTrue(Assignment.objects.get().is_on)

    def test_an_assignment_that_is_none_is_told_and_not_taken_on(self) -> None:
        of = Things()
        client = client_of(of.pupil, raises=True)
        for spec in ({}, {"drill": 5}, [], {"drill": {}, "family": None}):
            Assignment.objects.update(spec=spec)
            answer = client.post(reverse("teaching:accept", args=[of.assignment.pk]), follow=True)
            self.assertContains(answer, "can’t be taken on")
        self.assertIsNone(Assignment.objects.get().accepted_at)
