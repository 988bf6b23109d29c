"""The routine as a sentence, and its file in and out."""

from __future__ import annotations

import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from studio.plans.models import Routine
from tests.studio.plans.test_today import a_routine, in_technique


class RoutineTests(TestCase):
    def setUp(self) -> None:
        season = {"from": "2026-11-02", "weeks_on": 3, "weeks_off": 2}
        keys = {"all": ["C", "F"], "per_session": 1}
        a_routine(in_technique("Quarters", keys=keys, season=season, ladder="Quarters"), in_technique("Reach"))

    def words(self) -> dict[str, Any]:
        """Return the words as the page shows them."""
        whole = self.client.get("/routine/").context["whole"]
        found = dict(whole.form.initial)
        for some in (whole.blocks, whole.exercises):
            found |= {f"{some.prefix}-{name}": value for name, value in some.management_form.initial.items()}
            for form in some.forms:
                found |= {f"{form.prefix}-{name}": value for name, value in form.initial.items()}
        return {name: value for name, value in found.items() if value not in (None, False)}

    def test_kept_as_it_is_shown_nothing_changes(self) -> None:
        before = Routine.objects.get().spec
        answer = self.client.post("/routine/", self.words())
        self.assertEqual(answer.status_code, 302, getattr(answer, "context", None) and answer.context["whole"].errors)
        self.assertEqual(Routine.objects.get().core, Routine(spec=before).core)
        self.assertEqual(Routine.objects.get().spec["exercises"][0]["ladder"], "Quarters")

    def test_a_word_that_is_touched_opens_and_nothing_is_kept_before_it_is_said(self) -> None:
        before = Routine.objects.get().spec
        words = self.words()
        page = self.client.post("/routine/", words | {"open": "exercise-0", "exercise-0-minutes": "9"})
        self.assertEqual(page.status_code, 200)
        self.assertContains(page, 'name="exercise-0-minutes" value="9"')
        self.assertContains(page, "Take out")
        self.assertEqual(Routine.objects.get().spec, before)
        # What is not opened goes along unseen: the same words make the same routine.
        page = self.client.post("/routine/", words | {"open": "when"})
        self.assertContains(page, 'type="hidden" name="exercise-0-name"')
        for mean in ("exercise-x", "exercise-9999", "<b>", "block--1"):
            self.assertEqual(self.client.post("/routine/", words | {"open": mean}).status_code, 200)

    def test_earlier_later_out_and_added(self) -> None:
        words = self.words()
        names = [words["exercise-0-name"], words["exercise-1-name"]]
        page = self.client.post("/routine/", words | {"move": "later-0"})
        shown = [one.name for block in page.context["blocks"] for one in block.exercises]
        self.assertEqual([name for name in shown if name in names], names[::-1])
        page = self.client.post("/routine/", words | {"move": "out-1"})
        shown = [one.name for block in page.context["blocks"] for one in block.exercises]
        self.assertNotIn(names[1], shown)
        index = page.context["blocks"][0].index
        page = self.client.post("/routine/", words | {"add": f"in-{index}"})
        opened = [one for block in page.context["blocks"] for one in block.exercises if one.is_open]
        self.assertEqual(len(opened), 1)
        for total in ("", "x", "-3", "9" * 40):
            for asked in ({"add": f"in-{index}"}, {"move": "later-0"}):
                with self.subTest(total=total, asked=asked):
                    odd = self.client.post("/routine/", words | asked | {"exercise-TOTAL_FORMS": total})
                    self.assertEqual(odd.status_code, 200)

    def test_more_than_a_routine_may_have_is_refused_and_the_page_stays_short(self) -> None:
        before = Routine.objects.get().spec
        for total in ("202", "9" * 40):
            answer = self.client.post("/routine/", self.words() | {"exercise-TOTAL_FORMS": total})
            self.assertContains(answer, "Exercises: allowed are 200 at most.", status_code=422)
            self.assertLess(len(answer.content), 200_000)
        self.assertEqual(Routine.objects.get().spec, before)

    def test_a_word_that_is_changed_a_line_that_is_added_and_one_that_is_emptied(self) -> None:
        words = self.words() | {"minutes": "12", "exercise-1-name": "", "alarm_minutes": "10"}
        words |= {"exercise-2-name": "Every beat", "exercise-2-block": "warm-up", "exercise-2-keys": "all"}
        self.client.post("/routine/", words)
        found = Routine.objects.get()
        self.assertEqual((found.core.minutes, found.alarm_minutes), (12, 10))
        self.assertEqual([one.name for one in found.core.exercises], ["Quarters", "Every beat"])
        self.assertEqual(len(found.core.exercises[1].keys.all), 12)  # type: ignore[union-attr]

    def test_what_is_wrong_is_said_and_nothing_kept(self) -> None:
        before = Routine.objects.get().spec
        for changed, said in (
            ({"minutes": "3"}, "minutes: is 3, allowed is at least the blocks&#x27; least, 6"),
            ({"start": "25:00"}, "start: is &quot;25:00&quot;"),
            ({"days": []}, "A day at least"),
            ({"low": "90"}, "More than the other one"),
            ({"exercise-0-block": "coda"}, "Exercise 1, block: is &quot;coda&quot;"),
            ({"exercise-0-season_from": "soon"}, "Exercise 1, season.from: is &quot;soon&quot;"),
            ({"block-0-least": "9", "block-0-most": "2"}, "Block 1, minutes"),
        ):
            answer = self.client.post("/routine/", self.words() | changed)
            self.assertContains(answer, said, status_code=422)
        self.assertEqual(Routine.objects.get().spec, before)

    def test_its_file_goes_out_and_comes_in(self) -> None:
        file = self.client.get("/routine/file/").content
        Routine.objects.all().delete()
        self.assertEqual(self.client.get("/routine/file/").status_code, 404)
        answer = self.client.post("/routine/import/", {"file": SimpleUploadedFile("r.json", file)}, follow=True)
        self.assertContains(answer, "The routine is in its place.")
        self.assertEqual(Routine.objects.get().spec, json.loads(file))
        bad = json.dumps(json.loads(file) | {"minutes": "ten"}).encode()
        answer = self.client.post("/routine/import/", {"file": SimpleUploadedFile("r.json", bad)}, follow=True)
        self.assertContains(answer, "minutes")
        self.assertEqual(Routine.objects.get().spec, json.loads(file))
        self.assertContains(self.client.post("/routine/import/", {}, follow=True), "Choose a file first.")
