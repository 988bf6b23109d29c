"""Every silence that was tried, hung as far down the page as it was long, and the curve with its band.

Lengths come click to click; down the page are the beats alone.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from math import log2

from giusto.practice.reach import ChanceAt
from studio.reach import words
from studio.reach.tested import Tested
from studio.sheet.words import NBSP

TOP, OCTAVE = 40.0, 74.0
MARK_STEP = 10.0
FAINTEST = 0.25
LABELS_APART = 23.0


@dataclass(frozen=True, slots=True)
class ReachSize:
    """How the picture is laid out at one width of page.

    Attributes
    ----------
    left, right : float
        Where no silence is held, and where each is.
    count_x, label_x : float
        Where chances stand, and names of lengths.
    most : int
        Silences to either side; more of one length are not drawn.
    """

    name: str
    width: float
    left: float
    right: float
    count_x: float
    label_x: float
    most: int


WIDE = ReachSize("wide", 724.0, 212.0, 392.0, 548.0, 576.0, 9)
PHONE = ReachSize("phone", 350.0, 96.0, 186.0, 0.0, 222.0, 2)  # without the chances, which the page says too


@dataclass(frozen=True, slots=True)
class SilenceMark:
    """A silence: where it hangs, whether it was held, how much it still counts."""

    x: float
    y: float
    outcome: str
    opacity: float


@dataclass(frozen=True, slots=True)
class ScaleLine:
    """A length on the scale."""

    y: float
    text: str


@dataclass(frozen=True, slots=True)
class LengthLabel:
    """A length with a name beside the picture: the reach, what is expected, what to try next."""

    kind: str
    y: float
    text_y: float
    text: str


@dataclass(frozen=True, slots=True)
class ReachPicture:
    """The picture, laid out."""

    name: str
    width: float
    height: float
    scale: list[ScaleLine]
    marks: list[SilenceMark]
    counts: list[ScaleLine]
    curve: str
    band: str
    labels: list[LengthLabel]
    reach_band: tuple[float, float] | None
    left: float
    right: float
    label_x: float
    count_x: float

    @property
    def curve_width(self) -> float:
        """From none held to all held."""
        return self.right - self.left


def draw(tested: Tested, try_beats: int, beat_s: float, size: ReachSize) -> ReachPicture:
    """Lay out what is known of a reach, and the length to try next."""
    octaves = round(log2(words.beats_alone(tested.curve[-1].beats)))
    ends = tested.reach.ci95_beats
    scale = [
        ScaleLine(_hangs(2.0**k), _alone_words(2**k, beat_s if size is WIDE else None)) for k in range(octaves + 1)
    ]
    xs = [size.left + (size.right - size.left) * point.chance for point in tested.curve]
    ys = [_y(point.beats) for point in tested.curve]
    return ReachPicture(
        name=size.name,
        width=size.width,
        height=_hangs(2.0**octaves) + 20,
        scale=scale,
        marks=_marks(tested, size),
        counts=_counts(tested.at.tried) if size.count_x else [],
        curve=_path(xs, ys),
        band=_band(tested, ys, size),
        labels=_labels(tested, try_beats),
        reach_band=(_y(ends[0]), _y(ends[1]) - _y(ends[0])) if ends else None,
        left=size.left,
        right=size.right,
        label_x=size.label_x,
        count_x=size.count_x or size.right + 28,
    )


def _alone_words(beats: int, beat_s: float | None) -> str:
    """Return a length on the scale, its seconds beside it where there is room."""
    seconds = "" if beat_s is None else f", {beats * beat_s:.2g}{NBSP}s"
    return f"{words.beats_words(beats + 1)}{seconds}"


def _labels(tested: Tested, try_beats: int) -> list[LengthLabel]:
    """Return what is named beside the picture, from the shortest length down, none over another."""
    named = [("next", float(try_beats), "try next")]
    if tested.reach.beats and words.bound_of(tested.reach):
        named.append(("reach", tested.reach.beats, "your reach"))
    if tested.predicted:
        named.append(("expected", tested.predicted.beats, "clock and lean"))
    found: list[LengthLabel] = []
    for kind, beats, name in sorted(named, key=lambda item: item[1]):
        y = _y(beats)
        text_y = max(y, found[-1].text_y + LABELS_APART) if found else y
        found.append(LengthLabel(kind, y, text_y, f"{name}: {words.beats_number(beats)}"))
    return found


def _marks(tested: Tested, size: ReachSize) -> list[SilenceMark]:
    """Return the silences: held to the right of the curve, others to the left, newest nearest to it.

    Those that are neither surely stand with the held ones, open, since most of them were.
    """
    seen: Counter[tuple[bool, float]] = Counter()
    found = []
    for one, weight in zip(tested.silences, tested.weights, strict=True):
        is_right = one.outcome in ("held", "edge")
        place = seen[is_right, one.beats]
        seen[is_right, one.beats] += 1
        if place < size.most:
            x = size.right + 16 + MARK_STEP * place if is_right else size.left - 16 - MARK_STEP * place
            found.append(SilenceMark(x, _y(one.beats), one.outcome, max(weight, FAINTEST)))
    return found


def _counts(tried: list[ChanceAt]) -> list[ScaleLine]:
    """Return the chance that each length is held, for the lengths that stand apart."""
    found: list[ScaleLine] = []
    for one in tried:
        if not found or _y(one.beats) - found[-1].y >= LABELS_APART:
            found.append(ScaleLine(_y(one.beats), f"{100 * one.chance:.0f}{NBSP}%"))
    return found


def _band(tested: Tested, ys: list[float], size: ReachSize) -> str:
    width = size.right - size.left
    low, high = ([size.left + width * point.ci95[end] for point in tested.curve] for end in (0, 1))
    return f"{_path(low, ys)}L{_path(high[::-1], ys[::-1])[1:]}Z"


def _path(xs: list[float], ys: list[float]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in zip(xs, ys, strict=True))


def _y(length: float) -> float:
    return _hangs(words.beats_alone(length))


def _hangs(alone: float) -> float:
    """Return how far down so many beats alone hang; what is shorter than one hangs with it."""
    return round(TOP + OCTAVE * log2(max(alone, 1.0)), 1)
