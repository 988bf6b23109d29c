"""The delay of it all: from a click sent to the loudspeaker until it is back from the microphone, or tapped."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.arrays import FloatArray
from giusto.click.voice import AnyVoice
from giusto.errors import GiustoError
from giusto.hearing.find_click import Look, placed
from giusto.hearing.recorder_clock import LEAST_SD_S
from giusto.hearing.sound import Sound
from giusto.notes.checks import checked_onsets
from giusto.ranges import Z95, Range, student

CLICKS, MEAN_APART_S = 20, 0.5  # ours: ten seconds
MOST_S = 0.75  # ours: radio headphones and loudspeakers come to some 0.3 s
FEWEST_HEARD = 8  # ours, of the clicks
FEWEST_TAPS = 12  # ours
EARLIEST_TAP_S, LATEST_TAP_S = -0.15, 0.42  # ours: habit is early by tens of ms, devices late by hundreds
OFF_TAP_S, WITH_CLICK = 0.1, 0.75  # ours: farther from its click a tap belongs to none; so many of them must to one
MOST_TAP_SD_S = 0.06  # ours: wider taps follow no click
MOVED_MS = 3.0  # by the issue: a delay that has moved by more is worth a word
FAR_MS = 120.0  # ours: wires and a room take less; what is wireless takes 150 and more (common practice)
SYSTEMATIC_S = 1e-5  # ours: half a sample, which the shape of a click in a room leaves open


@dataclass(frozen=True, slots=True)
class Delay:
    """A delay with its range.

    Attributes
    ----------
    delay_s : float
        Late is positive.
    ci95_s : (float, float)
    n : int
        Clicks or taps behind it.
    """

    delay_s: float
    ci95_s: Range
    n: int


def calibration_clicks() -> FloatArray:
    """Return when the clicks of a calibration sound: unevenly, so that none can be taken for its neighbour.

    Examples
    --------
    >>> clicks_s = calibration_clicks()
    >>> clicks_s.size, float(clicks_s[0]), bool(9.0 < clicks_s[-1] < 11.0)
    (20, 0.0, True)
    """
    steps_s = MEAN_APART_S * (0.72 + 0.56 * np.modf(np.arange(1, CLICKS) * 0.618034)[0])
    return np.round(np.concatenate([[0.0], np.cumsum(steps_s)]), 4)


def round_trip(sound: Sound, sent_s: FloatArray, *, voice: AnyVoice) -> Delay:
    """Return the delay from loudspeaker to microphone, output and input of the machine included.

    Parameters
    ----------
    sound : Sound
        What the microphone heard.
    sent_s : array of float, ascending
        When each click was sent, in seconds of the recording.
    voice : str or OwnSound
        Of the clicks.

    Raises
    ------
    GiustoError
        ``not_heard``, where too few of them are found in it.
    """
    first_s = float(sent_s[0])
    found = placed(sound, sent_s - first_s, voices=(voice,), zero_s=(first_s - 0.005, first_s + MOST_S))
    if found is None:
        raise GiustoError("the clicks are not heard in the microphone", code="not_heard")
    at_s, heard_s, _ = Look(sound, found.click).timed(sent_s - first_s, found.line.zero_s)
    apart_s = heard_s - first_s - at_s
    middle = float(np.median(apart_s))
    sd_s = max(1.4826 * float(np.median(np.abs(apart_s - middle))), LEAST_SD_S)
    near = apart_s[np.abs(apart_s - middle) <= 4 * sd_s]
    if near.size < FEWEST_HEARD:
        problem = f"{near.size} of {sent_s.size} clicks are heard in the microphone, {FEWEST_HEARD} are needed"
        raise GiustoError(problem, code="not_heard")
    half_s = float(np.hypot(Z95 * sd_s / np.sqrt(near.size), SYSTEMATIC_S))
    mean_s = float(near.mean())
    return Delay(mean_s, (mean_s - half_s, mean_s + half_s), near.size)


def tapping_delay(taps_s: FloatArray, clicks_s: FloatArray) -> Delay:
    """Return how far taps come after the clicks they were meant for: device and habit together.

    Parameters
    ----------
    taps_s, clicks_s : array of float, ascending
        On one clock, each click as it was heard.

    Raises
    ------
    GiustoError
        ``few_taps``, where too few taps follow the click.
    """
    taps = checked_onsets(np.sort(taps_s))
    rough = _rough_s(taps, clicks_s)
    nearest = np.argmin(np.abs(clicks_s[:, np.newaxis] + rough - taps[np.newaxis, :]), axis=0)
    apart_s = taps - clicks_s[nearest]
    apart_s = apart_s[np.abs(apart_s - rough) <= OFF_TAP_S]
    if apart_s.size < max(FEWEST_TAPS, WITH_CLICK * taps.size):
        problem = f"{apart_s.size} of {taps.size} taps came with a click, {FEWEST_TAPS} and most of them are needed"
        raise GiustoError(problem, code="few_taps")
    sd_s = float(np.std(apart_s, ddof=1))
    if sd_s > MOST_TAP_SD_S:
        raise GiustoError(f"the taps spread by {1000 * sd_s:.0f} ms: they follow no click", code="few_taps")
    mean_s = float(apart_s.mean())
    half_s = float(student(apart_s.size)) * sd_s / float(np.sqrt(apart_s.size))
    return Delay(mean_s, (mean_s - half_s, mean_s + half_s), int(apart_s.size))


def _rough_s(taps_s: FloatArray, clicks_s: FloatArray) -> float:
    """Return the delay at which most taps come with a click, to some ms."""
    if not taps_s.size:
        return 0.0
    apart = (taps_s[:, np.newaxis] - clicks_s[np.newaxis, :]).ravel()
    apart = apart[(apart > EARLIEST_TAP_S) & (apart < LATEST_TAP_S)]
    if not apart.size:
        return 0.0
    counts = [int(np.count_nonzero(np.abs(apart - one) <= 0.04)) for one in apart.tolist()]
    return float(np.median(apart[np.abs(apart - apart[int(np.argmax(counts))]) <= 0.04]))
