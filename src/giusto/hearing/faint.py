"""A click too faint to be timed one by one: many of them laid over one another, where their times are known."""

from __future__ import annotations

import numpy as np
import scipy

from giusto.arrays import FloatArray, IntArray
from giusto.click.voice import AnyVoice
from giusto.hearing.find_click import Click
from giusto.hearing.recorder_clock import FEWEST_CLICKS, ClockLine
from giusto.hearing.sound import Sound
from giusto.ranges import Range

MOST_CLICKS = 80  # ours: one after the other, so that a clock that runs apart does not smear them
CHANCE = 1e-6  # ours: of a lag without a click; some thousand lags are independent
NEARLY = 0.05  # ours: of the clicks, by which the best lag may fall short of the most alike one
AS_GOOD, APART_S = 0.8, 0.05  # ours: of the best; a beat later nearly every click has a follower
SURE_S = 1e-3  # ours: half the range of a place found so; the next swing of the pitch is nearly as likely


def find_faint(sound: Sound, clicks_s: FloatArray, *, voice: AnyVoice, zero_s: Range) -> ClockLine | None:
    """Return where faint clicks lie in a recording whose clock is that of the click; None where they do not stand out.

    Parameters
    ----------
    sound : Sound
    clicks_s : array of float, ascending
        Drill time of each click.
    voice : str or OwnSound
        Of the clicks.
    zero_s : (float, float)
        Between which times of the recording the drill's time zero lies.

    Notes
    -----
    At every lag, how many of the clicks' places have something of the click's own sign: a sign test. Notes, however
    loud, fall now here, now there, and have either sign by halves; the click is at the same lag each time. Of the lags
    that pass, that counts at which the most is alike, by the median over the clicks.
    """
    rate = sound.rate_hz
    inside = clicks_s[(clicks_s + zero_s[0] > 0) & (clicks_s + zero_s[1] < sound.frames / rate)][:MOST_CLICKS]
    if inside.size < 2 * FEWEST_CLICKS:
        return None
    click = Click.of(voice, rate)
    size = round((zero_s[1] - zero_s[0]) * rate)
    starts = np.round((inside + zero_s[0]) * rate).astype(np.int64).tolist()
    match = np.array([click.at(sound, start, start + size)[0] for start in starts])
    same_sign = np.count_nonzero(match > 0, axis=0)
    most = int(same_sign.max())
    if scipy.stats.binom.sf(most - 1, inside.size, 0.5) > CHANCE:
        return None
    lags = np.flatnonzero(same_sign >= most - NEARLY * inside.size)
    best = _first_of_the_best(lags, np.median(match[:, lags], axis=0), round(APART_S * rate))
    at_s = zero_s[0] + int(lags[best]) / rate
    return ClockLine(at_s, (at_s - SURE_S, at_s + SURE_S), None, None, "bleed", round(most / inside.size, 3))


def _first_of_the_best(lags: IntArray, alike: FloatArray, apart: int) -> int:
    """Return which lag is the most alike; an earlier one that is nearly so comes first."""
    best = int(np.argmax(alike))
    earlier = np.flatnonzero((lags < lags[best] - apart) & (alike >= AS_GOOD * alike[best]))
    return int(earlier[np.argmax(alike[earlier])]) if earlier.size else best
