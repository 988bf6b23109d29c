"""The verdict: the one sentence of its code, and never more than the outcomes say."""

from dataclasses import replace
from unittest import TestCase

from giusto.practice.finding import Finding
from giusto.practice.judge import Judgement, judge
from giusto.practice.verdict import Verdict
from giusto.reading import Reading
from giusto.simulation.player import SimulatedPlayer
from studio.readings.words import sentence, verdict_words
from tests.drills import planned
from tests.giusto.takes import taken


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
            (("no-silence", 0, 0), {}, "With the click throughout: no silence to read."),
            (("too-few", 0, 2), {}, "Too few notes to read."),
            (("too-few", 0, 2), {"found": "not-this-drill"}, "This was not the drill."),
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
            (("edge", 3, 3), {}, "Too close to call: at the 5\u00a0% line."),
            (("slipped", 1, 1), {"total": 1, "slip_beats": -1}, "You lost a beat."),
            (("slipped", 1, 1), {"total": 1, "slip_beats": 3}, "You gained three beats."),
        )
        for verdict, changes, words in cases:
            with self.subTest(words):
                self.assertEqual(said(*verdict, **changes), words)


class LeadTests(TestCase):
    def lead(self, player: SimulatedPlayer) -> tuple[Reading, Judgement, str]:
        reading = taken(player)
        judgement = judge(planned(), reading)
        return reading, judgement, "".join(text for text, _ in sentence(judgement, reading).lead)

    def test_one_tempo_with_its_range(self) -> None:
        _, judgement, text = self.lead(SimulatedPlayer(bias_percent=-3.0))
        assert judgement.tempo
        low, high = judgement.tempo.ci95_bpm
        self.assertIn(f"96 became {judgement.tempo.bpm:.1f} ({low:.1f} to {high:.1f})", text)

    def test_returns_of_one_side_share_their_word(self) -> None:
        reading, _, text = self.lead(SimulatedPlayer(bias_percent=-3.0))
        sizes = [f"{abs(silence.return_ms or 0):.0f}" for silence in reading.silences]
        self.assertIn(f"{', '.join(sizes[:-1])} and {sizes[-1]}\u00a0ms late", text)
