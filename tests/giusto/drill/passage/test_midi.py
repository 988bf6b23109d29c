"""Passages of MIDI files, written by pretty_midi and mido."""

from __future__ import annotations

import io
from unittest import TestCase

import mido
import pretty_midi

from giusto.drill.passage import chosen_bars, passage_drill, read_score
from giusto.errors import GiustoError


def written(*starts_s: float, bpm: float = 120.0, metre: tuple[int, int] = (4, 4)) -> bytes:
    """Return a MIDI file with notes at these times, by pretty_midi."""
    file = pretty_midi.PrettyMIDI(resolution=480, initial_tempo=bpm)
    file.time_signature_changes.append(pretty_midi.TimeSignature(*metre, 0))
    played = pretty_midi.Instrument(program=12, name="Marimba")
    played.notes = [pretty_midi.Note(80, 60, start, start + 0.1) for start in starts_s]
    file.instruments.append(played)
    buffer = io.BytesIO()
    file.write(buffer)
    return buffer.getvalue()


class MidiTests(TestCase):
    def test_bars_onsets_and_tempo(self) -> None:
        """At 120 a quarter lasts half a second: 0, 0.75 and 2 s are beats 1 and 2+1/2, and beat 1 of the second bar."""
        score = read_score(written(0.0, 0.75, 2.0))
        bars = score.part(None).hands[""]
        drill = passage_drill(bars, quarters_a_minute=score.quarters_a_minute, name="")
        self.assertEqual((drill.tempo.bpm, drill.cycle.beats, drill.part.grid, drill.cycles), (120, 4, 2, 2))
        self.assertEqual([list(turn.at) for turn in drill.part.play], [["1", "2+1/2"], ["1"]])  # type: ignore[union-attr]

    def test_metre_and_the_bars_that_are_asked(self) -> None:
        score = read_score(written(0.0, 0.5, 1.5, 2.0, 2.5, metre=(3, 4)))
        drill = passage_drill(chosen_bars(score.parts[0].hands[""], "2"), quarters_a_minute=120, name="")
        self.assertEqual((drill.cycle.beats, list(drill.part.play)), (3, ["1", "2", "3"]))

    def test_played_notes_are_refused_with_their_bar(self) -> None:
        with self.assertRaisesRegex(GiustoError, "bar 2: a note begins at .* no division of the beat"):
            read_score(written(0.0, 2.0123))

    def test_a_file_without_notes(self) -> None:
        file = mido.MidiFile()
        file.tracks.append(mido.MidiTrack())
        buffer = io.BytesIO()
        file.save(file=buffer)
        with self.assertRaisesRegex(GiustoError, "has no note"):
            read_score(buffer.getvalue())
