"""The reading's pages without a browser: table, habit, advice, standing view, one silence, another beside it."""

import re

from django.test import TestCase
from django.urls import reverse

import giusto
from giusto.drill import validate
from giusto.figures.correction import home_clicks
from giusto.simulation.player import SimulatedPlayer as Hand
from studio.drills.sentence.codec import words_of
from studio.takes.models import Reading, Silence, Take
from tests.drills import fixed, plain
from tests.studio.playing import play


class TableTests(TestCase):
    def test_this_take_and_the_habit(self) -> None:
        takes = [play(self.client, player=Hand(bias_percent=-1.5), seed=seed) for seed in range(4)]
        alone = self.client.get(takes[0].get_absolute_url())
        self.assertContains(alone, "Your habit: 3 other takes near 96")
        for name in ("Tempo alone", "Lean in the silence", "Where you came back", "Of a gap, each click closes"):
            self.assertContains(alone, name)
        self.assertRegex(alone.content.decode(), r"(?s)What to expect of a silence</button>.*?slow")

    def test_other_hands_tempi_and_lengths_are_another_habit(self) -> None:
        take = play(self.client)
        for seed in range(3):
            play(self.client, drill=plain(bpm=120), seed=seed)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "A habit is told from three takes near one tempo on.")
        self.assertNotContains(page, "What to expect of a silence")

    def test_every_figure_leads_to_its_definition(self) -> None:
        take = play(self.client, drill=plain(cycles=40))
        page = self.client.get(take.get_absolute_url()).content.decode()
        anchors = set(re.findall(r'href="/method/#([a-z-]+)"', page))
        self.assertGreaterEqual(len(anchors), 6)
        method = self.client.get(reverse("method:page")).content.decode()
        for anchor in anchors:
            self.assertIn(f'id="{anchor}"', method)

    def test_queries_are_bounded(self) -> None:
        takes = [play(self.client, seed=seed) for seed in range(6)]
        for some in (takes[0], takes[5]):
            with self.assertNumQueries(12):
                self.client.get(some.get_absolute_url())

    def test_home(self) -> None:
        self.assertEqual([home_clicks(alpha) for alpha in (0.2, 0.5, 1.0, 0.0)], [11, 4, 1, 230])


class AdviceTests(TestCase):
    def advice(self, *, minute: int = 0, **player: float) -> str:
        take = play(self.client, player=Hand(**player), started_at=f"2026-11-25T10:{minute:02}:00Z")
        page = self.client.get(take.get_absolute_url())
        return " ".join(re.sub(r"<[^>]+>", " ", page.content.decode()).split())

    def test_rushing_and_dragging(self) -> None:
        rushed, dragged = self.advice(bias_percent=3.0), self.advice(bias_percent=-3.0)
        self.assertIn("Your eighths are a little short, about 3 in 100.", rushed)
        self.assertIn("Your eighths are a little long, about 3 in 100.", dragged)
        for text in (rushed, dragged):
            self.assertIn("Try: ", text)  # the first take of this exercise
            self.assertIn("Keep 96 and play sixteenths through the silence.", text)
            self.assertIn("Hold it twice and you are led back.", text)

    def test_held_twice_then_one_thing_less(self) -> None:
        steady = {"clock_percent": 0.4, "hand_ms": 3.0}
        first, second = self.advice(**steady), self.advice(minute=5, **steady)
        self.assertIn("All held. One take can be luck.", first)
        self.assertIn("Held twice in a row.", second)
        self.assertIn("Play quarters next: fewer notes to lean on.", second)

    def test_each_way_is_one_key_away_and_leads_to_a_drill_that_can_be_played(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-3.0))
        page = self.client.get(take.get_absolute_url()).content.decode()
        links = re.findall(r'href="([^"]*/play/[^"]*)"\s+data-key="([\w ]+)"', page)
        self.assertEqual({key for _, key in links}, {"Enter Space", "r", "e", "h", "t"})
        for link, _ in links:
            self.assertEqual(self.client.get(link.replace("&amp;", "&")).status_code, 200)

    def test_nothing_praises_or_blames(self) -> None:
        for bias in (-3.0, 0.0, 3.0):
            text = self.advice(bias_percent=bias).lower()
            for word in ("well done", "great", "bad", "sorry", "!"):
                self.assertNotIn(word, text.split("a note to yourself")[0].replace("!doctype", ""))

    def test_a_few_notes(self) -> None:
        page = self.client.get(play(self.client, player=Hand(missed=0.9), seed=3).get_absolute_url())
        self.assertContains(page, "Too few notes to read.")


