"""Drills of chance: drawn when they are played, unseen until then; a chosen draw stays as it is."""

import json
import re

from django.test import TestCase
from django.urls import reverse

from giusto.drill import validate
from studio.drills.draw import ANEW, anew, drawn, is_anew
from studio.drills.shelf import shelf
from tests.studio.playing import play

CHANCE = {"drill": "random-beats"}


class DrawTests(TestCase):
    def played(self, **words: str) -> dict:  # type: ignore[type-arg]
        page = self.client.get(reverse("takes:play"), CHANCE | words).content.decode()
        found = re.search(r'id="plan" type="application/json">(.*?)</script>', page, re.DOTALL)
        assert found
        self.page = page
        return json.loads(found[1])  # type: ignore[no-any-return]

    def test_each_time_another(self) -> None:
        seeds = {self.played()["drill"]["clicks"]["silence"]["seed"] for _ in range(5)}
        self.assertEqual(len(seeds), 5)
        self.assertNotIn(ANEW, seeds)

    def test_a_chosen_draw_is_repeated(self) -> None:
        first, second = (self.played(seed="77")["clicks"] for _ in range(2))
        self.assertEqual(first, second)

    def test_nothing_of_it_is_seen_before_or_told_while_it_is_played(self) -> None:
        """The page is the same whatever is drawn, but for what the browser plays from."""
        pages = []
        for seed in ("77", "78"):
            stretches = self.played(seed=seed)["stretches"]
            self.assertEqual([s["word"] for s in stretches], ["Ready", "Click", "Close"])
            self.assertEqual([s["aside"] for s in stretches], ["", "", ""])
            pages.append(re.sub(r"<script id=.*?</script>|seed=\d+|csrf\S+ value=\S+", "", self.page, flags=re.DOTALL))
        self.assertEqual(*pages)

    def test_the_sentence_shows_an_example_and_says_so(self) -> None:
        page = self.client.get(reverse("drills:set"), CHANCE)
        self.assertContains(page, "An example: the draw is made when you play.")
        self.assertContains(page, "Drawn when you play; the example has")
        page = self.client.get(reverse("drills:set"), CHANCE | {"seed": "77"})
        self.assertNotContains(page, "An example")

    def test_a_take_keeps_its_draw_and_the_same_again_is_another(self) -> None:
        drill = drawn(shelf()["random-beats"].drill).plain()
        take = play(self.client, drill=drill)
        seed = drill["clicks"]["silence"]["seed"]
        self.assertIn(f"seed={seed}", self.client.get(reverse("takes:set", args=[take.pk])).headers["Location"])
        again = self.played(again=str(take.pk))["drill"]["clicks"]["silence"]["seed"]
        self.assertNotIn(again, (seed, ANEW))

    def test_files_are_of_one_draw_and_say_which(self) -> None:
        name = self.client.get(reverse("drills:download", args=["mid"]), CHANCE).headers["Content-Disposition"]
        self.assertRegex(name, r"-[1-9]\d*\.mid")

    def test_other_drills_are_what_they_are(self) -> None:
        drill = validate(shelf()["seven"].drill.plain())
        self.assertEqual(drawn(anew(drill)), drill)
        self.assertFalse(is_anew(drill))
