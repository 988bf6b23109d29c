"""Where a climbing click and notes part: hands that can go so fast and no faster, whose limit is known."""

from unittest import TestCase

import numpy as np

from giusto.drill import validate
from giusto.practice.ceiling import Ceiling, ceiling, is_probe
from giusto.schedule import Schedule, schedule
from tests.drills import plain


def probe(**changes) -> Schedule:  # type: ignore[no-untyped-def]
    """Return sixteenths from 80, four faster every cycle, up to 200."""
    drill = plain(silence=None, bpm=80, grid=4, cycles=31, **changes)
    drill["giusto"] = "drill/2"
    drill["tempo"]["steps"] = {"every_cycles": 1, "by": 4, "to": 200}
    return schedule(validate(drill))


def hands(plan: Schedule, limit_bpm: float, *, seed: int = 1, place_s: float = -0.02) -> np.ndarray:
    """Return notes on their places as long as the hands can, then as fast as they can and ever later."""
    rng = np.random.default_rng(seed)
    asked = plan.seconds(plan.notes.tick)
    least_s = 60 / limit_bpm / plan.drill.part.grid
    played = [asked[0]]
    for at in asked[1:]:
        played.append(max(at, played[-1] + least_s * (1 + rng.normal(0, 0.01))))
    return np.sort(np.array(played) + place_s + rng.normal(0, 0.005, len(played)))


class CeilingTests(TestCase):
    def test_the_limit_is_found(self) -> None:
        plan, covered = probe(), []
        for seed in range(10):
            limit_bpm = 110.0 + 6 * seed
            found = ceiling(plan, hands(plan, limit_bpm, seed=seed))
            assert isinstance(found, Ceiling)
            assert found.bpm
            assert found.kept_bpm
            covered.append(found.ci95_bpm[0] <= limit_bpm + 8 and limit_bpm - 4 <= found.ci95_bpm[1])
            self.assertAlmostEqual(found.bpm, limit_bpm + 2, delta=9)  # a note or two late is still with it
            self.assertTrue(limit_bpm - 4 <= found.kept_bpm <= limit_bpm + 10)
        self.assertEqual(np.mean(covered), 1)

    def test_all_kept_says_at_least_and_none_kept_at_most(self) -> None:
        plan = probe()
        found = ceiling(plan, hands(plan, 400))
        assert isinstance(found, Ceiling)
        self.assertEqual((found.reason, found.bpm, found.kept_bpm), ("all-kept", None, 200))
        self.assertGreater(found.ci95_bpm[0], 185)
        rng = np.random.default_rng(1)
        nothing = ceiling(plan, np.sort(rng.uniform(3, 60, 300)))
        assert isinstance(nothing, Ceiling)
        self.assertEqual((nothing.reason, nothing.kept_bpm), ("none-kept", None))
        self.assertLess(nothing.ci95_bpm[1], 100)

    def test_what_was_not_played_any_more_does_not_count(self) -> None:
        plan = probe()
        onsets = hands(plan, 400)
        stopped = onsets[: onsets.size // 2]
        found = ceiling(plan, stopped)
        assert isinstance(found, Ceiling)
        self.assertEqual(found.reason, "all-kept")
        self.assertLess(found.cycles, 18)

    def test_a_constant_delay_changes_nothing(self) -> None:
        plan = probe()
        here, late = (ceiling(plan, hands(plan, 140, place_s=place)) for place in (-0.02, 0.03))
        assert isinstance(here, Ceiling)
        assert isinstance(late, Ceiling)
        self.assertAlmostEqual(here.bpm or 0, late.bpm or 0, delta=4)

    def test_too_little_is_said(self) -> None:
        plan = probe()
        self.assertEqual(getattr(ceiling(plan, []), "code", ""), "few-climbed")
        self.assertEqual(getattr(ceiling(plan, hands(plan, 140)[:40]), "code", ""), "few-climbed")

    def test_which_drills_are_probes(self) -> None:
        self.assertTrue(is_probe(probe().drill))
        self.assertFalse(is_probe(validate(plain(silence=None))))
        slower = plain(silence=None, bpm=120) | {"giusto": "drill/2"}
        slower["tempo"]["steps"] = {"every_cycles": 1, "by": -4, "to": 60}
        self.assertFalse(is_probe(validate(slower)))
