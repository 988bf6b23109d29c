"""The same files read by us and by music21 10 (a general-purpose library): every onset of every bar."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import TestCase

import music21

from giusto.drill.passage import read_score
from tests.giusto.drill.passage.scores import bar, compressed, musicxml
from tests.giusto.drill.passage.test_midi import written

DEMO = Path(__file__).parents[4] / "src/studio/demo/lanterns_for_odo.musicxml"
# Ties over the bar, triplets, dotted notes, rests, chords, a grace note, three metres, a repeat with two endings.
TIED = musicxml(
    bar("q e e~ _q q", number=1, metre="4/4", tempo=88),
    bar("t t t q rq h~", number=2),
    bar("_q q. e q", number=3),
    bar("grace q q+ q e s s", number=4),
)
METRES = musicxml(
    bar("q q q q", number=1, metre="4/4"),
    bar("q e e q", number=2, metre="3/4"),
    bar("e e q", number=3, metre="2/4"),
)
REPEATED = musicxml(
    bar("q q q q", number=1, metre="4/4", repeat="<"),
    bar("e e q h", number=2, repeat=">", ending=1),
    bar("h e e q", number=3, ending=2),
)


def by_music21(content: bytes, suffix: str) -> list[list[Fraction]]:
    """Return the onsets of each bar in quarters, ties as one, chords as one, grace notes left out, repeats played."""
    with tempfile.NamedTemporaryFile(suffix=suffix) as file:
        file.write(content)
        file.flush()
        score: Any = music21.converter.parse(file.name, forceSource=True)
    found: dict[float, set[Fraction]] = {}
    for part in score.parts:
        played = part.expandRepeats() if part[music21.bar.Repeat] else part
        for number, measure in enumerate(played.getElementsByClass(music21.stream.Measure)):
            here = found.setdefault(number, set())
            for note in measure.recurse().notes:
                is_tied = note.tie is not None and note.tie.type in ("stop", "continue")
                if not is_tied and not note.duration.isGrace:
                    here.add(Fraction(note.getOffsetInHierarchy(measure)).limit_denominator(48))
    return [sorted(found[number]) for number in sorted(found)]


def by_us(content: bytes) -> list[list[Fraction]]:
    """Return the same by the reader under test."""
    bars = read_score(content).parts[0].hands[""]
    return [[onset * bar.beat * 4 for onset in bar.onsets] for bar in bars]


class BesideTests(TestCase):
    def test_musicxml(self) -> None:
        for name, content in (
            ("the demo's piece", DEMO.read_bytes()),
            ("ties", TIED),
            ("metres", METRES),
            ("repeats", REPEATED),
        ):
            with self.subTest(name):
                self.assertEqual(by_us(content), by_music21(content, ".musicxml"))

    def test_compressed_musicxml(self) -> None:
        self.assertEqual(by_us(compressed(TIED)), by_music21(compressed(TIED), ".mxl"))

    def test_midi(self) -> None:
        for starts_s in ((0.0, 0.5, 0.75, 1.0, 1.5, 2.0, 2.25, 3.5), (0.0, 0.25, 0.375, 0.5, 2.0, 3.0)):
            content = written(*starts_s)
            self.assertEqual(by_us(content), by_music21(content, ".mid"))
