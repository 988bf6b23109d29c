"""The shelf: eight families in practice order, and what each drill must say and be."""

from collections import Counter

from django.test import SimpleTestCase

from giusto.drill.counting import beat_figure_places, beat_figures, counts
from giusto.schedule import schedule
from studio.drills.shelf import FAMILIES, shelf

# The order of work, common practice: each practice up to "no click", and the drill that stands for it.
PRACTICES = {
    "listen": ["listen"],
    "clap, speak, one note, several": ["clap", "speak", "one-note", "one-note-twice"],
    "values double and come back": ["doubling"],
    "one, two, four strokes": ["one-two-four", "one-stroke", "two-strokes", "four-strokes"],
    "quarters, then on two and four": ["quarters-100", "two-and-four", "whole-form"],
    "one only, three, four": ["one-a-cycle", "three-only", "four-only"],
    "every other downbeat": ["every-second", "every-third", "every-fourth"],
    "offbeats": ["offbeats", "last-sixteenth"],
    "shifts": ["shift-eighth", "shift-sixteenth"],
    "thirty": ["slow-30", "thirty-in-four", "thirty-in-eight"],
    "bursts": ["burst-from", "burst-into", "burst-through"],
    "dropped": ["two-heard-two-silent", "growing", "random-beats", "random-cycles"],
    "cycles": ["five", "seven", "eight-4-2-2", "ten", "twelve"],
    "no click": ["start-and-close", "in-turn"],
}


class ShelfTests(SimpleTestCase):
    def test_eight_families_in_practice_order(self) -> None:
        families = [b.family for b in shelf().values()]
        self.assertEqual(list(dict.fromkeys(families)), list(FAMILIES))
        self.assertEqual(families, sorted(families, key=list(FAMILIES).index))
        self.assertGreaterEqual(len(families), 45)
        self.assertGreaterEqual(min(Counter(families).values()), 3)

    def test_every_practice_has_its_drills(self) -> None:
        for practice, slugs in PRACTICES.items():
            for slug in slugs:
                with self.subTest(practice):
                    self.assertIn(slug, shelf())

    def test_every_guide_says_all_of_it_in_its_own_words(self) -> None:
        for slug, built_in in shelf().items():
            guide = built_in.guide
            with self.subTest(slug):
                for text in (guide.trains, guide.away, guide.on_it, guide.done, guide.not_for):
                    self.assertRegex(text, r"^[A-Z“].{9,}[.?”]$")
                for way in (guide.easier, guide.harder):
                    self.assertTrue(way.say)
                    self.assertTrue(way.drill is None or (way.drill in shelf() and way.drill != slug))
        trained = Counter(b.guide.trains for b in shelf().values())
        self.assertEqual([text for text, times in trained.items() if times > 1], [])
        names = Counter(b.name for b in shelf().values())
        self.assertEqual([name for name, times in names.items() if times > 1], [])

    def test_the_fifteen_figures_are_those_of_the_core_and_spoken_as_named(self) -> None:
        found = []
        for built_in in shelf().values():
            if built_in.slug.startswith("figure-"):
                beat = counts(built_in.drill)[:4]
                self.assertEqual(built_in.name, " ".join(c.text if c.is_played else "·" for c in beat))
                found.append(list(built_in.drill.part.play))
        self.assertEqual(found, [beat_figure_places(figure, beats=4) for figure in beat_figures()])

    def test_slow_pulses_are_twenty_to_fifty(self) -> None:
        """Common practice. The body's clicks, counted a minute."""
        for built_in in shelf().values():
            if built_in.family == "slow":
                plan = schedule(built_in.drill)
                body = plan.clicks.where(plan.clicks.cycle == 2)
                a_minute = 60 * len(body) / float(plan.seconds(plan.cycle_ticks))
                self.assertTrue(20 <= a_minute <= 50, (built_in.slug, a_minute))

    def test_bursts_start_on_end_on_and_pass_through_a_click(self) -> None:
        for slug, which in (("burst-from", 0), ("burst-into", 4), ("burst-through", 2)):
            drill = shelf()[slug].drill
            on_click = [index for index, place in enumerate(drill.part.play) if place in drill.clicks.on]
            self.assertIn(which, on_click)
            self.assertEqual(len(drill.part.play), 5)

    def test_values_double_and_come_back(self) -> None:
        """Common practice: whole, half, quarter, eighth, four cycles each, then down again."""
        drill = shelf()["doubling"].drill
        self.assertEqual([(s.cycles, len(s.at)) for s in drill.part.play], [(4, n) for n in (1, 2, 4, 8, 4, 2, 1)])

    def test_both_schools_of_accent_and_of_subdivision(self) -> None:
        clicks = [b.drill.clicks for b in shelf().values()]
        self.assertEqual({c.accent for c in clicks}, {"none", "first", "groups"})
        self.assertGreater(len({c.subdivide for c in clicks}), 1)

    def test_no_click_is_a_start_and_a_close(self) -> None:
        plan = schedule(shelf()["start-and-close"].drill)
        (silence,) = plan.silences
        cycle = plan.cycle_ticks
        self.assertEqual((silence.start_tick // cycle, silence.end_tick // cycle), (1, 17))
