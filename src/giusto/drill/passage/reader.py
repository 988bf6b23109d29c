"""Scores from files: MusicXML, also compressed, and MIDI."""

from __future__ import annotations

from giusto.drill.passage.bars import Score
from giusto.errors import GiustoError

MAX_BYTES = 20_000_000  # ours: an opera's full score stays under it


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
