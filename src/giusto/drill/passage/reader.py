"""Scores from files: MusicXML, also compressed, and MIDI."""

from __future__ import annotations

from collections.abc import Sequence

from giusto.drill.file import MOST_BEATS
from giusto.drill.passage.bars import Bar, Score
from giusto.errors import GiustoError
from giusto.limited import limited

MAX_BYTES = 20_000_000  # ours: an opera's full score stays under it
MOST_NOTES, MOST_BARS = 50_000, 10_000  # ours: of a part, as it is played
READ_S, READ_MB = 60, 2000  # ours: more than the largest score that was tried needs


def read_score_apart(content: bytes) -> Score:
    """Read a score in a process of its own, with an end to its time and memory.

    Raises
    ------
    GiustoError
        As ``read_score`` does, and ``limit``.
    """
    return limited(read_score, content, seconds=READ_S, megabytes=READ_MB)


def read_score(content: bytes) -> Score:
    """Read a score, by what it holds and not by its name.

    Parameters
    ----------
    content : bytes
        MusicXML, compressed MusicXML or a Standard MIDI File.

    Returns
    -------
    Score

    Raises
    ------
    GiustoError
        ``score``, where it is none of these or can't be read.
    """
    if len(content) > MAX_BYTES:
        raise GiustoError(f"the score is larger than {MAX_BYTES:,} bytes", code="score")
    score = _read(content)
    for part in score.parts:
        for bars in part.hands.values():
            _check(bars)
    return score


def _read(content: bytes) -> Score:
    if content.startswith(b"MThd"):
        from giusto.drill.passage.midi import read_midi

        return read_midi(content)
    if content.startswith(b"PK"):
        from giusto.drill.passage.musicxml import read_compressed

        return read_compressed(content)
    if content.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<") or content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        from giusto.drill.passage.musicxml import read_musicxml

        return read_musicxml(content)
    raise GiustoError("the score is neither MusicXML (.musicxml, .mxl) nor MIDI (.mid)", code="score")


def _check(bars: Sequence[Bar]) -> None:
    """Refuse bars that nobody could play or draw.

    Raises
    ------
    GiustoError
        ``score``, with the bar.
    """
    if len(bars) > MOST_BARS:
        raise GiustoError(f"the score has {len(bars):,} bars as it is played, allowed are {MOST_BARS:,}", code="score")
    for bar in bars:
        if not 0 < bar.beats <= MOST_BEATS:
            problem = f"{float(bar.beats):.6g} beats, allowed are more than 0 up to {MOST_BEATS}"
            raise GiustoError(f"bar {bar.number[:20]} has {problem}", code="score")
    if (count := sum(len(bar.onsets) for bar in bars)) > MOST_NOTES:
        raise GiustoError(f"the score has {count:,} notes as it is played, allowed are {MOST_NOTES:,}", code="score")
