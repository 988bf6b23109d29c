"""Two takes side by side: what differs, and whether by more than chance."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log, sqrt

from giusto.reading import Reading
from giusto.silence import Range

INDEPENDENT_SHARE = 1 / 3  # ours: of the notes with a click, as many as independent ones would say the same


@dataclass(frozen=True, slots=True)
class Difference:
    """One figure before and after.

    Attributes
    ----------
    figure : str
        ``tempo`` (percent, faster positive), ``place`` (ms, late positive), ``spread``, ``clock``,
        ``hand`` (ms) or ``correction`` (a share).
    before, after : float
    change : float
        After less before; for the three sizes after over before.
    ci95 : (float, float)
        Of the change.
    more_than_chance : bool
        Whether that range leaves no change out.
    """

    figure: str
    before: float
    after: float
    change: float
    ci95: Range
    more_than_chance: bool


def compare(before: Reading, after: Reading) -> list[Difference]:
    """Return the figures that both takes give.

    Notes
    -----
    Differences of independent estimates: half ranges add in squares; sizes are compared by their
    logarithms. The spread's range is 1/√(2(n − 1)) of its logarithm, n a third of the heard notes, since
    neighbours are alike.
    """
    found: list[Difference] = []
    if before.tendency and after.tendency:
        e, f = before.tendency, after.tendency
        found.append(_apart("tempo", e.tempo_percent, e.ci95_percent, f.tempo_percent, f.ci95_percent))
    one, other = before.heard, after.heard
    if one.mean_error_ms is not None and one.ci95_ms and other.mean_error_ms is not None and other.ci95_ms:
        found.append(_apart("place", one.mean_error_ms, one.ci95_ms, other.mean_error_ms, other.ci95_ms))
    if one.sd_ms and other.sd_ms:
        ranges = [_sd_range(heard.sd_ms or 0.0, heard.n * INDEPENDENT_SHARE) for heard in (one, other)]
        found.append(_ratio("spread", one.sd_ms, ranges[0], other.sd_ms, ranges[1]))
    if before.variability and after.variability:
        a, b = before.variability, after.variability
        found.append(_ratio("clock", a.clock_sd_ms, a.clock_ci95_ms, b.clock_sd_ms, b.clock_ci95_ms))
        found.append(_ratio("hand", a.motor_sd_ms, a.motor_ci95_ms, b.motor_sd_ms, b.motor_ci95_ms))
    if before.correction and after.correction:
        c, d = before.correction, after.correction
        found.append(_apart("correction", c.alpha, c.ci95, d.alpha, d.ci95))
    return found


def _apart(figure: str, before: float, before_ci: Range, after: float, after_ci: Range) -> Difference:
    change = after - before
    # The lower end of a difference comes of the lower end after and the upper one before.
    low = change - sqrt((after - after_ci[0]) ** 2 + (before_ci[1] - before) ** 2)
    high = change + sqrt((after_ci[1] - after) ** 2 + (before - before_ci[0]) ** 2)
    return Difference(figure, before, after, round(change, 3), (round(low, 3), round(high, 3)), low > 0 or high < 0)


def _ratio(figure: str, before: float, before_ci: Range, after: float, after_ci: Range) -> Difference:
    logs = [log(max(value, 1e-6)) for value in (before, *before_ci, after, *after_ci)]
    found = _apart(figure, logs[0], (logs[1], logs[2]), logs[3], (logs[4], logs[5]))
    ci95 = (round(exp(found.ci95[0]), 3), round(exp(found.ci95[1]), 3))
    return Difference(figure, before, after, round(exp(found.change), 3), ci95, found.more_than_chance)


def _sd_range(sd: float, n: float) -> Range:
    half = 1.96 / sqrt(2 * max(n - 1, 1))
    return sd * exp(-half), sd * exp(half)
