"""Free playing on its page: the tempo all the way, sections, a beginning whenever it pleases."""

from __future__ import annotations

from typing import Any

from django.test import TestCase

from giusto.drill import validate
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.takes.models import Take
from tests.drills import plain
from tests.studio.playing import send


def free(**changes: Any) -> dict[str, Any]:
    """Return a drill without a click."""
    clicks = {**plain()["clicks"], "on": [], "silence": None}
    return plain() | {"giusto": "free/1", "clicks": clicks, "close": 0, "cycles": 24} | changes


class FreeTests(TestCase):
    def take(self, drill: dict[str, Any], *, late_s: float = 0.0, faster: float = 1.0) -> Take:
        """Send a take that gets faster by a factor in its second half."""
        onsets_s = simulate(schedule(validate(drill)), SimulatedPlayer(clock_percent=0.6, hand_ms=4.0), seed=5).onsets_s
        half = onsets_s.size // 2
        onsets_s[half:] = onsets_s[half] + (onsets_s[half:] - onsets_s[half]) / faster
        return send(self.client, drill, onsets_s + late_s)

    def test_a_steady_take_and_one_that_gets_faster(self) -> None:
        page = self.client.get(self.take(free()).get_absolute_url())
        self.assertRegex(page.content.decode(), r"<h1>You held 9[56]\.\d\.</h1>")
        self.assertContains(page, "tempo-all-the-way")
        self.assertNotContains(page, "Your place is")
        take = self.take(free(), faster=1.06)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "You became faster.")
        standing = self.client.get(f"{take.get_absolute_url()}?view=standing")
        self.assertContains(standing, "You became faster.")
        self.assertContains(standing, "tempo-thread")
        self.assertRegex(standing.content.decode(), r"9[56]\.\d became\s*</span>|9[56]\.\d became")

    def test_without_a_count_in_it_begins_when_it_pleases(self) -> None:
        take = self.take(free(count_in=0), late_s=7.3)
        reading = take.reading.found
        assert reading
        assert reading.tempo
        self.assertEqual((reading.onsets.missed, reading.onsets.extra), (0, 0))
        self.assertIsNone(reading.heard.mean_error_ms)
        self.assertRegex(self.client.get(take.get_absolute_url()).content.decode(), r"<h1>You held 9[56]\.\d\.</h1>")

    def test_sections_are_marked_and_refused_clearly(self) -> None:
        take = self.take(free())
        address = f"{take.get_absolute_url()}sections/"
        self.client.post(address, {"sections": "8, 8 4 4"})
        take.refresh_from_db()
        self.assertEqual(take.sections, [8, 8, 4, 4])
        reading = take.reading.found
        assert reading
        assert reading.tempo
        self.assertEqual([round(one.beat) for one in reading.tempo.sections], [0, 32, 64, 80])
        for wrong in ("eight", "0", "-3", "9999999", " ".join(["1"] * 61)):
            page = self.client.post(address, {"sections": wrong}, follow=True)
            self.assertContains(page, "The sections were not marked")
        take.refresh_from_db()
        self.assertEqual(take.sections, [8, 8, 4, 4])

    def test_against_its_own_start(self) -> None:
        address = self.take(free(), faster=1.06).get_absolute_url()
        self.assertContains(self.client.get(address), "against your own start")
        own = self.client.get(f"{address}?against=start")
        self.assertContains(own, "Set against your own start")
        picture = own.context["tempo"]
        self.assertAlmostEqual(picture.base_bpm, 96, delta=2)
        self.assertLess(picture.thread.count("L"), 30)
        slower, base, faster = (tick.x for tick in reversed(picture.ticks))
        self.assertGreater(slower, base)  # slower lies right, as late does
        self.assertGreater(base, faster)

    def test_the_sentence_says_it_and_leads_back(self) -> None:
        page = self.client.get("/set/?drill=nothing-at-all")
        self.assertContains(page, "No click: your own tempo, all the way.")
        self.assertContains(page, "no beat at all")
        drill = self.client.get("/set/click.json?drill=count-in-only")
        self.assertEqual(validate(drill.json()).giusto, "free/1")

    def test_a_take_with_silences_that_fill_it_has_both(self) -> None:
        silence = {"kind": "fixed", "heard": 1, "silent": 11}
        drill = plain() | {"clicks": {**plain()["clicks"], "silence": silence}, "cycles": 12}
        page = self.client.get(self.take(drill).get_absolute_url())
        self.assertContains(page, "tempo-all-the-way")
        self.assertContains(page, "Each silence")
