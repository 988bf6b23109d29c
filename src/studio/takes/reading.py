"""From a take's raw material to its reading: stamps to drill time, the core, rows."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from itertools import chain
from typing import Any

import numpy as np

import giusto
from giusto.arrays import FloatArray
from giusto.clockfit import fit_clocks
from giusto.drill import validate
from giusto.errors import GiustoError
from giusto.findings import is_held
from giusto.reading import Analysis, Thread, analyse
from giusto.reading import Reading as CoreReading
from giusto.schedule import Schedule, schedule
from giusto.sizes import WEAK, Prior, Seen, prior_from
from studio.takes.models import Reading, Silence, Take

REMEMBERED = 20  # ours: earlier takes that say how large a player's noise is
COLUMNS = ("start_s", "end_s", "beats", "notes", "return_ms", "drift_ms", "tempo_bpm", "lean_percent", "outcome")
STUMBLE_MS = 2.0  # less is not worth a word
STUMBLED = (
    "the sound fell behind by {:.0f} ms in all while this take was played: the machine was busy;"
    " notes are measured against the clicks as they sounded, to a few ms near each stumble"
)


@dataclass(frozen=True, slots=True)
class Heard:
    """A take as it lies in the database, brought into drill time."""

    plan: Schedule
    onsets_s: FloatArray
    stumbled_ms: float = 0.0

    def analysis(self, prior: Prior = WEAK) -> Analysis:
        """Return what the core says of it."""
        return analyse(self.plan, self.onsets_s, prior=prior)


def plan_of(take: Take) -> Schedule:
    """Return a take's drill, laid out in time."""
    return schedule(validate(take.drill))


def heard(take: Take) -> Heard:
    """Return a take's plan and its notes in drill time, so far as they have arrived.

    Raises
    ------
    GiustoError
        Where the clock pairs make no clock.
    """
    batches = list(take.batches.all())
    stamps_ms = np.sort(np.array([*chain.from_iterable(b.stamps_ms for b in batches)], dtype=float))
    pairs = [*chain.from_iterable(b.pairs for b in batches)]
    plan = plan_of(take)
    if not stamps_ms.size:
        return Heard(plan, np.empty(0))
    clocks = fit_clocks(pairs)
    return Heard(plan, clocks.audio_s(stamps_ms) - take.zero_audio_s, clocks.stumbled_ms)


def read_take(take: Take) -> Reading:
    """Compute a take's reading from its raw material and write it down, in place of any before."""
    spec: dict[str, Any] = {}
    thread, refusal, columns = None, "", {}
    try:
        material = heard(take)
        analysis = material.analysis(known_of(take))
        spec, columns = analysis.reading.plain(), columns_of(analysis)
        if material.stumbled_ms >= STUMBLE_MS:
            spec["notes"].insert(0, STUMBLED.format(material.stumbled_ms))
        thread = analysis.thread and thread_json(analysis.thread)
        take.onsets_s = [round(float(onset), 7) for onset in material.onsets_s]
        take.save(update_fields=["onsets_s"])
    except GiustoError as error:
        refusal = str(error)[:300]
    reading, _ = Reading.objects.update_or_create(
        take=take,
        defaults={"core_version": giusto.__version__, "spec": spec, "thread": thread, "refusal": refusal, **columns},
    )
    take.silences.all().delete()
    Silence.objects.bulk_create(
        _row(take, number, silence) for number, silence in enumerate(spec.get("silences", []), start=1)
    )
    return reading


def known_of(take: Take) -> Prior:
    """Return what the player's earlier takes, by the same hand, let expect of this one."""
    earlier = Take.objects.filter(player=take.player_id, input=take.input, is_demo=take.is_demo, deleted_at=None)
    sizes = earlier.before(take).exclude(reading__sizes=None).values_list("reading__sizes", flat=True)[:REMEMBERED]
    return prior_from([Seen(tuple(found["free"]), tuple(found["free_sd"])) for found in sizes])


def columns_of(analysis: Analysis) -> dict[str, Any]:
    """Return the figures that are asked for over takes, as the reading's columns."""
    read: CoreReading = analysis.reading
    parts, swing = read.variability, read.swing
    return {
        "sizes": analysis.sizes and asdict(analysis.sizes),
        "is_held": is_held(read),
        "heard_ms": read.heard.mean_error_ms,
        "heard_sd_ms": read.heard.sd_ms,
        "interval_sd_ms": parts and parts.interval_sd_ms,
        "clock_sd_ms": parts and parts.clock_sd_ms,
        "motor_sd_ms": parts and parts.motor_sd_ms,
        "alpha": read.correction and read.correction.alpha,
        "swing": swing and swing.ratio,
        "tempo_percent": read.tendency and read.tendency.tempo_percent,
    }


def thread_json(thread: Thread) -> dict[str, list[Any]]:
    """Return a thread as what JSON takes, in tenths of a millisecond."""
    return {
        "tick": thread.tick.tolist(),
        "clock_ms": np.round(thread.clock_ms, 1).tolist(),
        "half_ms": np.round(thread.half_ms, 1).tolist(),
        "note_ms": [None if np.isnan(ms) else round(ms, 1) for ms in thread.note_ms.tolist()],
    }


def _row(take: Take, number: int, silence: dict[str, Any]) -> Silence:
    returned = silence["return_ci95_ms"] or (None, None)
    drifted = silence["ci95_ms"] or (None, None)
    leaned = silence["lean_ci95_percent"] or (None, None)
    return Silence(
        take=take,
        number=number,
        return_low_ms=returned[0],
        return_high_ms=returned[1],
        drift_low_ms=drifted[0],
        drift_high_ms=drifted[1],
        lean_low_percent=leaned[0],
        lean_high_percent=leaned[1],
        **{name: silence[name] for name in COLUMNS},
    )
