"""One change of a drill at a time: a silence shorter or longer, notes more or fewer, tempo slower or faster.

Each change takes a drill and returns the changed one, or None where there is nothing to change. Where
silences come in turns, their number stays, so that two takes can be set side by side.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from giusto.drill import Drill, validate
from giusto.drill.file import MOST_CYCLES, MOST_SLOTS, FixedSilence, GrowingSilence, RandomSilence
from giusto.errors import GiustoError
from giusto.tempo import SECONDS_PER_MINUTE, beat_period_s
from giusto.tempo_scale import SCALE_BPM, notch

# From memory: one hand taps no faster than every 150 to 200 ms (Repp 2003, J Mot Behav 35:355).
FASTEST_SLOT_S = 0.15
BPM_STEP = 4  # common practice: raise by 2 to 4
SLOWER_SHARE = 0.1  # ours: a tempo that is felt to be slower, where hands are uneven; 4 bpm are not
MOST_HEARD = 4  # ours: cycles heard before a silence; by then the pulse is there, or more of it won't help
MOST_MINUTES = 10  # ours: a take that is made longer, so that it tells more, is made no longer than this
LENGTHS = (1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64)  # ours: silences in cycles, each at most twice the one before
FIRST_SILENCE = {"kind": "fixed", "heard": 2, "silent": 1}  # ours: for a click that never dropped out


def more_notes(drill: Drill) -> Drill | None:
    """Return the drill with twice the notes to the beat, where all slots are played and a hand can follow.

    Examples
    --------
    >>> eighths = validate({"giusto": "drill/1", "tempo": {"bpm": 96}, "cycle": {"beats": 4},
    ...     "clicks": {"on": ["1"]}, "part": {"grid": 2, "play": "grid"}, "cycles": 8})
    >>> more_notes(eighths).part.grid, more_notes(more_notes(eighths))
    (4, None)
    """
    grid = drill.part.grid * 2
    if drill.part.play != "grid" or grid > MOST_SLOTS or float(beat_period_s(drill.tempo.bpm)) / grid < FASTEST_SLOT_S:
        return None
    return _changed(drill, part={"grid": grid, "play": "grid"})


def fewer_notes(drill: Drill) -> Drill | None:
    """Return the drill with half the notes to the beat, where all slots are played and halve evenly."""
    if drill.part.play != "grid" or drill.part.grid % 2:
        return None
    return _changed(drill, part={"grid": drill.part.grid // 2, "play": "grid"})


def shorter_silence(drill: Drill) -> Drill | None:
    """Return the drill with silences of about half the length; where single cycles drop out, fewer do."""
    return _with_silence(drill, _half)


def longer_silence(drill: Drill) -> Drill | None:
    """Return the drill with silences one step longer; a click that never dropped out begins to."""
    if drill.clicks.silence is None and drill.clicks.every == 1 and drill.clicks.shift is None:
        return _with_clicks(drill, cycles=_whole_turns(drill.cycles, 3), silence=FIRST_SILENCE)
    return _with_silence(drill, _next)


def more_heard(drill: Drill) -> Drill | None:
    """Return the drill with one cycle more heard before each silence, while that still helps."""
    silence = drill.clicks.silence
    if not isinstance(silence, FixedSilence | GrowingSilence) or silence.heard >= MOST_HEARD:
        return None
    plain = silence.model_dump() | {"heard": silence.heard + 1}
    return _with_clicks(drill, cycles=_cycles(drill, 1), silence=plain)


def slower(drill: Drill) -> Drill | None:
    """Return the drill at a tempo that is felt to be slower: the notch below a tenth less."""
    bpm = notch(drill.tempo.bpm * (1 - SLOWER_SHARE), -1)
    return _at_tempo(drill, bpm) if bpm >= SCALE_BPM[0] else None


def faster(drill: Drill) -> Drill | None:
    """Return the drill at a faster tempo."""
    return _at_tempo(drill, drill.tempo.bpm + BPM_STEP)


def more_cycles(drill: Drill) -> Drill | None:
    """Return the drill twice as long, so that its silences tell more; None where that is too long a take.

    Examples
    --------
    >>> short = validate({"giusto": "drill/1", "tempo": {"bpm": 96}, "cycle": {"beats": 4},
    ...     "clicks": {"on": ["1"], "silence": {"kind": "fixed", "heard": 2, "silent": 2}},
    ...     "part": {"grid": 2}, "cycles": 8})
    >>> more_cycles(short).cycles
    16
    """
    cycles = 2 * drill.cycles
    minutes = float(beat_period_s(drill.tempo.bpm)) * drill.cycle.beats * cycles / SECONDS_PER_MINUTE
    return _changed(drill, cycles=cycles) if minutes <= MOST_MINUTES else None


def more_clicks(drill: Drill) -> Drill | None:
    """Return the drill with a click on every beat where it had fewer; a silence that drops out stays."""
    every = tuple(str(beat + 1) for beat in range(drill.cycle.beats))
    if drill.clicks.shift or set(every) <= set(drill.clicks.on):
        return None
    return _with_clicks(drill, on=list(every))


def sparse_click(drill: Drill) -> Drill | None:
    """Return the drill with no dropped cycles but a click on every second beat: silences of two beats.

    Examples
    --------
    >>> whole = validate({"giusto": "drill/1", "tempo": {"bpm": 96}, "cycle": {"beats": 4}, "part": {"grid": 2},
    ...     "clicks": {"on": ["1", "2"], "silence": {"kind": "fixed", "heard": 2, "silent": 1}}, "cycles": 8})
    >>> sparse_click(whole).clicks.on
    ('1', '3')
    """
    if drill.clicks.silence is None or drill.cycle.beats < 2:
        return None
    on = [str(beat + 1) for beat in range(0, drill.cycle.beats, 2)]
    return _with_clicks(drill, on=on, silence=None, every=1, shift=None)


def _at_tempo(drill: Drill, bpm: float) -> Drill | None:
    return _changed(drill, tempo={**drill.plain()["tempo"], "bpm": bpm})


def _half(length: int) -> int:
    return length // 2 if length > 1 else 0


def _next(length: int) -> int:
    return next((longer for longer in LENGTHS if longer > length), length * 2)


def _with_silence(drill: Drill, change: Callable[[int], int]) -> Drill | None:
    """Change the length of the silences, whichever way the drill makes them."""
    silence, every = drill.clicks.silence, drill.clicks.every
    if isinstance(silence, FixedSilence):
        silent = change(silence.silent)
        plain = silence.model_dump() | {"silent": silent}
        return _with_clicks(drill, cycles=_cycles(drill, silent - silence.silent), silence=plain) if silent else None
    if isinstance(silence, GrowingSilence):
        most = change(silence.max)
        plain = silence.model_dump() | {"max": most, "silent": min(silence.silent, most)}
        cycles = max(drill.cycles, _until(silence, most)) if most > silence.max else drill.cycles
        return _with_clicks(drill, cycles=cycles, silence=plain) if most else None
    if isinstance(silence, RandomSilence):
        longest = change(silence.longest)
        return _with_clicks(drill, silence=silence.model_dump() | {"longest": longest}) if longest else None
    if every > 1 or change(every) > every:
        fewer = max(change(every), 1)
        turns = -(-drill.cycles // every)
        return _with_clicks(drill, every=fewer, cycles=min(turns * fewer, MOST_CYCLES))
    return None


def _until(silence: GrowingSilence, most: int) -> int:
    """Return the cycles that it takes until a silence of ``most`` cycles is over."""
    lengths = (*range(silence.silent, most, silence.step), most)
    return sum(silence.heard + length for length in lengths)


def _cycles(drill: Drill, more: int) -> int:
    """Return the cycles of as many turns, each ``more`` cycles longer."""
    silence = drill.clicks.silence
    if not isinstance(silence, FixedSilence):
        return drill.cycles
    turn = silence.heard + silence.silent
    return min(max(round(drill.cycles / turn), 1) * (turn + more), MOST_CYCLES)


def _whole_turns(cycles: int, turn: int) -> int:
    return max(-(-cycles // turn), 1) * turn


def _with_clicks(drill: Drill, *, cycles: int | None = None, **changes: Any) -> Drill | None:
    clicks = drill.plain()["clicks"] | changes
    return _changed(drill, name="", clicks=clicks, cycles=cycles or drill.cycles)  # its name told of the old click


def _changed(drill: Drill, **changes: Any) -> Drill | None:
    """Return the drill with whole fields changed, or None where that breaks a rule of ``drill/1``."""
    try:
        return validate({**drill.plain(), **changes})
    except GiustoError:
        return None
