"""The change of a figure over takes: against a general least squares of statsmodels, and over simulated players."""

import json
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import jsonschema
import numpy as np
import statsmodels.api as sm
from scipy.stats import binom, t

from giusto.errors import GiustoError
from giusto.missing import Missing
from giusto.practice import course as module
from giusto.practice.course import Course, course, unsaid
from giusto.practice.dependence import Dependence, Side, dependence
from giusto.practice.figures_csv import parse_figures

SCHEMA = json.loads((Path(__file__).parents[3] / "docs/schema/change-1.json").read_text(encoding="utf-8"))
FIRST = date(2026, 9, 7)


def player(
    rng: np.random.Generator, *, weeks: int, a_week: int, days_sd: float, carry: float, change: float = 0.0
) -> tuple[np.ndarray, np.ndarray, list[date]]:
    """Return a figure over takes that differ by 1 in truth: values, standard errors, days."""
    span = 7 * weeks
    played = np.sort(rng.choice(span, size=min(5, a_week) * weeks, replace=False))
    on = np.sort(rng.choice(played, size=a_week * weeks))
    day = np.empty(span)
    day[0] = rng.normal()
    for k in range(1, span):
        day[k] = carry * day[k - 1] + np.sqrt(1 - carry**2) * rng.normal()
    errors = rng.normal(size=on.size) + 0.7 * rng.normal(size=on.size)
    values = days_sd * day[on] + errors + change * on / span
    return values, np.full(on.size, 0.7), [FIRST + timedelta(days=int(k)) for k in on]


