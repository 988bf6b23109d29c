"""Reading a take: an action of its own, after its end; repeatable, and ready to become a task."""

from __future__ import annotations

import logging
from dataclasses import asdict, dataclass, field, replace
from typing import Any
from uuid import UUID

from django.db import DatabaseError, transaction

import giusto
from giusto.errors import GiustoError
from giusto.figures.silence import SilenceReading
from giusto.figures.tendency import takes_differ
from giusto.notes.record import Played
from giusto.practice.clean import is_clean, margins
from giusto.practice.findings import findings
from giusto.practice.over_takes.leans import leans_by_take
from giusto.practice.over_takes.reaches import returns_of
from giusto.practice.verdict import tempo_alone, verdict_of
from giusto.reading import Analysis, analyse
from giusto.reading import Reading as CoreReading
from giusto.reading.recorded import with_source
from giusto.returns.drift import NONE, Returns
from giusto.schedule import Schedule
from giusto.timekeeper.prior import Prior, prior_from, seen_from
from studio.room import is_full
from studio.takes.facts import brief_of, silences_of
from studio.takes.material import Material, material_of
from studio.takes.models import Reading, Silence, Take, TakeQuerySet
from studio.takes.sources import source_of
from studio.takes.thread import sketch_of, thread_json

log = logging.getLogger(__name__)

REMEMBERED = 20  # ours: earlier takes that say how large a player's noise is
COLUMNS = ("start_s", "end_s", "beats", "notes", "return_ms", "drift_ms", "tempo_bpm", "lean_percent", "outcome")
DIED = (
    "It was tried three times, and each time whoever read it ended; it is kept as it was played, and the log says more."
)
FAILED = "Something in this take could not be worked with. It is kept as it was played, and the log says more."


@dataclass(frozen=True, slots=True)
class Outcome:
    """What reading a take came to: a reading's columns, or a refusal with its code."""

    columns: dict[str, Any] = field(default_factory=dict)
    silences: tuple[SilenceReading, ...] = ()
    material: Material | None = None
    refusal: str = ""
    code: str = ""


def read_take(take_id: UUID) -> Reading:
    """Compute a take's reading from its raw material and write it down, in place of any before.

    Nothing is locked while it computes, and nothing of the take is changed. Whatever goes wrong becomes a refusal that
    is kept beside the take.
    """
    take = Take.objects.get(pk=take_id)
    return _write(take, _outcome(take))


def hear_and_read(take_id: UUID) -> Reading:
    """Hear what of a take waits to be heard, then read it; sound that can't be worked with is a refusal."""
    take = Take.objects.get(pk=take_id)
    try:
        source_of(take).hear(take)
    except GiustoError as error:
        return _write(take, Outcome(refusal=str(error)[:300], code=error.code))
    except DatabaseError:  # it comes back, and somebody takes the take up again
        raise
    except Exception as error:
        if is_full(error):  # it is taken up again until there is room
            raise
        log.exception("take %s can't be heard", take.pk)
        return _write(take, Outcome(refusal=FAILED, code="failed"))
    return read_take(take_id)


def give_up(take_id: UUID) -> Reading:
    """Write down that a take can't be read, since whoever read it died each time."""
    return _write(Take.objects.get(pk=take_id), Outcome(refusal=DIED, code="died"))


def _outcome(take: Take) -> Outcome:
    material = None
    try:
        material = material_of(take)
        analysis = analyse(material.plan, material.notes, prior=prior_of(take), sections=take.sections)
        analysis = replace(analysis, reading=told_of(analysis.reading, take, material))
        columns = columns_of(material.plan, analysis, before=returns_before(take)) | {"played_s": material.played_s}
    except GiustoError as error:
        return Outcome(material=material, refusal=str(error)[:300], code=error.code)
    except Exception:
        log.exception("take %s can't be read", take.pk)
        return Outcome(material=material, refusal=FAILED, code="failed")
    return Outcome(columns, tuple(analysis.reading.silences), material)


