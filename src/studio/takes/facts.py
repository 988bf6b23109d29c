"""The facts of takes, from the database: one queryset, one record a take; whatever is told over takes reads these."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from django.utils import timezone

from giusto.errors import GiustoError
from giusto.hearing.inputs import Input
from giusto.practice.clean import Margins, margins_of
from giusto.practice.over_takes.facts import SilenceFacts, TakeFacts
from giusto.ranges import Range
from giusto.reading import Reading, parse
from studio.takes.models import Silence, Take, TakeQuerySet

NOTES = ("matches", "missed", "extra")  # of a reading: long, and no figures
NO_NOTES: dict[str, Any] = {name: [] for name in NOTES}
COLUMNS = (
    "pk",
    "started_at",
    "exercise",
    "rung_key",
    "drill_key",
    "drill_name",
    "ended_how",
    "reading__margins",
    "reading__is_clean",
    "said_clean",
    "session__is_off",
    "session__off_at",
    "input",
    "device__browser",
    "tempo_bpm",
    "slots",
    "reading__played_s",
    "reading__verdict",
    "reading__heard_ms",
    "reading__heard_sd_ms",
)
SILENCE_COLUMNS = (
    "take_id",
    "number",
    "take__started_at",
    "take__tempo_bpm",
    "beats",
    "take__beats",
    "notes",
    "outcome",
    "return_ms",
    "return_low_ms",
    "return_high_ms",
    "lean_percent",
    "lean_low_percent",
    "lean_high_percent",
)


def facts_of(takes: TakeQuerySet, *, figures: bool = False) -> list[TakeFacts]:
    """Return the facts of takes, in their order; one query.

    Parameters
    ----------
    takes : TakeQuerySet
    figures : bool
        Whether each comes with its reading, its notes left out.
    """
    columns = (*COLUMNS, "reading__brief") if figures else COLUMNS
    return [_facts(row) for row in takes.values_list(*columns)]


def silences_of(takes: TakeQuerySet | Sequence[Any], *, most: int | None = None) -> list[SilenceFacts]:
    """Return the silences of takes, those of the newest take first, backwards through it; one query."""
    rows = Silence.objects.filter(take__in=takes).order_by("-take__started_at", "-number")
    return [silence_facts(row) for row in rows.values_list(*SILENCE_COLUMNS)[:most]]


def brief_of(spec: dict[str, Any]) -> dict[str, Any]:
    """Return a reading without its notes: every figure that any page asks for over takes."""
    return {name: value for name, value in spec.items() if name not in NOTES}


def figures_of(brief: dict[str, Any] | None) -> Reading | None:
    """Return the figures of a reading, its notes left out; None where no version of ours can read them."""
    try:
        return parse({**brief, **NO_NOTES}) if brief else None
    except GiustoError:
        return None


def silence_facts(row: Sequence[Any]) -> SilenceFacts:
    """Return the facts of a silence's row: ``SILENCE_COLUMNS``."""
    take, number, at, bpm, beats, cycle_beats, notes, outcome, back, low, high, lean, lean_low, lean_high = row
    return SilenceFacts(
        take,
        number,
        at,
        bpm,
        beats,
        cycle_beats,
        notes,
        outcome,
        back,
        _range(low, high),
        lean,
        _range(lean_low, lean_high),
    )


def _facts(row: Sequence[Any]) -> TakeFacts:
    (take, at, exercise, key, drill_key, name, ended, margins, by_reading, said, is_off, off_at, input_, browser, bpm,
     slots, played_s, verdict, place_ms, spread_ms, *brief) = row  # fmt: skip
    return TakeFacts(
        take=take,
        at=timezone.localtime(at),
        exercise=exercise,
        key=key,
        drill_key=drill_key,
        name=name,
        is_whole=ended == Take.Ended.COMPLETE,
        margins=_margins(margins),
        by_reading=by_reading,
        said=said,
        is_off=bool(is_off) and (off_at is None or at >= off_at),
        input=Input(input_),
        browser=browser or "",
        tempo_bpm=bpm,
        slots=slots,
        played_s=played_s or 0.0,
        verdict=verdict or "",
        place_ms=place_ms,
        spread_ms=spread_ms,
        figures=figures_of(brief[0]) if brief else None,
    )


def _margins(plain: dict[str, Any] | None) -> Margins | None:
    try:
        return margins_of(plain) if plain else None
    except GiustoError:  # another version's: what its reading said of the take stands
        return None


def _range(low: float | None, high: float | None) -> Range | None:
    return None if low is None or high is None else (low, high)


def telling(takes: Iterable[TakeFacts]) -> list[TakeFacts]:
    """Return the takes that could be read, so that they tell of time."""
    return [take for take in takes if take.place_ms is not None]