class StandingTests(TestCase):
    def test_verdict_numbers_and_the_next_step(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-3.0))
        page = self.client.get(f"{take.get_absolute_url()}?view=standing")
        self.assertContains(page, "You dragged in every silence.")
        self.assertContains(page, "play sixteenths")
        self.assertContains(page, "data-any-key")
        self.assertEqual(page.content.count(b"ms late</text>"), 8)  # four silences, two widths of page

    def test_it_holds_for_odd_drills(self) -> None:
        cases = (
            dict(beats=11, cycles=12, silence=fixed(1, 2)),
            dict(beats=3, grid=8, bpm=50, cycles=8, silence=fixed(1, 1)),
            dict(cycles=200, silence=fixed(2, 3), bpm=200, grid=1),
            dict(bpm=30, on=["1"], silence=None, grid=4, cycles=12),
            dict(silence=None, cycles=4),
        )
        for changes in cases:
            take = play(self.client, drill=plain(**changes), player=Hand(bias_percent=-2.0))
            for path in ("?view=standing", ""):
                with self.subTest(path=path, **changes):
                    page = self.client.get(f"{take.get_absolute_url()}{path}")
                    self.assertEqual(page.status_code, 200)
                    self.assertNotContains(page, "nan")

    def test_a_whole_beat_late_by_a_steady_drag(self) -> None:
        drill = plain(silence=fixed(2, 12), cycles=14)
        take = play(self.client, drill=drill, player=Hand(bias_percent=-2.1, clock_percent=0.8), seed=4)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "You dragged in the silence.")  # the notes lead there: no beat was lost
        self.assertRegex(page.content.decode(), "1\\.[01]\u00a0beats late")


class SilenceTests(TestCase):
    def test_note_by_note(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-3.0))
        page = self.client.get(reverse("readings:silence", args=[take.pk, 2]))
        self.assertContains(page, "Silence 2 of 4")
        self.assertEqual(len(re.findall(r"<td>\d+</td>\s*<td>\d( and)?</td>", page.content.decode())), 19)
        for number in (0, 5):
            self.assertEqual(self.client.get(reverse("readings:silence", args=[take.pk, number])).status_code, 404)

    def test_a_silence_without_a_note(self) -> None:
        take = play(self.client, player=Hand(missed=0.9), seed=3)
        for number in range(1, 5):
            self.assertEqual(self.client.get(reverse("readings:silence", args=[take.pk, number])).status_code, 200)


class BesideTests(TestCase):
    def test_before_and_after(self) -> None:
        first = play(self.client, player=Hand(bias_percent=-3.0))
        second = play(self.client, player=Hand(bias_percent=2.0), seed=2)
        self.client.post(reverse("readings:pin", args=[first.pk]))
        page = self.client.get(second.get_absolute_url())
        self.assertContains(page, "Pinned:")
        self.assertContains(page, "<b>more than chance</b>", html=True)
        self.assertContains(page, "may be chance")
        self.assertNotContains(self.client.get(first.get_absolute_url()), "Pinned:")
        self.client.post(reverse("readings:pin", args=[first.pk]))
        self.assertNotContains(self.client.get(second.get_absolute_url()), "Pinned:")

    def test_a_pinned_take_that_was_deleted_is_gone(self) -> None:
        first, second = play(self.client), play(self.client, seed=2)
        self.client.post(reverse("readings:pin", args=[first.pk]))
        self.client.post(reverse("takes:delete", args=[first.pk]))
        self.assertNotContains(self.client.get(second.get_absolute_url()), "Pinned:")


