"""Which beats of a drill's body have their clicks, and which are silent."""

from __future__ import annotations

from itertools import chain, count, islice, repeat
from random import Random

import numpy as np

from giusto.arrays import BoolArray
from giusto.drill import Drill
from giusto.drill.file import FixedSilence, GrowingSilence, RandomSilence


def sounding_beats(drill: Drill) -> BoolArray:
    """Return which beats sound.

    Parameters
    ----------
    drill : Drill

    Returns
    -------
    array of bool, shape (drill.cycles, drill.cycle.beats)
        A click that falls in a beat sounds where this is true.

    Notes
    -----
    ``every`` and ``silence`` may stand together: a beat sounds where both let it.
    """
    shape = (drill.cycles, drill.cycle.beats)
    every = np.arange(drill.cycles) % drill.clicks.every == 0
    silence = drill.clicks.silence
    if isinstance(silence, RandomSilence) and silence.unit == "beat":
        first = np.ones(drill.cycle.beats, dtype=bool)
        rest = _by_chance(silence, drill.cycles * drill.cycle.beats - drill.cycle.beats)
        drawn: BoolArray = np.concatenate([first, rest]).reshape(shape) & every[:, None]
        return drawn
    return np.repeat((_cycles(drill) & every)[:, None], drill.cycle.beats, axis=1)


def _cycles(drill: Drill) -> BoolArray:
    silence, cycles = drill.clicks.silence, drill.cycles
    if isinstance(silence, FixedSilence):
        fixed: BoolArray = np.arange(cycles) % (silence.heard + silence.silent) < silence.heard
        return fixed
    if isinstance(silence, GrowingSilence):
        lengths = (min(silence.silent + k * silence.step, silence.max) for k in count())
        turns = ([True] * silence.heard + [False] * length for length in lengths)
        return np.fromiter(islice(chain.from_iterable(turns), cycles), dtype=bool, count=cycles)
    if isinstance(silence, RandomSilence):
        return np.concatenate([[True], _by_chance(silence, cycles - 1)])
    return np.fromiter(repeat(True, cycles), dtype=bool, count=cycles)


def _by_chance(silence: RandomSilence, units: int) -> BoolArray:
    """Draw one number a unit; below the probability it is silent, unless too many were in a row.

    Python promises the same ``Random(seed).random()`` on every machine and in every version.
    """
    draw = Random(silence.seed).random  # noqa: S311 - no secret is made
    sounds, run = np.ones(units, dtype=bool), 0
    for unit in range(units):
        run = run + 1 if draw() < silence.probability and run < silence.longest else 0
        sounds[unit] = run == 0
    return sounds
