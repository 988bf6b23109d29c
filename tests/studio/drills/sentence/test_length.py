"""A length in minutes."""

from django.test import TestCase
from django.urls import reverse

from giusto.drill import validate
from studio.drills.sentence.length import cycles_for
from tests.drills import plain


class MinutesTests(TestCase):
    def test_by_hand(self) -> None:
        """At 96 a cycle of four beats lasts 2.5 s: 24 a minute; in turns of seven, 21 is nearest to 20."""
        self.assertEqual(cycles_for(validate(plain(silence=None, bpm=96)), 5), 120)
        uneven = {"kind": "fixed", "heard": 3, "silent": 4}
        self.assertEqual(cycles_for(validate(plain(silence=uneven, bpm=96)), 20 / 24), 21)
        self.assertEqual(cycles_for(validate(plain(silence=uneven, bpm=96)), 0.1), 7)
        self.assertEqual(cycles_for(validate(plain(silence=None, bpm=400)), 120), 2000)

    def test_a_tempo_that_climbs(self) -> None:
        """60 for eight cycles (32 s), then 120 for all others, 2 s each: a minute is eight and fourteen of them."""
        drill = plain(silence=None, bpm=60)
        drill["giusto"] = "drill/2"
        drill["tempo"]["steps"] = {"every_cycles": 8, "by": 60, "to": 120}
        self.assertEqual(cycles_for(validate(drill), 1), 22)

    def test_in_the_sentence(self) -> None:
        words = {"drill": "two-heard-two-silent", "lasts": "minutes", "minutes": "5"}
        page = self.client.get(reverse("drills:set"), words)
        self.assertContains(page, 'name="minutes" value="5"')
        self.assertContains(page, "30 silences")
        faster = self.client.get(reverse("drills:set"), words | {"bpm": "192"})
        self.assertContains(faster, "60 silences")
        self.assertContains(faster, "lasts=minutes")  # what a link carries
        self.assertContains(
            self.client.get(reverse("drills:set"), words | {"minutes": "0"}), "0.1 at least", status_code=422
        )
