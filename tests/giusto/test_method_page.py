"""The numbers on the method page are those in the code."""

from pathlib import Path
from unittest import TestCase

from giusto.figures.silence import HELD_SHARE, READABLE_PER_BEAT, READABLE_SHARE, SLIP_NEAR
from giusto.notes.chance import JUMPS, UNPAIRED
from giusto.practice.clean import LIMITS
from giusto.schedule.timeline import REACTION_S
from giusto.timekeeper.prior import ALPHA_PRIOR, CLOCK_PRIOR, HAND_PRIOR_MS

PAGE = " ".join((Path(__file__).parents[2] / "docs/method.md").read_text(encoding="utf-8").split())


class MethodPageTests(TestCase):
    def test_each_number_is_the_constant(self) -> None:
        (clock, clock_sd), (hand_ms, hand_sd), (alpha, alpha_sd) = CLOCK_PRIOR, HAND_PRIOR_MS, ALPHA_PRIOR
        self.assertEqual((READABLE_SHARE, SLIP_NEAR), (0.5, 0.25))  # in words on the page
        for phrase in (
            f"(clock {100 * clock:g} %, hand {hand_ms:g} ms, α {alpha:g},",
            f"spreads of {clock_sd:g}, {hand_sd:g} and {alpha_sd:g}",
            f"lies within ±{100 * HELD_SHARE:g} % of a beat",
            "fewer notes caught than half of those asked",
            f"than {READABLE_PER_BEAT:g} a beat",
            "within a quarter of a beat (ours) of a whole number",
            f"make more than {100 * UNPAIRED:g} % between them and the error jumps by more than {JUMPS:g} of a slot",
            f"a spread within {LIMITS.spread_percent:g} % of a slot",
            f"at most {LIMITS.missed_percent:g} % of the notes missed",
            f"{REACTION_S:g} s after the click",
        ):
            with self.subTest(phrase):
                self.assertIn(phrase, PAGE)

    def test_each_module_that_it_names_is_there(self) -> None:
        for name in [word.strip("`,.;()") for word in PAGE.split() if "src/giusto/" in word]:
            self.assertTrue((Path(__file__).parents[2] / name).exists(), name)
