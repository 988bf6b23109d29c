"""Every silence that was tried, hung as far down the page as it was long, and the curve with its band."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from math import log2

from django.urls import reverse

from studio.reach.templatetags import reach as words
from studio.reach.tested import One, Tested

WIDTH, TOP, OCTAVE = 724.0, 40.0, 74.0
CURVE_LEFT, CURVE_RIGHT = 212.0, 392.0  # where no silence is held, and where each is
MARK_STEP, MOST_MARKS = 10.0, 9
COUNT_X, LABEL_X = 548.0, 576.0
FAINTEST = 0.25
LABELS_APART = 18.0


@dataclass(frozen=True, slots=True)
class SilenceMark:
    """A silence: where it hangs, whether it was held, how much it still counts, where it leads."""

    x: float
    y: float
    is_held: bool
    opacity: float
    url: str


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

    width: float
    height: float
    scale: list[ScaleLine]
    marks: list[SilenceMark]
    counts: list[ScaleLine]
    curve: str
    band: str
    labels: list[LengthLabel]
    reach_band: tuple[float, float] | None
    left: float = CURVE_LEFT
    right: float = CURVE_RIGHT
    label_x: float = LABEL_X
    count_x: float = COUNT_X

    @property
    def curve_width(self) -> float:
        """From none held to all held."""
        return self.right - self.left


def draw(tested: Tested, beat_s: float) -> ReachPicture:
    """Lay out what is known of a reach."""
    octaves = round(log2(float(tested.curve.beats[-1])))
    ends = tested.reach.ci95_beats
    scale = [
        ScaleLine(_y(2.0**k), f"{2**k} beat{'s' if k else ''}, {2**k * beat_s:.2g}\u00a0s") for k in range(octaves + 1)
    ]
    xs = [CURVE_LEFT + (CURVE_RIGHT - CURVE_LEFT) * float(chance) for chance in tested.curve.chance]
    ys = [_y(float(beats)) for beats in tested.curve.beats]
    return ReachPicture(
        width=WIDTH,
        height=_y(2.0**octaves) + 20,
        scale=scale,
        marks=_marks(tested.silences),
        counts=_counts(tested.silences),
        curve=_path(xs, ys),
        band=_band(tested, ys),
        labels=_labels(tested),
        reach_band=(_y(ends[0]), _y(ends[1]) - _y(ends[0])) if ends else None,
    )


def _labels(tested: Tested) -> list[LengthLabel]:
    """Return what is named beside the picture, from the shortest length down, none over another."""
    named = [("next", float(tested.reach.next_beats), "try next")]
    if tested.reach.beats:
        named.append(("reach", tested.reach.beats, "your reach"))
    if tested.predicted:
        named.append(("expected", tested.predicted.beats, "clock and lean"))
    found: list[LengthLabel] = []
    for kind, beats, name in sorted(named, key=lambda item: item[1]):
        y = _y(beats)
        text_y = max(y, found[-1].text_y + LABELS_APART) if found else y
        found.append(LengthLabel(kind, y, text_y, f"{name}: {words.beats_number(beats)}"))
    return found


def _marks(silences: list[One]) -> list[SilenceMark]:
    """Return the silences: held to the right of the curve, others to the left, newest nearest to it."""
    seen: Counter[tuple[bool, float]] = Counter()
    found = []
    for one in silences:
        place = seen[one.is_held, one.beats]
        seen[one.is_held, one.beats] += 1
        if place < MOST_MARKS:
            x = CURVE_RIGHT + 16 + MARK_STEP * place if one.is_held else CURVE_LEFT - 16 - MARK_STEP * place
            url = reverse("readings:silence", args=[one.take, one.number])
            found.append(SilenceMark(x, _y(one.beats), one.is_held, max(one.weight, FAINTEST), url))
    return found


def _counts(silences: list[One]) -> list[ScaleLine]:
    """Return how many of each length were held, for the lengths that stand apart."""
    tried, held = Counter(one.beats for one in silences), Counter(one.beats for one in silences if one.is_held)
    found: list[ScaleLine] = []
    for beats in sorted(tried):
        if not found or _y(beats) - found[-1].y >= LABELS_APART:
            found.append(ScaleLine(_y(beats), f"{held[beats]}/{tried[beats]}"))
    return found


def _band(tested: Tested, ys: list[float]) -> str:
    width = CURVE_RIGHT - CURVE_LEFT
    low = [CURVE_LEFT + width * float(chance) for chance in tested.curve.low]
    high = [CURVE_LEFT + width * float(chance) for chance in tested.curve.high]
    return f"{_path(low, ys)}L{_path(high[::-1], ys[::-1])[1:]}Z"


def _path(xs: list[float], ys: list[float]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in zip(xs, ys, strict=True))


def _y(beats: float) -> float:
    return round(TOP + OCTAVE * max(log2(beats), 0.0), 1)
