"""The counting voice: which word falls on each click that sounds, and how it sounds.

The words are files beside this module, each with its onset ``LEAD_S`` after its beginning (how they were made:
``words/README.txt``).
"""

from __future__ import annotations

from fractions import Fraction
from math import lcm
from pathlib import Path

import numpy as np
import scipy
import soundfile

from giusto.click.voice import RATES_HZ, Samples
from giusto.drill.counting import SYLLABLES, syllables
from giusto.errors import GiustoError
from giusto.schedule import Schedule

FOLDER = Path(__file__).parent / "words"
LEAD_S, AFTER_S = 0.130, 0.250  # of each file: before a word's onset and from it on
NUMBERS = (
    *("one", "two", "three", "four", "five", "six"),
    *("seven", "eight", "nine", "ten", "eleven", "twelve"),
)
WORDS = (*NUMBERS, *dict.fromkeys(word for school in SYLLABLES.values() for some in school.values() for word in some))


def file_of(word: str) -> Path:
    """Return where the sound of a word is."""
    return FOLDER / f"{word}.flac"


def said(plan: Schedule, *, school: str = "syllables") -> tuple[str, ...]:
    """Return the word that is said on each click: the beat's number, or what counts its part; "" for none.

    Parameters
    ----------
    plan : Schedule
    school : str
        How the parts of a beat are counted (``giusto.drill.counting``).

    Returns
    -------
    tuple of str
        One for each of ``plan.clicks``. Beats beyond the twelfth, and parts that no word counts, have none.
    """
    beats = [Fraction(tick, plan.ticks_per_beat) for tick in plan.clicks.offset.tolist()]  # as written, swung or not
    grid = lcm(*(beat.denominator for beat in beats))
    return tuple(_word(beat, grid, school) for beat in beats)


def _word(beat: Fraction, grid: int, school: str) -> str:
    slot = int(beat % 1 * grid)
    word = syllables(grid, school=school)[slot - 1] if slot else str(int(beat) + 1)
    if word.isdecimal():
        return NUMBERS[int(word) - 1] if int(word) <= len(NUMBERS) else ""
    return word


def word_samples(word: str, *, rate_hz: int) -> Samples:
    """Return how a word sounds.

    Parameters
    ----------
    word : str
        One of ``WORDS``.
    rate_hz : {44100, 48000}

    Returns
    -------
    array of float32, shape (n,)
        Between −1 and 1; its onset is ``LEAD_S`` after its first sample.

    Raises
    ------
    GiustoError
        ``word`` or ``rate``.
    """
    if word not in WORDS:
        raise GiustoError(f'word is "{word}", allowed are {", ".join(WORDS)}', code="word")
    if rate_hz not in RATES_HZ:
        raise GiustoError(f"rate_hz is {rate_hz}, allowed are {RATES_HZ[0]} and {RATES_HZ[1]}", code="rate")
    samples, rate = soundfile.read(file_of(word), dtype="float32")
    ratio = Fraction(rate_hz, rate)
    found: Samples = scipy.signal.resample_poly(samples, ratio.numerator, ratio.denominator).astype(np.float32)
    return np.clip(found, -1.0, 1.0)