@transaction.atomic
def _write(take: Take, outcome: Outcome) -> Reading:
    """Write what reading came to; one writer at a time, so that rows and reading stay of one piece."""
    locked = Take.objects.select_for_update().get(pk=take.pk)
    empty = {field.attname: None for field in Reading._meta.concrete_fields if field.null}
    reading, _ = Reading.objects.update_or_create(
        take=locked,
        defaults={
            **empty,
            **(_onsets(outcome.material.notes) if outcome.material else {}),
            "player_id": locked.player_id,
            "core_version": giusto.__version__,
            "spec": {},
            "verdict": "",
            **outcome.columns,
            "refusal": outcome.refusal,
            "refusal_code": outcome.code,
        },
    )
    locked.silences.all().delete()
    Silence.objects.bulk_create(silence_row(locked, number, s) for number, s in enumerate(outcome.silences, start=1))
    return reading


def _onsets(notes: Played) -> dict[str, Any]:
    """Return the notes that a reading is of, in drill time."""
    return {
        "onsets_s": [round(onset, 7) for onset in notes.onset_s.tolist()],
        "strengths": [None if s != s else s for s in notes.strength.tolist()],
        "sources": notes.source.tolist(),
    }


def told_of(reading: CoreReading, take: Take, material: Material) -> CoreReading:
    """Return a reading with what its notes' times rest on, and without what they can't tell."""
    if source := take.hearing.source:
        return with_source(reading, source, material.remarks)
    return replace(reading, notes=[*material.remarks, *reading.notes])


def prior_of(take: Take) -> Prior:
    """Return what the player's earlier takes, by the same hand, let expect of this one."""
    earlier = Take.objects.same_hand(take).before(take)
    sizes = earlier.exclude(reading__sizes=None).values_list("reading__sizes", flat=True)[:REMEMBERED]
    seen = [one for one in map(seen_from, sizes) if one]
    leans = leans_by_take(silences_of(_near(take, earlier)))
    return prior_from(seen, takes_differ_percent=takes_differ(leans))


def _near(take: Take, earlier: TakeQuerySet) -> TakeQuerySet:
    """Return the newest earlier takes near a take's tempo that have silences."""
    near = earlier.near(take.tempo_bpm).filter(silences__lean_percent__isnull=False).distinct()
    return Take.objects.these(near.values_list("pk", flat=True)[:REMEMBERED])


def returns_before(take: Take) -> Returns:
    """Return the returns of the player's earlier takes near the tempo, by the same hand, as they count at this one."""
    return returns_of(silences_of(_near(take, Take.objects.same_hand(take).before(take))), take.started_at)


def columns_of(plan: Schedule, analysis: Analysis, *, before: Returns = NONE) -> dict[str, Any]:
    """Return what is kept of an analysis: its JSON, and the figures that are asked for over takes.

    Parameters
    ----------
    plan : Schedule
    analysis : Analysis
    before : Returns
        Of earlier takes: what is known of the player's clock.
    """
    read = analysis.reading
    parts, swing = read.variability, read.swing
    alone = tempo_alone(plan.drill, read)
    limited = margins(plan, read, before=before)
    spec = read.plain()
    return {
        "spec": spec,
        "brief": brief_of(spec),
        "thread": analysis.thread and thread_json(analysis.thread),
        "sketch": analysis.thread and sketch_of(analysis.thread),
        "sizes": analysis.sizes and asdict(analysis.sizes),
        "verdict": verdict_of(plan, read, findings(plan, read)).code,
        "is_clean": is_clean(limited),
        "margins": limited.plain(),
        "alone_bpm": alone and alone.bpm,
        "heard_ms": read.heard.mean_error_ms,
        "heard_sd_ms": read.heard.sd_ms,
        "interval_sd_ms": parts and parts.interval_sd_ms,
        "clock_sd_ms": parts and parts.clock_sd_ms,
        "motor_sd_ms": parts and parts.motor_sd_ms,
        "alpha": read.correction and read.correction.alpha,
        "swing": swing and swing.ratio,
        "tempo_percent": read.tendency and read.tendency.tempo_percent,
    }


def silence_row(take: Take, number: int, silence: SilenceReading) -> Silence:
    """Return the row of a silence of a reading."""
    returned, drifted, leaned = (
        ends or (None, None) for ends in (silence.return_ci95_ms, silence.ci95_ms, silence.lean_ci95_percent)
    )
    return Silence(
        take=take,
        player_id=take.player_id,
        number=number,
        return_low_ms=returned[0],
        return_high_ms=returned[1],
        drift_low_ms=drifted[0],
        drift_high_ms=drifted[1],
        lean_low_percent=leaned[0],
        lean_high_percent=leaned[1],
        **{name: getattr(silence, name) for name in COLUMNS},
    )
