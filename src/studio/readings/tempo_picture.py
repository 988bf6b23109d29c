"""The tempo all the way as a picture: time runs down, slower lies right; the line is the asked tempo or the start."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from giusto.figures.tempo_thread import PartTempo, TempoThread
from studio.sheet.words import half_words

WIDTH, LEFT, RIGHT, TOP = 640, 46, 94, 34
MOST_HEIGHT, ROW = 560.0, 26.0  # a piece of the thread, and all of them together
SCALES = (2.0, 5.0, 10.0, 20.0, 50.0, 100.0)  # percent to either side: the smallest that holds everything
LABEL_APART = 60.0


@dataclass(frozen=True, slots=True)
class Tick:
    """A tempo on the axis."""

    x: float
    text: str


@dataclass(frozen=True, slots=True)
class Section:
    """A section beside the thread: where it ends, and its tempo."""

    number: int
    y: float
    middle: float
    bpm: float
    half: str
    percent: float


@dataclass(frozen=True, slots=True)
class TempoPicture:
    """Layout values of the picture."""

    width: int
    height: float
    zero_x: float
    top: float
    bottom: float
    against: str
    base_bpm: float
    scale_percent: float
    thread: str
    band: str
    ticks: list[Tick]
    minutes: list[Tick]
    sections: list[Section]
    is_own: bool


def draw_tempo(found: TempoThread, *, is_own: bool) -> TempoPicture:
    """Return the picture of a take's tempo, against the asked one or its own start.

    Parameters
    ----------
    found : TempoThread
    is_own : bool
        Whether the line is the take's own start.
    """
    base = found.start.bpm if is_own else found.asked_bpm
    height = min(MOST_HEIGHT, ROW * max(len(found.thread), 4))
    first_s, last_s = found.thread[0].time_s, found.thread[-1].time_s
    span_s = max(last_s - first_s, 1e-6)
    farthest = max(abs(100 * (end / base - 1)) for piece in found.thread for end in piece.ci95_bpm)
    scale = next((one for one in SCALES if one >= farthest), SCALES[-1])
    half_width = (WIDTH - LEFT - RIGHT) / 2
    zero_x = LEFT + half_width

    def x_of(bpm: float) -> float:
        percent = max(-scale, min(scale, 100 * (bpm / base - 1)))
        return round(zero_x - percent / scale * half_width, 1)

    def y_of(time_s: float) -> float:
        return round(TOP + (time_s - first_s) / span_s * height, 1)

    middle = [(x_of(piece.bpm), y_of(piece.time_s)) for piece in found.thread]
    slow = [(x_of(piece.ci95_bpm[0]), y_of(piece.time_s)) for piece in found.thread]
    fast = [(x_of(piece.ci95_bpm[1]), y_of(piece.time_s)) for piece in found.thread]
    return TempoPicture(
        width=WIDTH,
        height=round(TOP + height + 14, 1),
        zero_x=zero_x,
        top=TOP,
        bottom=round(TOP + height, 1),
        against="your own start" if is_own else "the asked tempo",
        base_bpm=round(base, 1),
        scale_percent=scale,
        thread=_path(middle),
        band=f"{_path(slow)}L{_path(fast[::-1])[1:]}Z",
        ticks=[Tick(x_of(bpm), f"{bpm:.1f}") for bpm in (base * (1 + share * scale / 100) for share in (1, 0, -1))],
        minutes=_minutes(first_s, last_s, y_of),
        sections=[_section(number, one, base, y_of) for number, one in enumerate(found.sections, start=1)],
        is_own=is_own,
    )


def _section(number: int, one: PartTempo, base: float, y_of: Callable[[float], float]) -> Section:
    half_s = 30 * one.beats / one.bpm  # its end lies half its length after its middle
    return Section(
        number=number,
        y=y_of(one.time_s + half_s),
        middle=y_of(one.time_s),
        bpm=round(one.bpm, 1),
        half=half_words((one.ci95_bpm[1] - one.ci95_bpm[0]) / 2),
        percent=round(100 * (one.bpm / base - 1), 1),
    )


def _minutes(first_s: float, last_s: float, y_of: Callable[[float], float]) -> list[Tick]:
    """Return the times beside the thread, whole tens of seconds, not too near one another."""
    steps = (10, 20, 30, 60, 120, 300, 600)
    step = next((one for one in steps if y_of(first_s + one) - y_of(first_s) >= LABEL_APART), steps[-1])
    times = range(int(first_s // step + 1) * step, int(last_s) + 1, step)
    return [Tick(y_of(float(at)), f"{at // 60}:{at % 60:02d}") for at in times]


def _path(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in points)
