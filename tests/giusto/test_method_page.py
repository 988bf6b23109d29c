"""The numbers on the method page are those in the code."""

from pathlib import Path
from unittest import TestCase

from giusto.figures.beat_leans import SPREAD_MS
from giusto.figures.silence import READABLE_PER_BEAT, READABLE_SHARE, SLIP_NEAR, WIDER
from giusto.figures.tendency import FEWEST_EARLIER, TAKES_WIDER, WANDER_ALIKE, WANDER_PERCENT
from giusto.notes.chance import JUMPS, UNPAIRED
from giusto.practice.ceiling.probe import LEAST_NOTES, MOST_NOTES, WITH_IT
from giusto.practice.ceiling.working import WEEKLY_BPM, WORKING_SHARE
from giusto.practice.clean import FAR_INSIDE, LIMITS
from giusto.practice.reach.by_drift import SURE_WITHIN
from giusto.returns.drift import HALF_LIFE_DAYS, HELD_SHARE
from giusto.schedule.timeline import REACTION_S
from giusto.timekeeper.prior import ALPHA_PRIOR, CLOCK_PRIOR, HAND_PRIOR_MS

PAGE = " ".join((Path(__file__).parents[2] / "docs/method.md").read_text(encoding="utf-8").split())


class MethodPageTests(TestCase):
    def test_each_number_is_the_constant(self) -> None:
        (clock, clock_sd), (hand_ms, hand_sd), (alpha, alpha_sd) = CLOCK_PRIOR, HAND_PRIOR_MS, ALPHA_PRIOR
        in_words = (READABLE_SHARE, SLIP_NEAR, FAR_INSIDE, WORKING_SHARE, WEEKLY_BPM, FEWEST_EARLIER, SURE_WITHIN)
        self.assertEqual(in_words, (0.5, 0.25, 0.5, 0.8, 5, 10, 1.25))
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
            f"{WIDER:g} times as wide (ours, by `./giusto bench`: what the sizes",
            f"{WANDER_PERCENT:g} % (ours) that all silences",
            f"{WANDER_ALIKE:g} (ours, by `./giusto bench`)",
            f"times {TAKES_WIDER:g}, ours",
            f"{TAKES_WIDER:g} times as wide as the mixture's",
            f"an older one counting half for each {HALF_LIFE_DAYS:g} days",
            f"{100 * LEAST_NOTES:g} to {100 * MOST_NOTES:g} % of the asked notes",
            f"is at least {WITH_IT:g}, a spread of a sixth",
            f"pooled with random effects of scale {SPREAD_MS:g} ms",
        ):
            with self.subTest(phrase):
                self.assertIn(phrase, PAGE)

    def test_each_module_that_it_names_is_there(self) -> None:
        for name in [word.strip("`,.;()") for word in PAGE.split() if "src/giusto/" in word]:
            self.assertTrue((Path(__file__).parents[2] / name).exists(), name)
