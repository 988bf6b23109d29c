"""The notation of a stretch with the marks of its rush map on its notes."""

from __future__ import annotations

import re
from collections.abc import Iterable
from fractions import Fraction

from django.utils.safestring import SafeString, mark_safe

from giusto.drill import position
from giusto.practice.rush import Lean
from studio.pieces.models import Piece, Stretch
from studio.pieces.music import bars_of
from studio.sheet.words import signed_ms

QUARTER = Fraction(1, 4)


def notation(piece: Piece, stretch: Stretch, leans: Iterable[Lean], width: str = "svg") -> SafeString:
    """Return a stretch's notation, each note that leans by more than chance marked; ``""`` without one.

    ``width`` is ``svg`` for a wide page, ``narrow`` for a phone.

    What is kept of it holds shapes and words alone: ``giusto.drill.passage.engraving`` let nothing else through.
    """
    kept = stretch.engraved or {}
    svg = str(kept.get(width, ""))
    beats = {int(bar.number): bar.beat for bar in bars_of(piece.music) if bar.number.isdecimal()}
    ids = {(bar, Fraction(at)): some for bar, at, some in kept.get("notes", ())}
    for one in leans:
        if not one.leans:
            continue
        at = position.parse(one.position) * beats.get(one.bar, QUARTER) / QUARTER
        side = "late" if one.gain_ms > 0 else "early"
        for id_ in ids.get((one.bar, at), ()):
            title = f"<title>bar {one.bar}, beat {one.position}: {signed_ms(one.gain_ms)}</title>"
            asked = rf'(<g)(?=[^>]*\bid="{re.escape(id_)}")([^>]*?)class="note"([^>]*>)'
            svg = re.sub(asked, rf'\1\2class="note {side}"\3{title}', svg, count=1)
    return mark_safe(svg)  # noqa: S308 - shapes and words alone
