"""A drill as the words of its sentence, and back; a link that carries it."""

from django.http import QueryDict
from django.test import SimpleTestCase, TestCase
from django.urls import reverse
from hypothesis import given

from giusto.drill import Drill
from studio.drills.origin import Origin, of_built_in
from studio.drills.sentence.codec import query, words_of
from studio.drills.sentence.form import SentenceForm
from studio.drills.sentence.table import PLAIN
from studio.drills.shelf import shelf
from tests.any_drill import drills

NOWHERE = Origin("", "", "dropped", shelf()["two-heard-two-silent"].drill)


def same(one: Drill, other: Drill) -> bool:
    """Whether two drills ask for the same; one group of all beats may be written or not."""
    bare = {"cycle": one.cycle.model_copy(update={"groups": one.cycle.grouping})}
    return one.model_copy(update=bare) == other.model_copy(
        update={"cycle": other.cycle.model_copy(update={"groups": other.cycle.grouping})}
    )


class LinkTests(SimpleTestCase):
    @given(drills())
    def test_any_drill_comes_back_from_its_link(self, drill: Drill) -> None:
        link = query(words_of(drill))
        form = SentenceForm(QueryDict(link), origin=NOWHERE)
        self.assertTrue(form.is_valid(), f"{form.errors} {link}")
        named = drill if drill.name.strip() else drill.model_copy(update={"name": form.made.name})
        named = named.model_copy(update={"name": named.name.strip()})
        self.assertTrue(same(form.made, named), f"{form.made}\n{named}\n{link}")

    def test_every_built_in_drill_comes_back_from_its_slug_and_from_its_link(self) -> None:
        for slug, built_in in shelf().items():
            with self.subTest(slug):
                form = SentenceForm(QueryDict(f"drill={slug}"), origin=of_built_in(built_in))
                self.assertTrue(form.is_valid(), form.errors)
                self.assertTrue(same(form.made, built_in.drill))
                again = SentenceForm(QueryDict(form.link()), origin=NOWHERE)
                self.assertTrue(again.is_valid(), again.errors)
                self.assertTrue(same(again.made, built_in.drill))

    def test_plain_words_are_left_out(self) -> None:
        link = query({**PLAIN, "bpm": "96", "beats": "4"}, seed=7)
        self.assertEqual(link, "seed=7&bpm=96&beats=4")


class LinkPageTests(TestCase):
    def test_a_link_of_a_drill_that_is_gone_still_carries_it(self) -> None:
        words = words_of(shelf()["seven"].drill)
        gone = "b6a1a6f0-3df7-4d7c-9a39-3c6c2c4ab111"
        page = self.client.get(f"{reverse('drills:set')}?{query(words, drill=gone)}")
        self.assertContains(page, "Seven as 2+2+3")
        self.assertContains(page, "accented on each group")


class SwingTests(TestCase):
    def test_swing_is_a_word_of_the_sentence(self) -> None:
        page = self.client.get("/set/?drill=every-beat&swing=1.5")
        self.assertContains(page, "swung 1.5")
        drill = page.context["form"].made
        self.assertEqual((drill.giusto, drill.clicks.swing), ("drill/3", 1.5))
        self.assertContains(self.client.get("/set/?drill=every-beat&swing=4"), "3 at most, please.", status_code=422)

    def test_a_straight_drill_stays_of_its_version(self) -> None:
        drill = self.client.get("/set/?drill=every-beat&swing=1").context["form"].made
        self.assertEqual(drill.giusto, "drill/1")

    def test_without_a_click_nothing_swings(self) -> None:
        page = self.client.get("/set/?drill=every-beat&on=nowhere&swing=2")
        self.assertEqual(page.context["form"].made.giusto, "free/1")
