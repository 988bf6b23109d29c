"""The table of figures: this take, with what its notes can vouch for, beside the player's habit."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction

from giusto.drill import Drill
from giusto.figures.correction import home_clicks
from giusto.figures.note_and_click import ORDERED_MS
from giusto.figures.silence import beat_ms, mean_return
from giusto.practice.findings import FOLLOWS, HOLDS
from giusto.practice.habit import Habit, Usual
from giusto.practice.verdict import TempoAlone
from giusto.ranges import Range
from giusto.reading import Reading
from studio.drills.sentence.note_words import note_word
from studio.readings.history import History
from studio.sheet.words import NBSP, lean_words, signed_ms, span_ms

TWO = 2  # hands, of which one is told against the other
MARK_W, MARK_HALF = 140.0, 60.0
# How far the line of a drawn range goes to either side.
FARTHEST_PERCENT, FARTHEST_RETURN, FARTHEST_PLACE_MS, FARTHEST_SLOT_MS = 3.0, 0.2, 80.0, 40.0


@dataclass(frozen=True, slots=True)
class RangeMark:
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
    mark: RangeMark | None = None


# What a player needs first: the tempo alone, where they come back, where they stand, how even they are.
FIRST = {"Tempo alone", "Where you came back", "Your place with the click"}
FIRST |= {"Spread about your place"}


def in_two_steps(rows: list[Row]) -> tuple[list[Row], list[Row]]:
    """Return the four rows that a player needs first, and all others."""
    return [row for row in rows if row.name in FIRST], [row for row in rows if row.name not in FIRST]


def table(
    reading: Reading, drill: Drill, tempo: TempoAlone | None, past: History, *, called: Callable[[str], str] = str
) -> list[Row]:
    """Return the rows of a reading's table; a figure that can't be given has none (the notes say why).

    Parameters
    ----------
    reading : Reading
    drill : Drill
    tempo : TempoAlone or None
    past : History
    called : callable
        What a source of notes is called.
    """
    return [
        *_tempo(reading, tempo, past),
        *_returns(reading, drill.tempo.bpm, past),
        *_place(reading, past),
        *_slots(reading, drill),
        *_swing(reading, past),
        *_spreads(reading, past),
        *_hands(reading, called),
        *_doubles(reading),
        *_accents(reading),
        *_correction(reading, past),
        *_together(reading),
        *_fatigue(reading),
    ]


def _tempo(reading: Reading, tempo: TempoAlone | None, past: History) -> Iterator[Row]:
    lean = reading.tendency
    if lean is None or tempo is None:
        return
    low, high = lean.ci95_percent
    known = past.lean if isinstance(past.lean, Habit) else None
    yield Row(
        "Tempo alone",
        "tendency",
        f"{tempo.bpm:.1f}",
        f"{tempo.ci95_bpm[0]:.1f} to {tempo.ci95_bpm[1]:.1f}",
        f"{_bpm(tempo, known.tempo_percent):.1f}" if known else "",
        f"{_bpm(tempo, known.ci95_percent[0]):.1f} to {_bpm(tempo, known.ci95_percent[1]):.1f}" if known else "",
    )
    yield Row(
        "Lean in the silence",
        "tendency",
        lean_words(lean.tempo_percent),
        _leans(low, high),
        lean_words(known.tempo_percent) if known else "",
        _leans(*known.ci95_percent) if known else "",
        _mark(-lean.tempo_percent, (-high, -low), FARTHEST_PERCENT),
    )
    if known:
        yield Row("What to expect of a silence", "habit", "", "", "", _leans(*known.expected_percent))


def _returns(reading: Reading, bpm: float, past: History) -> Iterator[Row]:
    read = [(s.return_ms, s.return_ci95_ms) for s in reading.silences if s.return_ms is not None]
    if not read:
        return
    mean, ends = mean_return(reading.silences)
    yield Row(
        "Where you came back",
        "figures-of-a-silence",
        signed_ms(mean),
        span_ms(ends),
        *_usual_ms(past.returns, signed=True),
        mark=_mark(mean, ends, FARTHEST_RETURN * beat_ms(bpm)),
    )


def _place(reading: Reading, past: History) -> Iterator[Row]:
    heard = reading.heard
    if heard.mean_error_ms is None or heard.ci95_ms is None:
        return
    mean = heard.mean_error_ms
    yield Row(
        "Your place with the click",
        "heard",
        signed_ms(mean),
        span_ms(heard.ci95_ms),
        *_usual_ms(past.usual["heard_ms"], signed=True),
        mark=_mark(mean, heard.ci95_ms, FARTHEST_PLACE_MS),
    )


def _slots(reading: Reading, drill: Drill) -> Iterator[Row]:
    names = {"1/2": "The offbeats"}
    for slot in reading.rhythm or []:
        place = slot.position_in_beat
        name = names.get(place, f"Notes at {place} of the beat")
        mark = _mark(slot.mean_ms, slot.ci95_ms, FARTHEST_SLOT_MS)
        yield Row(f"{name}, from their place", "rhythm", signed_ms(slot.mean_ms), span_ms(slot.ci95_ms), mark=mark)
    for length in reading.lengths or []:
        low, high = length.ci95_percent
        if low > 100 or high < 100:
            word = "crushed" if length.percent < 100 else "stretched"
            part = Fraction(length.end) - Fraction(length.start)
            word_of = note_word(drill.tempo.beat, part.denominator) if part.numerator == 1 else "note"
            end = "the next beat" if length.end == "1" else length.end
            start = "the beat" if length.start == "0" else length.start
            name = f"From {start} to {end}, one {word_of.removesuffix('s')}"
            change = f"{abs(length.percent - 100):.0f}{NBSP}% {word}"
            yield Row(name, "rhythm", change, f"{low:.0f} to {high:.0f}{NBSP}% of its length")


def _swing(reading: Reading, past: History) -> Iterator[Row]:
    if reading.swing:
        ratio, (low, high) = reading.swing.ratio, reading.swing.ci95
        known = past.usual["swing"]
        habit = (f"{known.middle:.2f} to 1", f"{known.expected[0]:.2f} to {known.expected[1]:.2f}") if known else ()
        yield Row("Swing: first to second", "rhythm", f"{ratio:.2f} to 1", f"{low:.2f} to {high:.2f}", *habit)


def _spreads(reading: Reading, past: History) -> Iterator[Row]:
    heard = reading.heard
    if heard.sd_ms is not None:
        usual = _usual_ms(past.usual["heard_sd_ms"])
        yield Row("Spread about your place", "heard", f"{heard.sd_ms:.0f}{NBSP}ms", "", *usual)
    if heard.interval_sd_ms is not None:
        steps = f"{heard.interval_sd_ms:.0f}{NBSP}ms"
        yield Row("From note to note, with the click", "heard", steps, "")
    parts = reading.variability
    if not parts:
        return
    for name, size, ends, column in (
        ("From note to note, alone", parts.interval_sd_ms, None, "interval_sd_ms"),
        ("of it, your clock", parts.clock_sd_ms, parts.clock_ci95_ms, "clock_sd_ms"),
        ("of it, your hand", parts.motor_sd_ms, parts.motor_ci95_ms, "motor_sd_ms"),
    ):
        shown = f"{size:.0f}{NBSP}ms" if size >= 9.5 else f"{size:.1f}{NBSP}ms"
        yield Row(
            name, "clock-hand-and-spread-alone", shown, _fine_span(ends) if ends else "", *_usual_ms(past.usual[column])
        )


def _hands(reading: Reading, called: Callable[[str], str]) -> Iterator[Row]:
    """Say how even each hand is, and where it comes against the other, or the others."""
    found = reading.hands or []
    for hand in found:
        size = f"{hand.spread_ms:.1f}{NBSP}ms"
        yield Row(f"Spread of {called(hand.name)}", "hands-and-accents", size, _fine_span(hand.spread_ci95_ms))
    against = f"against {called(found[1].name)}" if len(found) == TWO else "against the others"
    for hand in found[:1] if len(found) == TWO else found:
        mark = _mark(hand.lean_ms, hand.ci95_ms, FARTHEST_SLOT_MS)
        name = f"{called(hand.name)} {against}"
        said = signed_ms(hand.lean_ms), span_ms(hand.ci95_ms)
        yield Row(f"{name[0].upper()}{name[1:]}", "hands-and-accents", *said, mark=mark)


def _doubles(reading: Reading) -> Iterator[Row]:
    """Say how many strokes sounded twice, and by whom where that is known."""
    found = reading.doubles
    if found:
        by = "" if found.flams is None else f"{found.flams} by two, {found.by_one} by one"
        yield Row("Struck twice", "hands-and-accents", f"{found.n}, {found.gap_ms:.0f}{NBSP}ms apart", by)


def _accents(reading: Reading) -> Iterator[Row]:
    found = reading.accents
    if found:
        low, high = (100 * end for end in found.ci95)
        word = "stronger" if found.stronger >= 0 else "softer"
        size = f"{100 * abs(found.stronger):.0f} of 100"
        span = f"{low:.0f} to {high:.0f}" if found.stronger >= 0 else f"{-high:.0f} to {-low:.0f}"
        ends = f"{span}; {found.heard_percent:.0f}{NBSP}% stand out"
        yield Row(f"Your accents, {word} by", "hands-and-accents", size, ends)


def _correction(reading: Reading, past: History) -> Iterator[Row]:
    found = reading.correction
    if not found:
        return
    low, high = found.ci95
    known = past.usual["alpha"]
    word = ": you follow" if low > FOLLOWS else ": you hold" if high < HOLDS else ""
    share = f"{100 * found.alpha:.0f}{NBSP}%{word}"
    usual = (
        (
            f"{100 * known.middle:.0f}{NBSP}%",
            f"{100 * max(known.expected[0], 0):.0f} to {100 * min(known.expected[1], 1):.0f}{NBSP}%",
        )
        if known
        else ()
    )
    yield Row("Of a gap, each click closes", "correction", share, f"{100 * low:.0f} to {100 * high:.0f}{NBSP}%", *usual)
    clicks = [home_clicks(alpha) for alpha in (found.alpha, high, low)]
    yield Row(
        "Home after a return",
        "correction",
        f"{clicks[0]} click{'s' if clicks[0] != 1 else ''}",
        f"{clicks[1]} to {clicks[2]}",
    )


def _together(reading: Reading) -> Iterator[Row]:
    found = reading.together
    if found:
        share = f"{found.unordered_percent:.0f}{NBSP}%"
        run = f"at best {found.longest} running, {found.longest_s:.0f}{NBSP}s"
        yield Row(f"Note and click within {ORDERED_MS:.0f}{NBSP}ms", "together", share, run)


def _fatigue(reading: Reading) -> Iterator[Row]:
    found = reading.fatigue
    if not found:
        return
    low, high = found.spread_ratio_ci95
    spread = f"{found.spread_first_ms:.0f} to {found.spread_last_ms:.0f}{NBSP}ms"
    yield Row("Spread, first third to last", "fatigue", spread, f"{low:.2f} to {high:.2f} times")
    if found.tempo_change_percent is not None and found.tempo_change_ci95_percent is not None:
        leans = _leans(*found.tempo_change_ci95_percent)
        yield Row("Lean, first third to last", "fatigue", lean_words(found.tempo_change_percent), leans)


def _bpm(tempo: TempoAlone, percent: float) -> float:
    return tempo.asked_bpm * (1 + percent / 100)


def _leans(low: float, high: float) -> str:
    """Return a range of leans: one word where both ends fall on a side."""
    if low > 0 or high < 0:
        ends = sorted((abs(low), abs(high)))
        return f"{ends[0]:.1f} to {ends[1]:.1f} {'fast' if low > 0 else 'slow'}"
    return f"{abs(low):.1f} slow to {abs(high):.1f} fast"


def _fine_span(ends: Range) -> str:
    return " to ".join(f"{end:.0f}" if end >= 9.5 else f"{end:.1f}" for end in ends)


def _usual_ms(known: Usual | None, *, signed: bool = False) -> tuple[str, str]:
    if known is None:
        return "", ""
    if signed:
        return signed_ms(known.middle), span_ms(known.expected)
    return f"{known.middle:.0f}{NBSP}ms", span_ms((max(known.expected[0], 0.0), known.expected[1]))


def _mark(value: float, ends: Range, farthest: float) -> RangeMark:
    """Place a range on its line; what is further off than the line goes stands at its end."""

    def x(at: float) -> float:
        return round(MARK_W / 2 + MARK_HALF * min(max(at / farthest, -1.0), 1.0), 1)

    low, high = min(ends), max(ends)
    side = "late" if low > 0 else "early" if high < 0 else ""
    return RangeMark(x(value), x(low), x(high), side)
