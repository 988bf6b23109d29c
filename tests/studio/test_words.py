"""The verdict: the first sentence that fits, and never more than the outcomes say."""

from unittest import TestCase

from studio.readings.words import _returns, verdict


def outcomes(*names: str) -> list[dict[str, str]]:
    """Return silences with these outcomes."""
    return [{"outcome": name} for name in names]


class VerdictTests(TestCase):
    def test_sentences(self) -> None:
        cases = (
            ((), "With the click throughout: no silence to read."),
            (("unreadable", "unreadable"), "Too few notes to read."),
            (("held",), "You held the silence."),
            (("held",) * 2, "You held both silences."),
            (("held",) * 4, "You held all four silences."),
            (("late",) * 4, "You dragged in every silence."),
            (("early",) * 3, "You rushed in every silence."),
            (("late", "late", "held", "late"), "You dragged in three silences of four."),
            (("held", "held", "held", "late"), "You held three silences of four."),
            (("early", "late", "early", "late"), "Early twice, late twice: uneven, not slow."),
            (("edge",) * 3, "Too close to call: at the 5\u00a0% line."),
            (("held", "edge"), "Held once and on the edge once."),
            (("late", "unreadable"), "You dragged in the one silence that can be read."),
        )
        for names, sentence in cases:
            with self.subTest(names):
                self.assertEqual(verdict(outcomes(*names), matched=100), sentence)

    def test_returns_of_one_side_share_their_word(self) -> None:
        late = [{"outcome": "late", "return_ms": ms} for ms in (44.2, 71.0, 49.4)]
        self.assertEqual(_returns(late), [("44, 71 and 49\u00a0ms late", "late")])
        mixed = [*late[:1], {"outcome": "early", "return_ms": -40.0}]
        self.assertEqual([text for text, _ in _returns(mixed)], ["44\u00a0ms late", " and ", "40\u00a0ms early"])

    def test_nothing_measured(self) -> None:
        self.assertEqual(verdict(outcomes("held"), matched=3), "Too few notes to read.")