class CourseTests(TestCase):
    def test_takes_and_days_that_differ_are_told_apart(self) -> None:
        """Four takes a day on forty days: days differ by 1.5 and takes by .2, or the other way about."""
        rng = np.random.default_rng(3)
        days = [FIRST + timedelta(days=k // 4) for k in range(160)]
        for takes_sd, days_sd in ((0.2, 1.5), (1.5, 0.2)):
            y = days_sd * np.repeat(rng.normal(size=40), 4) + takes_sd * rng.normal(size=160)
            found = course(y, np.full(160, 0.1), days)
            assert isinstance(found, Course)
            self.assertEqual(found.between_days_sd > found.between_takes_sd, days_sd > takes_sd)
            self.assertEqual((found.takes, found.days), (160, 40))

    def test_many_days_are_gathered_and_say_the_same(self) -> None:
        """A hundred days are gathered two by two: the same change, its range hardly another."""
        rng = np.random.default_rng(4)
        y, days = np.linspace(0, 2, 100) + rng.normal(size=100), [FIRST + timedelta(days=k) for k in range(100)]
        gathered = course(y, np.full(100, 0.5), days)
        with patch.object(module, "MOST_DAYS", 1_000):
            module._remembered.cache_clear()
            each = course(y, np.full(100, 0.5), days)
        assert isinstance(gathered, Course)
        assert isinstance(each, Course)
        self.assertNotEqual(gathered.change, each.change)  # they were
        self.assertAlmostEqual(gathered.change, each.change, delta=0.1)
        width = [one.ci95[1] - one.ci95[0] for one in (gathered, each)]
        self.assertAlmostEqual(width[0] / width[1], 1, delta=0.1)

    def test_few_takes_are_early_until_the_eighth(self) -> None:
        flat = np.array([1.0, -1.0] * 4)
        found = [course(flat[:n], np.full(n, 0.3), [FIRST + timedelta(days=k) for k in range(n)]) for n in (7, 8)]
        self.assertEqual([isinstance(one, Course) and one.is_early for one in found], [True, False])

    def test_with_known_spreads_it_is_general_least_squares(self) -> None:
        """statsmodels' GLS on every take, with the whole covariance of errors, takes and days."""
        rng = np.random.default_rng(1)
        y, sd, days = player(rng, weeks=5, a_week=7, days_sd=0.8, carry=0.6, change=1.0)
        one = {"TAKES": np.array([0.7]), "DAYS": np.array([0.5]), "CARRIES": np.array([0.6]), "LIKELY": np.ones(1)}
        with patch.multiple(module, **one):
            found = course(y, sd, days)
        assert isinstance(found, Course)
        at = np.array([day.toordinal() for day in days])
        x = (at - at[0]) / (at[-1] - at[0])
        apart = np.abs(np.subtract.outer(at, at))
        total = np.diag(sd**2 + found.between_takes_sd**2) + found.between_days_sd**2 * 0.6**apart
        fitted = sm.GLS(y, np.column_stack([1 - x, x]), sigma=total).fit(cov_type="fixed scale")
        np.testing.assert_allclose((found.first, found.latest), fitted.params, atol=2e-3)
        cov = fitted.cov_params()
        half = t.ppf(0.975, len(set(days)) - 2) * np.sqrt(cov[0, 0] + cov[1, 1] - 2 * cov[0, 1])
        np.testing.assert_allclose(found.ci95, (found.change - half, found.change + half), atol=5e-3)

    def test_for_each_spread_and_carry_line_covariance_and_likelihood_of_the_full_matrices(self) -> None:
        """Restricted likelihood of all takes at once, V = diag(v) + ω² φ^|days apart|, by numpy's inverses."""
        rng = np.random.default_rng(4)
        number = np.array([0, 0, 0, 1, 1, 4, 9, 9, 20])
        y, v = rng.normal(50, 5, number.size), rng.uniform(2, 9, number.size)
        x = number / 20
        design, dates, scale = np.column_stack([1 - x, x]), np.unique(number), 4.0
        ends, cov, fits = module._fits(design, y, v, number, dates, scale)
        points = [(omega, phi) for omega in module.DAYS for phi in module.CARRIES]
        expected = []
        for index, (omega, phi) in enumerate(points):
            apart = np.abs(number[:, None] - number)
            whole = np.diag(v) + (scale * omega) ** 2 * np.where(apart == 0, 1.0, phi**apart)
            inverse = np.linalg.inv(whole)
            of = np.linalg.inv(design.T @ inverse @ design)
            line = of @ design.T @ inverse @ y
            np.testing.assert_allclose(ends[index], line, rtol=1e-8)
            np.testing.assert_allclose(cov[index], of, rtol=1e-8)
            off = y - design @ line
            logs = np.linalg.slogdet(whole)[1] + off @ inverse @ off - np.linalg.slogdet(of)[1]
            expected.append(-0.5 * logs)
        np.testing.assert_allclose(fits, expected, rtol=1e-8)

    def test_very_many_days_are_gathered_into_sixty_of_one_width(self) -> None:
        few = np.array([3, 3, 9, 400])
        self.assertIs(module._periods(few), few)
        many = 7 + np.arange(0, 1_200, 10)
        found = module._periods(many)
        self.assertLessEqual(np.unique(found).size, module.MOST_DAYS)
        self.assertEqual(set(np.diff(np.unique(found)).tolist()), {20})  # of 1,191 days a sixtieth, whole
        self.assertEqual((found[0], found[1], found[2]), (0, 0, 20))
        self.assertEqual(np.unique(module._periods(np.arange(61))).tolist(), list(range(0, 61, 2)))  # one too many

    def test_how_far_takes_scatter_about_a_line(self) -> None:
        """Beside the residual spread of ``statsmodels``; their own errors where it is less; never none."""
        rng = np.random.default_rng(2)
        x = np.linspace(0, 1, 12)
        design, y = np.column_stack([1 - x, x]), rng.normal(5, 2, 12)
        fit = sm.OLS(y, design).fit()
        self.assertAlmostEqual(module._scatter(design, y, np.full(12, 0.1)), float(np.sqrt(fit.scale)))
        self.assertEqual(module._scatter(design, y, np.linspace(8, 10, 12)), 9.0)
        three, ends = np.array([0.0, 0.9, 0.0]), np.array([0.0, 0.5, 1.0])
        fit = sm.OLS(three, np.column_stack([1 - ends, ends])).fit()  # of three takes one degree of freedom is left
        found = module._scatter(np.column_stack([1 - ends, ends]), three, np.full(3, 0.1))
        self.assertAlmostEqual(found, float(np.sqrt(fit.scale)))
        self.assertGreater(module._scatter(design, 3 + 2 * x, np.zeros(12)), 0.0)
        self.assertEqual(module._scatter(np.ones((4, 2)), np.zeros(4), np.zeros(4)), 1.0)

    def test_players_who_do_not_change_are_seldom_told_so(self) -> None:
        """Day's spread up to the take's, carry 0 to .9, 5 to 20 takes a week, 4 to 10 weeks: at most 6 of 100."""
        rng, told = np.random.default_rng(2), 0
        for _ in range(100):
            weeks, a_week = int(rng.integers(4, 11)), int(rng.integers(5, 21))
            days_sd, carry = rng.uniform(0, 1), rng.uniform(0, 0.9)
            found = course(*player(rng, weeks=weeks, a_week=a_week, days_sd=days_sd, carry=carry))
            assert isinstance(found, Course)
            told += found.more_than_chance
        self.assertLessEqual(told, 11)  # binomial, 6 %: P(more) is 2 %
        self.assertLess(binom.sf(11, 100, 0.06), 0.02)

    def test_a_change_of_three_days_spreads_over_eight_weeks_is_found(self) -> None:
        rng, told = np.random.default_rng(3), 0
        for _ in range(60):
            a_week, carry = int(rng.integers(5, 21)), rng.uniform(0, 0.9)
            found = course(*player(rng, weeks=8, a_week=a_week, days_sd=1.0, carry=carry, change=3.0))
            told += isinstance(found, Course) and found.more_than_chance
        self.assertGreaterEqual(told, 36)

    def test_figures_of_a_page_share_the_doubt(self) -> None:
        rng = np.random.default_rng(4)
        y, sd, days = player(rng, weeks=6, a_week=6, days_sd=0.3, carry=0.2)
        alone, shared = (course(y, sd, days, figures=figures) for figures in (1, 5))
        assert isinstance(alone, Course)
        assert isinstance(shared, Course)
        width = [one.ci95[1] - one.ci95[0] for one in (alone, shared)]
        free = len(set(days)) - 2
        self.assertAlmostEqual(width[1] / width[0], t.ppf(1 - 0.005, free) / t.ppf(1 - 0.025, free), delta=0.02)

    def test_years_of_days_are_gathered(self) -> None:
        days = [FIRST + timedelta(days=3 * k) for k in range(400)]
        y = np.linspace(0, 4, 400) + np.random.default_rng(5).normal(0, 0.3, 400)
        found = course(y, np.full(400, 0.2), days)
        assert isinstance(found, Course)
        self.assertEqual((found.days, found.takes, found.more_than_chance), (400, 400, True))
        self.assertAlmostEqual(found.change, 4, delta=0.3)

    def test_too_few_or_all_on_one_day_are_no_course(self) -> None:
        days = [FIRST + timedelta(days=k) for k in range(4)]
        few, one_day = course([1, 2, 3], [1, 1, 1], days[:3]), course([1, 2, 3, 4], [1] * 4, [FIRST] * 4)
        self.assertIsInstance(few, Missing)
        assert isinstance(one_day, Missing)
        self.assertEqual(one_day.code, "few-days")

    def test_without_any_scatter_there_is_still_a_range(self) -> None:
        days = [FIRST + timedelta(days=k) for k in range(5)]
        found = course([2.0] * 5, [0.0] * 5, days)
        assert isinstance(found, Course)
        self.assertEqual((found.change, found.more_than_chance), (0.0, False))


class FileTests(TestCase):
    def test_the_schema_says_the_same(self) -> None:
        rng = np.random.default_rng(6)
        found = course(*player(rng, weeks=4, a_week=5, days_sd=0.5, carry=0.5))
        assert isinstance(found, Course)
        jsonschema.validate(found.plain(), SCHEMA)
        missing = course([1.0], [1.0], [FIRST])
        assert isinstance(missing, Missing)
        plain = unsaid(missing, [FIRST])
        jsonschema.validate(plain, SCHEMA)
        self.assertEqual((plain["from"], plain["reason"], plain["takes"]), (None, "few-takes", 1))

    def test_files(self) -> None:
        found = parse_figures("at,value,sd\r\n2026-11-30T18:00:00+01:00,-8.1,0.4\r\n2026-12-01T18:00:00Z,6e0,0\r\n")
        self.assertEqual(found.at[1], datetime(2026, 12, 1, 18, tzinfo=UTC))
        self.assertEqual((found.values.tolist(), found.sds.tolist()), ([-8.1, 6.0], [0.4, 0.0]))
        for text, message in (
            ("at,value\n", "line 1 must be"),
            ("at,value,sd\n2026-11-30T18:00:00Z,1\n", "line 2 has 2 fields, allowed are 3"),
            ("at,value,sd\n2026-11-30,1,1\n", "line 2: at is"),
            ("at,value,sd\n0026-11-30T18:00:00Z,1,1\n", "allowed are 1970 to 2200"),
            ("at,value,sd\n2026-11-30T18:00:00Z,nan,1\n", "line 2: value is"),
            ("at,value,sd\n2026-11-30T18:00:00Z,1,-1\n", "line 2: sd is .* from 0"),
            ("at,value,sd\n2026-11-30T18:00:00Z,1,1\n2026-11-29T18:00:00Z,1,1\n", "line 3: at must ascend"),
        ):
            with self.subTest(text), self.assertRaisesRegex(GiustoError, message):
                parse_figures(text)


class DependenceTests(TestCase):
    def sides(self, ratio: float, *, seed: int = 1, end: float = 1.0) -> list[Side]:
        """Return ten takes on either side; the spread alone goes from ``ratio`` to ``ratio · end`` times the other."""
        rng = np.random.default_rng(seed)
        found = []
        for day in range(10):
            for is_alone in (False, True):
                times = ratio * end ** (day / 9) if is_alone else 1.0
                spread = 3.0 * times * float(np.exp(rng.normal(0, 0.1)))
                found.append(Side(float(day), date(2026, 10, 1 + day), is_alone, spread, 60))
        return found

    def test_who_leans_on_the_click_is_told_by_how_much(self) -> None:
        found = dependence(self.sides(1.6))
        assert isinstance(found, Dependence)
        self.assertTrue(found.more_than_chance)
        self.assertTrue(found.ci95[0] <= 1.6 <= found.ci95[1])
        assert isinstance(found.course, Course)
        self.assertFalse(found.course.more_than_chance)

    def test_who_does_not_is_seldom_told_so(self) -> None:
        told = [dependence(self.sides(1.0, seed=seed)) for seed in range(40)]
        self.assertLessEqual(sum(isinstance(one, Dependence) and one.more_than_chance for one in told), 4)

    def test_takes_alone_that_come_to_stand_like_the_others(self) -> None:
        found = dependence(self.sides(1.8, end=1 / 1.8))
        assert isinstance(found, Dependence)
        assert isinstance(found.course, Course)
        self.assertTrue(found.course.more_than_chance)
        self.assertLess(found.course.change, 0)
        self.assertAlmostEqual(found.course.latest, 0, delta=0.25)

    def test_the_ratio_and_its_range_by_hand(self) -> None:
        """Forty takes a side that agree, each of 1,001 intervals: log SD √(1 / 2,000), and what takes differ by."""
        sides = [
            Side(float(k), FIRST + timedelta(days=k), is_alone, 6.0 if is_alone else 4.0, 1_001)
            for k in range(40)
            for is_alone in (True, False)
        ]
        found = dependence(sides)
        assert isinstance(found, Dependence)
        self.assertEqual((found.ratio, found.with_takes, found.alone_takes), (1.5, 40, 40))
        half = np.log(found.ci95[1] / found.ci95[0]) / 2
        least = 1.96 * np.sqrt(2 / 2_000 / 40)
        self.assertTrue(least * 0.95 < half < 2.5 * least, (half, least))
        few = dependence([replace(side, n=2) for side in sides])
        assert isinstance(few, Dependence)
        self.assertAlmostEqual(np.log(few.ci95[1] / few.ci95[0]) / 2, 1.96 * np.sqrt(2 / 2 / 40), delta=0.05)
        self.assertIsInstance(dependence([replace(side, n=1) for side in sides]), Missing)

    def test_too_few_on_either_side(self) -> None:
        self.assertIsInstance(dependence([side for side in self.sides(1.0) if side.is_alone]), Missing)
