"""The facts of takes, from the database: one queryset, one record a take; whatever is told over takes reads these."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, tzinfo
from typing import Any

from django.db.models import F
from django.db.models.fields.json import KT
from django.db.models.functions import JSONObject
from django.utils import timezone

from giusto.errors import GiustoError
from giusto.hearing.inputs import Input
from giusto.practice.clean import Margins, margins_of
from giusto.practice.over_takes.facts import Figures, SilenceFacts, TakeFacts
from giusto.ranges import Range
from studio.takes.models import Reading, Silence, Take, TakeQuerySet

LONG = ("matches", "missed", "extra", "silences")  # lists of a reading, and no figures; silences are rows of their own
BESIDE = {"sizes": "reading__sizes"}  # figures that are a column of their own
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
    "beats",
    "notes",
    "outcome",
    "return_ms",
    "return_low_ms",
    "return_high_ms",
    "lean_percent",
    "lean_low_percent",
    "lean_high_percent",
)


def facts_of(takes: TakeQuerySet, *, figures: Sequence[str] = ()) -> list[TakeFacts]:
    """Return the facts of takes, in their order; one query.

    Parameters
    ----------
    takes : TakeQuerySet
    figures : sequence of str
        Which figures of its reading each comes with: any field of ``reading/1`` but its notes.
    """
    columns: list[Any] = [*COLUMNS, KT("device__browser")]
    if figures:  # as one object: a row is read once, and not figure by figure
        columns.append(JSONObject(**{name: F(BESIDE.get(name, f"reading__brief__{name}")) for name in figures}))
    zone = timezone.get_current_timezone()
    return [_facts(row, zone) for row in takes.values_list(*columns)]


def silences_of(takes: TakeQuerySet | Sequence[Any], *, most: int | None = None) -> list[SilenceFacts]:
    """Return the silences of takes, those of the newest take first, backwards through it; two queries."""
    rows = Silence.objects.filter(take__in=takes).order_by("-take__started_at", "-number")
    found = list(rows.values_list(*SILENCE_COLUMNS)[:most])
    of = Take.objects.filter(pk__in={row[0] for row in found}).values_list("pk", "started_at", "tempo_bpm", "beats")
    about = {pk: (at, bpm, beats) for pk, at, bpm, beats in of}  # once a take, and not once a silence
    return [_silence(row, *about[row[0]]) for row in found]


def brief_of(spec: dict[str, Any]) -> dict[str, Any]:
    """Return a reading without its long lists: every figure that any page may ask for over takes."""
    return {name: value for name, value in spec.items() if name not in LONG}


def _silence(row: Sequence[Any], at: datetime, bpm: float, cycle_beats: int) -> SilenceFacts:
    """Return the facts of a silence's row: ``SILENCE_COLUMNS``."""
    take, number, beats, notes, outcome, back, low, high, lean, lean_low, lean_high = row
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


def _facts(row: Sequence[Any], zone: tzinfo) -> TakeFacts:
    (take, at, exercise, key, drill_key, name, ended, margins, by_reading, said, is_off, off_at, input_, bpm, slots,
     played_s, verdict, place_ms, spread_ms, browser, *figures) = row  # fmt: skip
    return TakeFacts(
        take=take,
        at=at.astimezone(zone),
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
        figures=Figures(*figures) if figures else None,
    )


def shown_by(reading: Reading) -> Margins | None:
    """Return what a reading kept of what is limited; None where it can't be read."""
    return _margins(reading.margins)


def _margins(plain: dict[str, Any] | None) -> Margins | None:
    try:
        return margins_of(plain) if plain else None
    except GiustoError:  # another version's: what its reading said of the take stands
        return None


def _range(low: float | None, high: float | None) -> Range | None:
    return None if low is None or high is None else (low, high)
