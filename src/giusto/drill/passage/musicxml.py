"""MusicXML by partitura, after a look that nothing in it reaches outside."""

from __future__ import annotations

import io
import warnings
import zipfile
import zlib
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from defusedxml import DefusedXmlException
from defusedxml import ElementTree as Xml

from giusto.drill.passage.bars import Bar, Score, ScorePart, counted
from giusto.errors import GiustoError

MAX_UNPACKED = 50_000_000  # ours
MOST_WRITTEN, MOST_REPEATS, MOST_TIMES = 60_000, 100, 16  # ours: an orchestra's movement stays under them
CONTAINER = "META-INF/container.xml"
QUARTER = Fraction(1, 4)
HANDS = {"": None, "upper": 1, "lower": 2}  # by their staff
# What a printed tempo counts, in quarters; a dot makes it half as long again.
UNITS = {"w": 4.0, "h": 2.0, "q": 1.0, "e": 0.5, "s": 0.25}


def read_compressed(content: bytes) -> Score:
    """Read a compressed MusicXML file: a zip whose container names the score in it."""
    return read_musicxml(unpacked_score(content))


def unpacked_score(content: bytes) -> bytes:
    """Return the score that the container of a compressed MusicXML file names.

    Raises
    ------
    GiustoError
    """
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as bundle:
            inside = {item.filename: item for item in bundle.infolist()}
            root = Xml.fromstring(_unpacked(bundle, inside, CONTAINER))
            path = next((e.get("full-path") for e in root.iter() if e.tag.endswith("rootfile")), None)
            return _unpacked(bundle, inside, path or "")
    except (zipfile.BadZipFile, OSError, RuntimeError, NotImplementedError, EOFError, zlib.error) as error:
        raise GiustoError(f"the compressed score can't be unpacked: {error}", code="score") from None
    except (Xml.ParseError, DefusedXmlException, ValueError, LookupError) as error:  # also a strange encoding
        raise GiustoError(f"the compressed score's container can't be read: {error}", code="score") from None


def read_musicxml(content: bytes) -> Score:
    """Read a MusicXML file."""
    try:
        root = Xml.fromstring(content, forbid_entities=True, forbid_external=True)
    except (Xml.ParseError, DefusedXmlException, ValueError, LookupError) as error:
        raise GiustoError(f"the score is no MusicXML that can be read: {str(error)[:120]}", code="score") from None
    if root.tag != "score-partwise":
        problem = f"a score-partwise, found {root.tag[:40]}"
        raise GiustoError(f"the score is no MusicXML that can be read: allowed is {problem}", code="score")
    _check_size(root)
    title = root.findtext("work/work-title") or root.findtext("movement-title") or ""
    from partitura import load_musicxml, score  # it takes a second to load: only where a score is read

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            loaded = load_musicxml(io.BytesIO(content), validate=False)
            parts = [score.unfold_part_maximal(part) for part in loaded.parts]
            read = tuple(ScorePart(_name(part, n), _hands(part, score)) for n, part in enumerate(parts, start=1))
            tempo = _quarters_a_minute(parts, score)
    except GiustoError:
        raise
    except Exception as error:  # whatever a score that is not well made does in there
        problem = "something in the score can't be worked with: it is damaged, or not as its format asks"
        raise GiustoError(problem, code="score") from error
    if not read:
        raise GiustoError("the score has no part", code="score")
    return Score(" ".join(title.split()), tempo, read)


def _check_size(root: Any) -> None:
    """Refuse what takes for ever to unfold: very many notes, or repeats within repeats.

    Raises
    ------
    GiustoError
    """
    notes, repeats = (sum(1 for _ in root.iter(name)) for name in ("note", "repeat"))
    if notes > MOST_WRITTEN:
        raise GiustoError(f"the score has {notes:,} notes and rests, allowed are {MOST_WRITTEN:,}", code="score")
    if repeats > MOST_REPEATS:
        raise GiustoError(f"the score has {repeats} repeat signs, allowed are {MOST_REPEATS}", code="score")
    for repeat in root.iter("repeat"):
        times = repeat.get("times", "2")
        if not times.isdecimal() or not 1 <= int(times[:4]) <= MOST_TIMES:
            problem = f"allowed are 1 to {MOST_TIMES} times"
            raise GiustoError(f'a repeat is played "{times[:12]}" times, {problem}', code="score")


def _unpacked(bundle: zipfile.ZipFile, inside: dict[str, zipfile.ZipInfo], path: str) -> bytes:
    if path not in inside:
        raise GiustoError(f'the compressed score has no "{path[:60] or CONTAINER}" in it', code="score")
    with bundle.open(inside[path]) as stream:
        text = stream.read(MAX_UNPACKED + 1)
    if len(text) > MAX_UNPACKED:
        raise GiustoError(f"the compressed score unpacks to more than {MAX_UNPACKED:,} bytes", code="score")
    return text


def _name(part: Any, number: int) -> str:
    return " ".join((part.part_name or f"Part {number}").split())[:60]


def _hands(part: Any, score: Any) -> dict[str, tuple[Bar, ...]]:
    staves = {note.staff for note in part.iter_all(score.GenericNote, include_subclasses=True) if note.staff}
    wanted = HANDS if staves >= {1, 2} else {"": None}
    return {hand: tuple(_bars(part, score, staff)) for hand, staff in wanted.items()}


def _bars(part: Any, score: Any, staff: int | None) -> Iterator[Bar]:
    notes = [note for note in part.iter_all(score.Note, include_subclasses=True) if staff in (None, note.staff)]
    signatures = list(part.iter_all(score.TimeSignature))
    for measure in part.iter_all(score.Measure):
        start, end = measure.start.t, measure.end.t
        number = str(measure.name if getattr(measure, "name", None) is not None else measure.number)
        signature = next((one for one in reversed(signatures) if one.start.t <= start), None)
        if signature is None:
            raise GiustoError(f"bar {number} has no time signature, allowed is one from the start on", code="score")
        beat, full = counted(int(signature.beats), int(signature.beat_type))
        a_beat = Fraction(int(part.quarter_duration_map(start))) * beat / QUARTER
        here = [note for note in notes if start <= note.start.t < end]
        begun = [note for note in here if not isinstance(note, score.GraceNote) and note.tie_prev is None]
        onsets = sorted({Fraction(note.start.t - start) / a_beat for note in begun})
        grace = sum(isinstance(note, score.GraceNote) for note in here)
        yield Bar(number, beat, Fraction(end - start) / a_beat, full, tuple(onsets), grace)


def _quarters_a_minute(parts: list[Any], score: Any) -> float | None:
    """Return the first tempo that the score has, in quarters a minute."""
    for part in parts:
        for tempo in part.iter_all(score.Tempo):
            unit = str(tempo.unit or "q")
            quarters = UNITS.get(unit.rstrip("."))
            if tempo.bpm and quarters:
                return float(tempo.bpm) * quarters * 1.5 ** unit.count(".")
    return None
