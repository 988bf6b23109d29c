"""The verdict: the one sentence of its code, and never more than the outcomes say."""

from dataclasses import replace
from unittest import TestCase

from giusto.drill import validate
from giusto.practice.finding import Finding
from giusto.practice.judge import Judgement, judge
from giusto.practice.verdict import Verdict
from giusto.reading import Reading, analyse
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.readings.words import sentence, verdict_words
from tests.drills import planned
from tests.giusto.takes import taken
from tests.studio.readings.test_free import free


def said(code: str, silences: int, of: int, *, total: int = 4, found: str = "", **figures: object) -> str:
    """Return the words of a verdict on a take of so many silences."""
    reading = taken(SimulatedPlayer(bias_percent=-1.0))
    reading = replace(reading, silences=[replace(reading.silences[0], **figures)] * total)
    judgement = judge(planned(), reading)
    findings = (Finding(found, 1, None, 3, where="1"),) if found else ()  # type: ignore[arg-type]
    verdict = Verdict(code, silences, of)  # type: ignore[arg-type]
    return verdict_words(replace(judgement, verdict=verdict, findings=findings), reading)


class VerdictTests(TestCase):
    def test_sentences(self) -> None:
        cases = (
            (("too-few", 0, 2), {}, "Too few notes to read."),
            (("not-this-drill", 0, 2), {}, "This was not the drill."),
            (("own-tempo", 0, 2), {}, "You kept a tempo of your own."),
            (("beat-off", 0, 2), {}, "You began elsewhere in the bar."),
            (("too-few", 0, 2), {"found": "stopped-alone"}, "You fell silent when the click did."),
            (("too-few", 0, 2), {"found": "stopped-in-silence"}, "You stopped in the first silence."),
            (("held", 1, 1), {"total": 1}, "You held the silence."),
            (("held", 2, 2), {"total": 2}, "You held both silences."),
            (("held", 4, 4), {}, "You held all four silences."),
            (("held", 3, 4), {}, "You held three silences of four."),
            (("dragged", 4, 4), {"outcome": "late"}, "You dragged in every silence."),
            (("rushed", 3, 3), {"total": 3, "outcome": "early"}, "You rushed in every silence."),
            (("dragged", 3, 4), {"outcome": "late"}, "You dragged in three silences of four."),
            (("dragged", 1, 1), {"total": 2, "outcome": "late"}, "You dragged in the one silence that can be read."),
            (("rushed", 4, 4), {"outcome": "edge"}, "You rushed a little, again and again."),
            (("dragged", 1, 1), {"total": 1, "outcome": "edge"}, "You dragged a little, in the silence."),
            (("jumped", 4, 4), {}, "You came in late at once, and kept the tempo."),
            (
                ("edge", 3, 3),
                {"return_ms": 4.0, "return_ci95_ms": (-6.0, 14.0)},
                "Held, so far as your notes can tell.",
            ),
            (
                ("edge", 3, 3),
                {"return_ms": 45.0, "return_ci95_ms": (5.0, 85.0)},
                "Your notes can’t tell if you held it.",
            ),
            (("slipped", 1, 1), {"total": 1, "slip_beats": -1}, "You lost a beat."),
            (("slipped", 1, 1), {"total": 1, "slip_beats": 3}, "You gained three beats."),
        )
        for verdict, changes, words in cases:
            with self.subTest(words):
                self.assertEqual(said(*verdict, **changes), words)


class KindTests(TestCase):
    """Each kind of take has its verdict: what its figures are, in a sentence, from a take that was played so."""

    def words(self, player: SimulatedPlayer, *, beats_away: float = 0.0, **changes: object) -> str:
        plan = planned(**changes)
        onsets = simulate(plan, player, seed=3).onsets_s
        reading = analyse(plan, onsets * (1 + beats_away)).reading
        return verdict_words(judge(plan, reading), reading)

    def test_the_click_throughout(self) -> None:
        even = SimulatedPlayer(clock_percent=0.5, hand_ms=4.0)
        for place_ms, opening in (
            (-60.0, "Early, and even."),
            (-20.0, "A little early, and even."),
            (45.0, "Late, and even."),
            (0.0, "Together with the click."),
        ):
            said_ = self.words(replace(even, place_ms=place_ms), silence=None, cycles=12)
            self.assertEqual(opening, said_)
        loose = self.words(SimulatedPlayer(hand_ms=60.0), silence=None, cycles=12)
        self.assertIn("Wide about the click", loose)

    def test_without_a_click(self) -> None:
        """The tempo of the start and of the end, and nothing of returns."""
        plan = schedule(validate(free()))
        reading = analyse(plan, simulate(plan, SimulatedPlayer(clock_percent=0.5), seed=3).onsets_s).reading
        said_ = verdict_words(judge(plan, reading), reading)
        self.assertRegex(said_, r"You held 9[56]\.\d\.")

    def test_a_tempo_of_ones_own(self) -> None:
        """A steady 92.8 where the click went 96, all through: hands that are even to 3 ms are not told to be loose."""
        own = SimulatedPlayer(clock_percent=0.3, hand_ms=3.0, alpha=0.0)
        for changes in ({}, {"silence": None, "cycles": 16}):
            self.assertEqual(self.words(own, beats_away=96 / 92.8 - 1, **changes), "You kept a tempo of your own.")
        self.assertNotIn("own", self.words(SimulatedPlayer(bias_percent=3.0)))


class LeadTests(TestCase):
    def lead(self, player: SimulatedPlayer) -> tuple[Reading, Judgement, str]:
        reading = taken(player)
        judgement = judge(planned(), reading)
        return reading, judgement, "".join(text for text, _ in sentence(judgement, reading, planned().drill).lead)

    def test_one_tempo_with_its_range(self) -> None:
        _, judgement, text = self.lead(SimulatedPlayer(bias_percent=-3.0))
        assert judgement.tempo
        low, high = judgement.tempo.ci95_bpm
        self.assertIn(f"96 became {judgement.tempo.bpm:.1f}, give or take {(high - low) / 2:.1f}", text)
        self.assertTrue(text.startswith("In 2 bars alone (8 beats, 5\u00a0s) "), text)

    def test_returns_of_one_side_share_their_word(self) -> None:
        reading, _, text = self.lead(SimulatedPlayer(bias_percent=-3.0))
        sizes = sorted(round(abs(silence.return_ms or 0)) for silence in reading.silences)
        self.assertIn(f"you came back {sizes[0]} to {sizes[-1]}\u00a0ms late", text)