class KeptFiguresTests(TestCase):
    def test_columns_and_what_the_next_takes_know(self) -> None:
        takes = [play(self.client, seed=seed) for seed in range(4)]
        reading = Reading.objects.get(take=takes[3])
        self.assertEqual(reading.heard_ms, reading.spec["heard"]["mean_error_ms"])
        self.assertEqual(set(reading.sizes), {"free", "free_sd"})
        self.assertEqual(Silence.objects.filter(lean_percent=None).count(), 0)

    def test_a_reading_of_an_older_core_is_shown_and_can_be_read_anew(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-3.0))
        spec = take.reading.spec
        for name in ("missing", "places", "fatigue", "together", "course", "swing", "lengths"):
            del spec[name]  # as the first version wrote it
        for silence in spec["silences"]:
            del silence["lean_percent"], silence["lean_ci95_percent"], silence["course"]
        Reading.objects.update(core_version="0.0.1", spec=spec)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "You dragged in every silence.")
        self.assertContains(page, "Read by an earlier Giusto.")
        self.assertEqual(Reading.objects.get().core_version, "0.0.1")  # a look changes nothing
        self.client.post(reverse("readings:read", args=[take.pk]))
        self.assertEqual(Reading.objects.get().core_version, giusto.__version__)
        self.assertNotContains(self.client.get(take.get_absolute_url()), "Read by an earlier Giusto.")

    def test_a_reading_that_nobody_can_parse_is_said_to_be_one(self) -> None:
        take = play(self.client)
        Reading.objects.update(spec={"broken": True})
        self.assertContains(self.client.get(take.get_absolute_url()), "This reading can’t be shown.")

    def test_the_next_drill_is_whole_in_its_address(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-3.0))
        page = self.client.get(take.get_absolute_url())
        choice = page.context["next"].proposed
        self.assertEqual(words_of(validate({**take.drill, "part": {"grid": 4, "play": "grid"}}))["grid"], "4")
        again = self.client.get(choice.url)
        for part in ("tempo", "clicks", "part", "cycles", "count_in", "close"):
            self.assertEqual(again.context["drill"].plain()[part], choice.drill.plain()[part])
        self.assertEqual(Take.objects.count(), 1)


class ReadingTests(TestCase):
    def test_verdict_figures_and_ranges(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-2.5))
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "You dragged in every silence.")
        self.assertContains(page, "136 of 136 notes caught")
        self.assertContains(page, "the same, 96")

    def test_unreadable_silences_say_why(self) -> None:
        take = play(self.client, player=Hand(missed=0.7), seed=3)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "notes caught, and 8 are needed")
        self.assertContains(page, "can’t be told")

    def test_holds_from_4_to_64_cycles_and_1_to_12_beats(self) -> None:
        for beats, cycles, bpm in ((1, 64, 60), (12, 4, 180), (12, 64, 240), (3, 9, 60), (11, 6, 168)):
            with self.subTest(beats=beats, cycles=cycles):
                drill = plain(beats=beats, cycles=cycles, bpm=bpm, silence=fixed(1, 1), grid=1)
                page = self.client.get(play(self.client, drill=drill).get_absolute_url())
                self.assertEqual(page.status_code, 200)
                self.assertNotContains(page, "nan")
                self.assertEqual(page.content.count(b'class="picture '), 3)

    def test_still_arriving(self) -> None:
        take = play(self.client)
        Take.objects.update(ended_how="")
        self.assertContains(self.client.get(take.get_absolute_url()), "still arriving", status_code=409)

    def test_latest(self) -> None:
        self.assertContains(self.client.get(reverse("readings:latest")), "Nothing hung yet")
        take = play(self.client)
        self.assertRedirects(self.client.get(reverse("readings:latest")), take.get_absolute_url())

    def test_note(self) -> None:
        take = play(self.client)
        path = reverse("takes:note", args=[take.pk])
        self.client.post(path, {"note": "<b>calm</b>"})
        self.assertContains(self.client.get(take.get_absolute_url()), "&lt;b&gt;calm&lt;/b&gt;")
        answer = self.client.post(path, {"note": "x" * 2001}, follow=True)
        self.assertContains(answer, "The note was not kept")
        take.refresh_from_db()
        self.assertEqual(take.note, "<b>calm</b>")


class LongTakeTests(TestCase):
    def test_no_page_is_larger_than_a_phone_can_take(self) -> None:
        """The bar: 300 KB, whatever the take; here 100 silences of 6,416 notes, and 400 silences."""
        for drill in (plain(bpm=160, grid=4, cycles=400), plain(bpm=240, grid=2, cycles=800, silence=fixed(1, 1))):
            take = play(self.client, drill=drill)
            for view in ("", "?view=standing"):
                self.assertLess(len(self.client.get(f"{take.get_absolute_url()}{view}").content), 300_000)
