"""Bars of a score as notation: engraved by verovio as SVG without styles of its own, its notes found by place."""

from __future__ import annotations

import io
import re
import zipfile
from dataclasses import dataclass
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import Element, SubElement, register_namespace, tostring

from defusedxml import ElementTree as Xml

from giusto.drill.passage.bars import TOGETHER
from giusto.drill.passage.musicxml import unpacked_score
from giusto.drill.passage.reader import MAX_BYTES, READ_MB, READ_S
from giusto.errors import GiustoError
from giusto.limited import limited

MOST_BARS = 64  # ours: of one picture
WIDE, NARROW = 2400, 1160  # verovio's units: a line of notation as wide as the page's column, and as a phone
SCALE = 40  # percent, ours
NAMESPACE = "http://www.w3.org/2000/svg"
SVG = f"{{{NAMESPACE}}}"
HREF = "{http://www.w3.org/1999/xlink}href"
# What a picture may hold: shapes and words, and of these no more than where and how they are drawn.
TAGS = frozenset(("svg", "g", "path", "use", "rect", "ellipse", "polygon", "polyline", "line", "text", "tspan", "defs"))
PLACES = (
    "id",
    "class",
    "d",
    "x",
    "y",
    "x1",
    "x2",
    "y1",
    "y2",
    "cx",
    "cy",
    "rx",
    "ry",
    "r",
    "width",
    "height",
    "points",
)
LOOKS = ("fill", "fill-opacity", "stroke", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-dasharray")
LETTERS = ("font-size", "font-style", "font-weight", "text-anchor")
NAMES = frozenset((*PLACES, *LOOKS, *LETTERS, "transform", "viewBox", "href", "color", "overflow"))
# Notes by their length in quarters, as MusicXML names them.
VALUES = {
    Fraction(4): "whole",
    Fraction(2): "half",
    Fraction(1): "quarter",
    Fraction(1, 2): "eighth",
    Fraction(1, 4): "16th",
    Fraction(1, 8): "32nd",
}
SHORT = ("eighth", "16th", "32nd", "64th")  # have a flag, or a beam
OPTIONS = {
    "pageHeight": 60_000,
    "adjustPageHeight": True,
    "pageMarginLeft": 20,
    "pageMarginRight": 20,
    "scale": SCALE,
    "header": "none",
    "footer": "none",
    "breaks": "auto",
    "svgViewBox": True,
    "svgRemoveXlink": True,
    "svgHtml5": False,
    "font": "Leipzig",
    "mnumInterval": 1,
    "stemWidth": 0.3,
}


@dataclass(frozen=True, slots=True)
class Engraving:
    """Some bars as notation.

    Attributes
    ----------
    svg, narrow : str
        On a wide page and on a phone's, with nothing in them but shapes and words.
    notes : list of (int, str, list of str)
        For each place where notes begin its printed bar, how far into that in quarters, such as ``3/2``, and the ids of
        the notes.
    """

    svg: str
    narrow: str
    notes: list[tuple[int, str, list[str]]]


def engrave_apart(content: bytes, part: str, first: int, last: int) -> Engraving:
    """Engrave bars of a score in a process of its own, with an end to its time and memory.

    Raises
    ------
    GiustoError
        As ``engrave`` does, and ``limit``.
    """
    return limited(engrave, content, part, first, last, seconds=READ_S, megabytes=READ_MB)


def engrave(content: bytes, part: str, first: int, last: int) -> Engraving:
    """Engrave bars of a part.

    Parameters
    ----------
    content : bytes
        MusicXML, compressed or not.
    part : str
        Its name, or the names of some that are one; the first part where none is called that.
    first, last : int
        Printed numbers of bars.

    Returns
    -------
    Engraving

    Raises
    ------
    GiustoError
        ``engraving``, where the file holds no notation, or verovio can't draw it.
    """
    if content.startswith(b"MThd"):
        raise GiustoError("a MIDI file holds no notation", code="engraving")
    root = _some_parts(content, part)
    _name_values(root)
    _beam(root)
    _leave_tempo_out(root)
    numbers = [measure.get("number", "") for measure in root.find("part").iter("measure")]
    inside = [index for index, text in enumerate(numbers, start=1) if text.isdecimal() and first <= int(text) <= last]
    if not inside or len(inside) > MOST_BARS:
        raise GiustoError(f"bars {first} to {last} can't be drawn: allowed are up to {MOST_BARS}", code="engraving")
    import verovio  # its shared library takes a moment to load: only where something is engraved

    verovio.enableLog(verovio.LOG_OFF)
    toolkit = verovio.toolkit()
    toolkit.setOptions(OPTIONS | {"pageWidth": WIDE})
    if not toolkit.loadData(tostring(root, encoding="unicode")):
        raise GiustoError("the score's notation can't be drawn", code="engraving")
    toolkit.select({"measureRange": f"{inside[0]}-{inside[-1]}"})
    toolkit.redoLayout()
    notes = _notes(toolkit.renderToTimemap({"includeMeasures": True}), numbers, range(inside[0] - 1, inside[-1]))
    wide = _plain(toolkit.renderToSVG(1))
    toolkit.setOptions(OPTIONS | {"pageWidth": NARROW})
    toolkit.redoLayout()
    return Engraving(wide, _plain(toolkit.renderToSVG(1)), notes)


def _some_parts(content: bytes, name: str) -> Any:
    """Return the score with all other parts left out."""
    if len(content) > MAX_BYTES:
        raise GiustoError(f"the score is larger than {MAX_BYTES:,} bytes", code="score")
    text = unpacked_score(content) if zipfile.is_zipfile(io.BytesIO(content)) else content
    root = Xml.fromstring(text, forbid_entities=True, forbid_external=True)
    listed = root.find("part-list")
    if root.tag != "score-partwise" or listed is None:
        raise GiustoError("the score is no MusicXML that can be read", code="score")
    parts = {one.get("id"): " ".join((one.findtext("part-name") or "").split()) for one in listed.iter("score-part")}
    names = [name] if name in parts.values() else name.split(TOGETHER)
    kept = [key for key, called in parts.items() if called in names] or list(parts)[:1]
    if len(names) == 1:
        kept = kept[:1]
    for one in [*listed]:
        if one.tag != "score-part" or one.get("id") not in kept:
            listed.remove(one)
    for one in root.findall("part"):
        if one.get("id") not in kept:
            root.remove(one)
    if root.find("part") is None:
        raise GiustoError("the score has no part", code="score")
    return root


def _name_values(root: Any) -> None:
    """Say which value a note has where its file gives no more than its length: verovio goes by the name alone."""
    divisions = 1
    for element in root.iter():
        if element.tag == "divisions" and (element.text or "").strip().isdecimal():
            divisions = max(int(element.text), 1)
        if element.tag == "note" and element.find("type") is None and element.find("grace") is None:
            length = Fraction((element.findtext("duration") or "0").strip() or 0) / divisions
            for dots, part in ((0, Fraction(1)), (1, Fraction(3, 2))):
                if name := VALUES.get(length / part):
                    SubElement(element, "type").text = name
                    for _ in range(dots):
                        SubElement(element, "dot")
                    break


def _beam(root: Any) -> None:
    """Beam the short notes of each beat where a part has no beams at all; a file’s own stay as they are.

    Of eighths and shorter in one voice, next to one another, within a beat: a quarter, dotted where eighths are
    counted in threes (common practice).
    """
    if root.find(".//beam") is not None:
        return
    divisions, beat = 1, Fraction(1)
    for measure in root.iter("measure"):
        divisions = max(_whole(measure, "attributes/divisions", divisions), 1)
        if measure.find("attributes/time") is not None:
            beats, kind = (_whole(measure, f"attributes/time/{name}", 4) for name in ("beats", "beat-type"))
            beat = Fraction(3, 2) if kind == 8 and beats % 3 == 0 else Fraction(1)
        groups: dict[tuple[str, int], list[Any]] = {}
        at = Fraction(0)
        for element in measure:
            length = Fraction((element.findtext("duration") or "0").strip() or 0) / divisions
            if element.tag in ("backup", "forward"):
                at += length if element.tag == "forward" else -length
            if element.tag != "note" or element.find("chord") is not None or element.find("grace") is not None:
                continue
            if element.findtext("type") in SHORT and element.find("rest") is None:
                groups.setdefault((element.findtext("voice") or "", int(at / beat)), []).append((at, length, element))
            at += length
        for some in groups.values():
            _beam_together(some)


def _whole(element: Any, path: str, other: int) -> int:
    """Return a whole number that a score gives, or another where it gives none."""
    text = (element.findtext(path) or "").strip()
    return int(text) if text.isdecimal() else other


def _beam_together(notes: list[tuple[Fraction, Fraction, Any]]) -> None:
    """Put one beam over each run of notes that follow one another."""
    runs: list[list[tuple[Fraction, Fraction, Any]]] = []
    for note in notes:
        if runs and runs[-1][-1][0] + runs[-1][-1][1] == note[0]:
            runs[-1].append(note)
        else:
            runs.append([note])
    for run in runs:
        for index, (_, _, element) in enumerate(run):
            if len(run) > 1:
                beam = SubElement(element, "beam", number="1")
                beam.text = "begin" if index == 0 else "end" if index == len(run) - 1 else "continue"


def _leave_tempo_out(root: Any) -> None:
    """Take the tempo over the first bar away: the page says which it is, and the sign asks for a font of its own."""
    for measure in root.iter("measure"):
        for direction in measure.findall("direction"):
            if direction.find(".//metronome") is not None or direction.find("sound[@tempo]") is not None:
                measure.remove(direction)
        for sound in measure.findall("sound"):
            measure.remove(sound)


def _notes(timemap: list[dict[str, Any]], numbers: list[str], inside: range) -> list[tuple[int, str, list[str]]]:
    """Return where notes of some measures begin, by bar and quarters into it, of the moments of the whole part."""
    found: list[tuple[int, str, list[str]]] = []
    index, began = -1, 0.0
    for moment in timemap:
        if "measureOn" in moment:
            index, began = index + 1, moment["qstamp"]
        if moment.get("on") and index in inside:
            at = Fraction(moment["qstamp"] - began).limit_denominator(96)
            found.append((int(numbers[index]), str(at), list(moment["on"])))
    return found


def _plain(svg: str) -> str:
    """Return a picture with only what it may hold: no style, script, link or text of the file's maker in attributes."""
    register_namespace("", NAMESPACE)
    root = Xml.fromstring(svg)
    _keep(root)
    return re.sub(r">\s+<", "><", tostring(root, encoding="unicode"))


def _keep(element: Element) -> None:
    for name in list(element.attrib):
        value = element.attrib.pop(name)
        short = "href" if name == HREF else name
        if short in NAMES and (short != "href" or value.startswith("#")):
            element.set(short, value)
    for child in list(element):
        if child.tag.removeprefix(SVG) in TAGS:
            _keep(child)
        else:
            element.remove(child)
