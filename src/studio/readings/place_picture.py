"""Notes about the click as a picture: time runs down, late lies right; the band has two notes in three."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.practice.verdict import Verdict
from giusto.reading import Reading

WIDTH, HEIGHT, TOP, EDGE = 560.0, 600.0, 64.0, 24.0
SCALES_MS = (20.0, 40.0, 80.0, 160.0, 320.0)  # to either side: the smallest that holds nearly all
NEARLY = 0.98


@dataclass(frozen=True, slots=True)
class Dot:
    """A note."""

    x: float
    y: float


@dataclass(frozen=True, slots=True)
class PlacePicture:
    """Layout values of the picture."""

    width: float
    height: float
    top: float
    bottom: float
    zero_x: float
    left: float
    right: float
    place_x: float
    band_x: float
    band_width: float
    band_height: float
    scale_ms: float
    side: str
    dots: list[Dot]


def draw_place(found: Reading, verdict: Verdict) -> PlacePicture | None:
    """Return the picture of a take with the click throughout; None where its place is not known."""
    place, spread = verdict.place_ms, verdict.spread_ms
    if place is None or spread is None or not found.matches:
        return None
    error_ms = np.array([match.error_ms for match in found.matches])
    time_s = np.array([match.expected_s for match in found.matches])
    farthest = max(float(np.quantile(np.abs(error_ms), NEARLY)), abs(place) + spread)
    scale = next((one for one in SCALES_MS if one >= farthest), SCALES_MS[-1])
    zero_x, half = WIDTH / 2, WIDTH / 2 - EDGE
    bottom = HEIGHT - EDGE

    def x_of(ms: float) -> float:
        return round(zero_x + half * max(-1.0, min(1.0, ms / scale)), 1)

    part = (time_s - time_s[0]) / max(float(np.ptp(time_s)), 1e-6)
    low, high = verdict.place_ci95_ms or (place, place)
    return PlacePicture(
        width=WIDTH,
        height=HEIGHT,
        top=TOP,
        bottom=bottom,
        zero_x=zero_x,
        left=EDGE,
        right=WIDTH - EDGE,
        place_x=x_of(place),
        band_x=x_of(place - spread),
        band_width=round(x_of(place + spread) - x_of(place - spread), 1),
        band_height=bottom - TOP,
        scale_ms=scale,
        side="late" if low > 0 else "early" if high < 0 else "held",
        dots=[
            Dot(x_of(ms), round(TOP + at * (bottom - TOP), 1))
            for ms, at in zip(error_ms.tolist(), part.tolist(), strict=True)
        ],
    )
