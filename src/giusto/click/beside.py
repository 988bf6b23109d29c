"""The click laid beside a recording, whole: also where it was silent, so that one hears where one stood."""

from __future__ import annotations

import numpy as np

from giusto.arrays import FloatArray
from giusto.click.voice import AnyVoice, click_at
from giusto.schedule import Schedule

SHARE, WITHHELD_SHARE = 0.5, 0.25  # ours: of the loudest of the recording; softer where none was to be heard
LEAST = 0.05  # ours: of full scale, beside silence


def click_beside(
    samples: FloatArray,
    rate_hz: int,
    plan: Schedule,
    *,
    voice: AnyVoice,
    first_s: float,
    zero_s: float,
    rate: float = 1.0,
) -> FloatArray:
    """Return an excerpt of a recording with all of its drill's clicks, those that were withheld among them.

    Parameters
    ----------
    samples : array of float, shape (frames,)
        −1 to 1.
    rate_hz : int
    plan : Schedule
    voice : str or OwnSound
    first_s : float
        The recording's time of the first sample.
    zero_s, rate : float
        The recording's time of the drill's time zero, and its seconds in one of the drill.

    Returns
    -------
    array of float, shape (frames,)
        −1 to 1.
    """
    click = click_at(voice, rate_hz)
    loudest = max(float(np.max(np.abs(samples), initial=0.0)), LEAST)
    found = np.concatenate([samples, np.zeros(click.size)])
    for grid, share in ((plan.clicks, SHARE), (plan.withheld, WITHHELD_SHARE)):
        frames = np.round((zero_s + plan.seconds(grid.tick) * rate - first_s) * rate_hz).astype(np.int64)
        for at in frames[(frames >= 0) & (frames < samples.size)].tolist():
            found[at : at + click.size] += share * loudest * click
    clipped: FloatArray = np.clip(found[: samples.size], -1.0, 1.0)
    return clipped
