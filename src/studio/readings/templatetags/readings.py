"""Figures of findings as words."""

from django import template

from giusto.practice.finding import Finding
from studio.sheet.words import NBSP, lean_words
from studio.vocabulary import spoken_place
from studio.words import number, ordinal

register = template.Library()

A_HAIR, A_LITTLE = 2.5, 5.0  # ours: percent; below the least displacement that is heard, and up to twice that


register.filter("spoken", spoken_place)
register.filter("lean_words", lean_words)


@register.filter
def before_colon(where: str) -> str:
    """Return the cycle of a place such as ``2:3+1/2``."""
    return where.partition(":")[0]


@register.filter
def after_colon(where: str) -> str:
    """Return the place in its cycle."""
    return where.partition(":")[2]


@register.filter
def chance_in_ten(chance: float) -> str:
    """Return a chance in words: ``7 chances in ten``, never none or all of them.

    Examples
    --------
    >>> chance_in_ten(0.66), chance_in_ten(0.999), chance_in_ten(0.12)
    ('7 chances in ten', '9 chances in ten', '1 chance in ten')
    """
    tenths = min(max(round(10 * chance), 1), 9)
    return f"{tenths} chance{'' if tenths == 1 else 's'} in ten"


@register.filter
def size_ms(ms: float) -> str:
    """Return a size without its side: ``4 ms``, below ten with a tenth."""
    size = abs(ms)
    return f"{size:.0f}{NBSP}ms" if size >= 9.95 else f"{size:.1f}{NBSP}ms"


@register.filter
def signed_percent(percent: float) -> str:
    """Return a change with its sign: ``+1.2 %``, ``−0.4 %``."""
    sign = "−" if percent < 0 else "+"
    return f"{sign}{abs(percent):.1f}{NBSP}%"


@register.filter
def is_sure(finding: Finding) -> bool:
    """Return whether the range of a lean lies on one side."""
    return bool(finding.ci95) and finding.ci95[0] * finding.ci95[1] > 0  # type: ignore[index]


@register.filter
def beats_off(beats: float) -> str:
    """Return whole beats lost or gained: ``lost a beat``."""
    size = abs(round(beats))
    many = "a beat" if size == 1 else f"{number(size)} beats"
    return f"{'gained' if beats > 0 else 'lost'} {many}"


@register.filter
def beats_away(beats: float) -> str:
    """Return how far something lies from its place, in beats and halves: ``one and a half beats later``."""
    whole, half = divmod(round(2 * abs(beats)), 2)
    size = " and a ".join([*([number(whole)] if whole else []), *(["half"] if half else [])])
    many = "half a beat" if not whole else f"{size} beat{'' if (whole, half) == (1, 0) else 's'}"
    return f"{many} {'later' if beats > 0 else 'earlier'}"


@register.filter
def share(value: float) -> str:
    """Return a share in percent."""
    return f"{100 * value:.0f}{NBSP}%"


@register.filter
def shares(ends: tuple[float, float]) -> str:
    """Return a range of shares in percent."""
    return f"{100 * ends[0]:.0f} to {100 * ends[1]:.0f}"


@register.filter
def slots(where: str) -> str:
    """Return slots of a beat as words: ``the beat to 1/2``."""
    start, _, end = where.partition(" to ")
    return f"{'the beat' if start == '0' else start} to {'the next' if end == '1' else end}"


@register.filter
def hair(percent: float) -> str:
    """Return a lean as a player would feel it: ``a hair``."""
    size = abs(percent)
    return "a hair" if size < A_HAIR else "a little" if size < A_LITTLE else "clearly"


@register.filter
def in_100(percent: float) -> str:
    """Return a lean as a part of a note: ``about 2 in 100``."""
    size = abs(percent)
    return f"about {size:.0f} in 100" if size >= 1 else "less than 1 in 100"


@register.filter
def nth(factor: float) -> str:
    """Return ``second`` for 2, and so on."""
    return ordinal(round(factor))


@register.filter
def span_ms(ends: tuple[float, float]) -> str:
    """Return a range of sizes."""
    return f"{ends[0]:.0f} to {ends[1]:.0f}{NBSP}ms"


@register.filter
def part(where: str) -> str:
    """Return a place of the beat as words: ``a third into the beat``."""
    return f"{where} into the beat"


@register.filter
def gains(ms: float) -> str:
    """Return what a gain of the clock does: late loses time, early gains it."""
    return "loses" if ms > 0 else "gains"
