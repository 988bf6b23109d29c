"""Facts of takes as tests need them."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from math import log
from typing import Any
from uuid import UUID

from giusto.figures.place import Place
from giusto.figures.tendency import Tendency
from giusto.figures.variability import Variability
from giusto.hearing.inputs import Input
from giusto.practice.clean import Margins
from giusto.practice.over_takes.facts import Figures, SilenceFacts, TakeFacts
from giusto.reading import Reading
from giusto.reading.format import Counts

EVENING = datetime(2026, 10, 5, 18, tzinfo=UTC)  # a Monday
FIGURES = Reading(
    giusto="reading/1",
    onsets=Counts(64, 64, 64, 0, 0),
    matches=[],
    missed=[],
    extra=[],
    heard=Place(n=40, mean_error_ms=-8.0, ci95_ms=(-10.0, -6.0), sd_ms=9.0, interval_sd_ms=12.0),
    silences=[],
    tendency=Tendency(-1.0, (-1.4, -0.6), 4, "dragging"),  # type: ignore[arg-type]
    variability=Variability(14.0, 6.0, 5.0, 4.0, (4.0, 9.0), (3.0, 7.0)),
)


# A clock of 6 ms from slot to slot, eighths at 96, a hand of 5 ms, and half of an error taken back.
SIZES = {"free": [log(6 / 312.5), log(5), 0.0], "free_sd": [0.2, 0.25, 0.4]}


def figures(**changes: Any) -> Figures:
    """Return the figures of a reading as JSON holds them, with some of them changed."""
    sizes = changes.pop("sizes", SIZES)
    return Figures(replace(FIGURES, **changes).plain() | {"sizes": sizes})


def facts(day: float = 0, **changes: Any) -> TakeFacts:
    """Return the facts of a take so many days after the Monday, with some of them changed."""
    one = TakeFacts(
        take=UUID(int=int(1000 * day) + 1),
        at=EVENING + timedelta(days=day),
        exercise=1,
        key="k2:a",
        drill_key="k2:b",
        name="One",
        is_whole=True,
        margins=Margins(4, 4, 0, 0.4, 3.0, 1.0),
        by_reading=True,
        said=None,
        is_off=False,
        input=Input.KEYS,
        browser="a",
        tempo_bpm=96.0,
        slots=2,
        played_s=60.0,
        verdict="held",
        place_ms=-8.0,
        spread_ms=9.0,
        figures=figures(),
    )
    return replace(one, **changes)


def silence(**changes: Any) -> SilenceFacts:
    """Return the facts of a silence of nine beats at 96, with some of them changed."""
    one = SilenceFacts(
        take=UUID(int=1),
        number=1,
        at=EVENING,
        tempo_bpm=96.0,
        beats=9.0,
        cycle_beats=4,
        notes=17,
        outcome="held",
        return_ms=4.0,
        return_ci95_ms=(-6.0, 14.0),
        lean_percent=-0.5,
        lean_ci95_percent=(-1.0, 0.0),
    )
    return replace(one, **changes)
