"""The verdict: the first sentence that fits, and never more than the outcomes say."""

from unittest import TestCase

from studio.takes.words import verdict


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

    def test_nothing_measured(self) -> None:
        self.assertEqual(verdict(outcomes("held"), matched=3), "Too few notes to read.")
