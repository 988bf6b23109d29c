"""The facts of takes, from the database: one queryset, one record a take; whatever is told over takes reads these."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from datetime import datetime, tzinfo
from typing import Any
from uuid import UUID

from django.db.models import F, Sum
from django.db.models.fields.json import KT
from django.db.models.functions import JSONObject
from django.utils import timezone

from giusto.errors import GiustoError
from giusto.hearing.inputs import Input
from giusto.practice.clean import Margins, margins_of
from giusto.practice.over_takes.facts import Figures, SilenceFacts, TakeFacts
from giusto.ranges import Range
from giusto.timekeeper.prior import Seen, seen_from
from studio.takes.models import Reading, Take, TakeQuerySet

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
    "reading__interval_sd_ms",
    "reading__clock_sd_ms",
    "reading__motor_sd_ms",
    "reading__alpha",
    "reading__swing",
)
SILENCE_COLUMNS = (
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
OF_SILENCES = ("started_at", "tempo_bpm", "beats", "slots", "reading__sizes")


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


def silences_of(takes: TakeQuerySet, *, most: int | None = None) -> list[SilenceFacts]:
    """Return the silences of takes, those of the newest take first, backwards through it; two queries."""
    rows = takes.filter(silences__isnull=False).order_by("-started_at", "-silences__number")
    found = list(rows.values_list("pk", *(f"silences__{name}" for name in SILENCE_COLUMNS))[:most])
    of = Take.objects.these({row[0] for row in found}).values_list("pk", *OF_SILENCES)
    about = {row[0]: _about(*row[1:]) for row in of}  # once a take, and not once a silence
    return [_silence(row, *about[row[0]]) for row in found]


def notes_alone(takes: TakeQuerySet) -> Counter[UUID]:
    """Return how many notes were caught in the silences of takes that have any; one query."""
    return Counter(dict(takes.filter(silences__isnull=False).values_list("pk").annotate(Sum("silences__notes"))))


def brief_of(spec: dict[str, Any]) -> dict[str, Any]:
    """Return a reading without its long lists: every figure that any page may ask for over takes."""
    return {name: value for name, value in spec.items() if name not in LONG}


def _about(
    at: datetime, bpm: float, beats: int, slots: int, sizes: dict[str, Any] | None
) -> tuple[datetime, float, int, tuple[int, Seen] | None]:
    """Return what is told of a take with each of its silences: ``OF_SILENCES``."""
    seen = seen_from(sizes)
    return at, bpm, beats, (slots, seen) if seen else None


def _silence(
    row: Sequence[Any], at: datetime, bpm: float, cycle_beats: int, seen: tuple[int, Seen] | None
) -> SilenceFacts:
    """Return the facts of a silence's row: its take and ``SILENCE_COLUMNS``."""
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
        seen,
    )


def _facts(row: Sequence[Any], zone: tzinfo) -> TakeFacts:
    (take, at, exercise, key, drill_key, name, ended, margins, by_reading, said, is_off, off_at, input_, bpm, slots,
     played_s, verdict, place_ms, spread_ms, interval_sd_ms, clock_sd_ms, motor_sd_ms, alpha, swing,
     browser, *figures) = row  # fmt: skip
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
        interval_sd_ms=interval_sd_ms,
        clock_sd_ms=clock_sd_ms,
        motor_sd_ms=motor_sd_ms,
        alpha=alpha,
        swing=swing,
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
