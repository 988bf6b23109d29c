"""The table of figures: this take, with what its notes can vouch for, beside the player's habit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import ceil, log
from typing import Any

from giusto.findings import FOLLOWS
from giusto.habit import Habit, Usual
from studio.drills.note_words import note_word
from studio.readings.history import History
from studio.sheet.words import NBSP, signed_ms

MARK_W, MARK_HALF = 140.0, 60.0
HOLDS = 0.35  # ours: a correction surely below this leaves most of an error to the player's own time
HOME_SHARE = 0.1  # of an error: so little left counts as home
Range = tuple[float, float] | list[float]


@dataclass(frozen=True, slots=True)
class Mark:
    """A range on a line about zero, late or slow to the right."""

    x: float
    low_x: float
    high_x: float
    side: str


@dataclass(frozen=True, slots=True)
class Row:
    """A figure: its name, where it is defined, what this take and what the habit says."""

    name: str
    anchor: str
    this: str
    this_range: str
    habit: str = ""
    habit_range: str = ""
    mark: Mark | None = None


def table(spec: dict[str, Any], drill: dict[str, Any], past: History) -> list[Row]:
    """Return the rows of a reading's table; a figure that can't be given has none (the notes say why)."""
    bpm = drill["tempo"]["bpm"]
    return [
        *_tempo(spec, bpm, past),
        *_returns(spec, bpm, past),
        *_place(spec, past),
        *_slots(spec, drill),
        *_swing(spec, past),
        *_spreads(spec, past),
        *_correction(spec, past),
        *_together(spec),
        *_fatigue(spec),
    ]


def _tempo(spec: dict[str, Any], bpm: float, past: History) -> Iterator[Row]:
    lean = spec["tendency"]
    if not lean:
        return
    low, high = lean["ci95_percent"]
    known = past.lean if isinstance(past.lean, Habit) else None
    yield Row(
        "Tempo alone",
        "tendency",
        f"{_bpm(bpm, lean['tempo_percent']):.1f}",
        f"{_bpm(bpm, low):.1f} to {_bpm(bpm, high):.1f}",
        f"{_bpm(bpm, known.tempo_percent):.1f}" if known else "",
        f"{_bpm(bpm, known.ci95_percent[0]):.1f} to {_bpm(bpm, known.ci95_percent[1]):.1f}" if known else "",
    )
    yield Row(
        "Lean in the silence",
        "tendency",
        _lean(lean["tempo_percent"]),
        _leans(low, high),
        _lean(known.tempo_percent) if known else "",
        _leans(*known.ci95_percent) if known else "",
        _mark(-lean["tempo_percent"], (-high, -low), 3.0),
    )
    if known:
        yield Row("What to expect of a silence", "habit", "", "", "", _leans(*known.expected_percent))


def _returns(spec: dict[str, Any], bpm: float, past: History) -> Iterator[Row]:
    read = [s for s in spec["silences"] if s["return_ms"] is not None]
    if not read:
        return
    mean = sum(s["return_ms"] for s in read) / len(read)
    half = sum(((s["return_ci95_ms"][1] - s["return_ci95_ms"][0]) / 2) ** 2 for s in read) ** 0.5 / len(read)
    ends = (mean - half, mean + half)
    yield Row(
        "Return, against your place" if len(read) == 1 else "Returns, against your place",
        "figures-of-a-silence",
        signed_ms(mean),
        _span(ends),
        *_usual_ms(past.returns, signed=True),
        mark=_mark(mean, ends, 0.2 * 60_000 / bpm),
    )


def _place(spec: dict[str, Any], past: History) -> Iterator[Row]:
    heard = spec["heard"]
    if heard["mean_error_ms"] is None:
        return
    mean = heard["mean_error_ms"]
    yield Row(
        "Your place with the click",
        "heard",
        signed_ms(mean),
        _span(heard["ci95_ms"]),
        *_usual_ms(past.usual["heard_ms"], signed=True),
        mark=_mark(mean, heard["ci95_ms"], 80.0),
    )


def _slots(spec: dict[str, Any], drill: dict[str, Any]) -> Iterator[Row]:
    names = {"1/2": "The offbeats"}
    for slot in spec["rhythm"] or []:
        place = slot["position_in_beat"]
        name = names.get(place, f"Notes at {place} of the beat")
        mark = _mark(slot["mean_ms"], slot["ci95_ms"], 40.0)
        yield Row(f"{name}, from their place", "rhythm", signed_ms(slot["mean_ms"]), _span(slot["ci95_ms"]), mark=mark)
    for length in spec["lengths"] or []:
        low, high = length["ci95_percent"]
        if low > 100 or high < 100:
            word = "crushed" if length["percent"] < 100 else "stretched"
            part = Fraction(length["end"]) - Fraction(length["start"])
            word_of = note_word(drill["tempo"]["beat"], part.denominator) if part.numerator == 1 else "note"
            end = "the next beat" if length["end"] == "1" else length["end"]
            start = "the beat" if length["start"] == "0" else length["start"]
            name = f"From {start} to {end}, one {word_of.removesuffix('s')}"
            change = f"{abs(length['percent'] - 100):.0f}{NBSP}% {word}"
            yield Row(name, "rhythm", change, f"{low:.0f} to {high:.0f}{NBSP}% of its length")


def _swing(spec: dict[str, Any], past: History) -> Iterator[Row]:
    if spec["swing"]:
        ratio, (low, high) = spec["swing"]["ratio"], spec["swing"]["ci95"]
        known = past.usual["swing"]
        habit = (f"{known.middle:.2f} to 1", f"{known.expected[0]:.2f} to {known.expected[1]:.2f}") if known else ()
        yield Row("Swing: first to second", "rhythm", f"{ratio:.2f} to 1", f"{low:.2f} to {high:.2f}", *habit)


def _spreads(spec: dict[str, Any], past: History) -> Iterator[Row]:
    if spec["heard"]["sd_ms"] is not None:
        usual = _usual_ms(past.usual["heard_sd_ms"])
        yield Row("Spread about your place", "heard", f"{spec['heard']['sd_ms']:.0f}{NBSP}ms", "", *usual)
    if spec["heard"]["interval_sd_ms"] is not None:
        steps = f"{spec['heard']['interval_sd_ms']:.0f}{NBSP}ms"
        yield Row("From note to note, with the click", "heard", steps, "")
    parts = spec["variability"]
    if not parts:
        return
    for name, size, ends, column in (
        ("From note to note, alone", parts["interval_sd_ms"], None, "interval_sd_ms"),
        ("of it, your clock", parts["clock_sd_ms"], parts["clock_ci95_ms"], "clock_sd_ms"),
        ("of it, your hand", parts["motor_sd_ms"], parts["motor_ci95_ms"], "motor_sd_ms"),
    ):
        shown = f"{size:.0f}{NBSP}ms" if size >= 9.5 else f"{size:.1f}{NBSP}ms"
        yield Row(
            name, "clock-hand-and-spread-alone", shown, _fine_span(ends) if ends else "", *_usual_ms(past.usual[column])
        )


def _correction(spec: dict[str, Any], past: History) -> Iterator[Row]:
    found = spec["correction"]
    if not found:
        return
    low, high = found["ci95"]
    known = past.usual["alpha"]
    word = ": you follow" if low > FOLLOWS else ": you hold" if high < HOLDS else ""
    share = f"{100 * found['alpha']:.0f}{NBSP}%{word}"
    usual = (
        (
            f"{100 * known.middle:.0f}{NBSP}%",
            f"{100 * max(known.expected[0], 0):.0f} to {100 * min(known.expected[1], 1):.0f}{NBSP}%",
        )
        if known
        else ()
    )
    yield Row("A click takes back", "correction", share, f"{100 * low:.0f} to {100 * high:.0f}{NBSP}%", *usual)
    clicks = [home_clicks(alpha) for alpha in (found["alpha"], high, low)]
    yield Row(
        "Home after a return",
        "correction",
        f"{clicks[0]} click{'s' if clicks[0] != 1 else ''}",
        f"{clicks[1]} to {clicks[2]}",
    )


def _together(spec: dict[str, Any]) -> Iterator[Row]:
    found = spec["together"]
    if found:
        share = f"{found['unordered_percent']:.0f}{NBSP}%"
        run = f"at best {found['longest']} running, {found['longest_s']:.0f}{NBSP}s"
        yield Row(f"Note and click within 20{NBSP}ms", "together", share, run)


def _fatigue(spec: dict[str, Any]) -> Iterator[Row]:
    found = spec["fatigue"]
    if not found:
        return
    low, high = found["spread_ratio_ci95"]
    spread = f"{found['spread_first_ms']:.0f} to {found['spread_last_ms']:.0f}{NBSP}ms"
    yield Row("Spread, first third to last", "fatigue", spread, f"{low:.2f} to {high:.2f} times")
    if found["tempo_change_percent"] is not None:
        low, high = found["tempo_change_ci95_percent"]
        yield Row("Lean, first third to last", "fatigue", _lean(found["tempo_change_percent"]), _leans(low, high))


def home_clicks(alpha: float) -> int:
    """Return how many clicks leave a tenth of an error.

    Examples
    --------
    >>> home_clicks(0.4), home_clicks(0.9)
    (5, 1)
    """
    return max(ceil(log(HOME_SHARE) / log(1 - min(max(alpha, 0.01), 0.99)) - 1e-9), 1)


def _bpm(bpm: float, percent: float) -> float:
    return bpm * (1 + percent / 100)


def _lean(percent: float) -> str:
    size = f"{abs(percent):.1f}{NBSP}%"
    return size if size.startswith("0.0") else f"{size} {'fast' if percent > 0 else 'slow'}"


def _leans(low: float, high: float) -> str:
    """Return a range of leans: one word where both ends fall on a side."""
    if low > 0 or high < 0:
        ends = sorted((abs(low), abs(high)))
        return f"{ends[0]:.1f} to {ends[1]:.1f} {'fast' if low > 0 else 'slow'}"
    return f"{abs(low):.1f} slow to {abs(high):.1f} fast"


def _span(ends: Range) -> str:
    return f"{round(ends[0])} to {round(ends[1])}".replace("-", "−")


def _fine_span(ends: Range) -> str:
    return " to ".join(f"{end:.0f}" if end >= 9.5 else f"{end:.1f}" for end in ends)


def _usual_ms(known: Usual | None, *, signed: bool = False) -> tuple[str, str]:
    if known is None:
        return "", ""
    if signed:
        return signed_ms(known.middle), _span(known.expected)
    return f"{known.middle:.0f}{NBSP}ms", _span((max(known.expected[0], 0.0), known.expected[1]))


def _mark(value: float, ends: Range, reach: float) -> Mark:
    """Place a range on its line; what is further off than the line reaches stands at its end."""

    def x(at: float) -> float:
        return round(MARK_W / 2 + MARK_HALF * min(max(at / reach, -1.0), 1.0), 1)

    low, high = min(ends), max(ends)
    side = "late" if low > 0 else "early" if high < 0 else ""
    return Mark(x(value), x(low), x(high), side)
