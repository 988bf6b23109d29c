"""The click as sound and as MIDI, read back by libraries that know nothing of us."""

import subprocess
import tempfile
import wave
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

import mido
import numpy as np
import pretty_midi
import soundfile
from numpy.testing import assert_allclose
from scipy.io import wavfile

from giusto.click.midi import write_midi
from giusto.click.sound import click_frames, write_sound
from giusto.click.voice import LEVELS, RATES_HZ, VOICES, click_samples
from giusto.drill import validate
from giusto.errors import GiustoError
from giusto.schedule import Schedule, schedule
from tests.drills import climbing, fixed, planned

ODD = dict(on=["1", "1+1/3", "2+2/3"], beats=7, bpm=132.5, silence=fixed(2, 1), cycles=6, grid=3, accent="first")


def onsets(sound: np.ndarray, rate_hz: int) -> list[int]:
    """Return the first frame of each sound that follows 5 ms of nothing."""
    loud = np.flatnonzero(np.abs(sound) > 0)
    starts = np.concatenate([[True], np.diff(loud) > 0.005 * rate_hz])
    return [int(frame) for frame in loud[starts]]


class FolderTestCase(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)


class VoiceTests(TestCase):
    def test_onset_is_the_first_sample_and_nothing_clips(self) -> None:
        for voice in VOICES:
            for kind in LEVELS:
                for rate_hz in RATES_HZ:
                    sound = click_samples(voice, kind, rate_hz=rate_hz)
                    self.assertGreater(abs(sound[0]), 0.1 * np.abs(sound).max())
                    self.assertLessEqual(np.abs(sound).max(), 1.0)
                    self.assertLess(abs(sound[-1]), 1e-3)

    def test_levels_and_voices_differ(self) -> None:
        energy = {kind: float((click_samples("wood", kind, rate_hz=48_000) ** 2).sum()) for kind in LEVELS}
        self.assertGreater(energy["accent"], 1.2 * energy["click"])
        self.assertGreater(energy["click"], 3 * energy["sub"])
        soft, others = VOICES["felt"].loudness, [v.loudness for n, v in VOICES.items() if n != "felt"]
        self.assertLess(soft, 0.5 * min(others))
        self.assertEqual(min(VOICES, key=lambda name: VOICES[name].pitch_hz), "low")

    def test_unknown_voice_and_rate(self) -> None:
        with self.assertRaises(GiustoError) as caught:
            click_samples("bell", "click", rate_hz=48_000)
        self.assertEqual(str(caught.exception), 'voice is "bell", allowed are wood, pin, felt, low')
        with self.assertRaises(GiustoError):
            click_samples("wood", "click", rate_hz=8000)


class SoundTests(FolderTestCase):
    def test_every_click_stands_on_its_sample(self) -> None:
        """soundfile, scipy and the standard library's wave read the same clicks."""
        plan = planned(**ODD)
        for rate_hz in RATES_HZ:
            asked = np.round(plan.seconds(plan.clicks.tick) * rate_hz).astype(int).tolist()
            path = self.folder / "click.wav"
            write_sound(plan, path, voice="wood", rate_hz=rate_hz)
            sound, found_hz = soundfile.read(path)
            self.assertEqual((found_hz, onsets(sound, rate_hz)), (rate_hz, asked))
            other_hz, other = wavfile.read(path)
            self.assertEqual((other_hz, onsets(other, rate_hz)), (rate_hz, asked))
            with wave.open(str(path)) as third:
                self.assertEqual((third.getnframes(), third.getnchannels()), (sound.size, 1))

    def test_flac_holds_the_same_samples(self) -> None:
        plan = planned(cycles=4)
        for name in ("click.wav", "click.flac"):
            write_sound(plan, self.folder / name, voice="pin", rate_hz=44_100)
        one, other = (soundfile.read(self.folder / name)[0] for name in ("click.wav", "click.flac"))
        assert_allclose(one, other, rtol=0, atol=2**-23)

    def test_clicks_across_a_block_border_are_whole(self) -> None:
        plan = planned(bpm=60, count_in=0, cycles=6, silence=None)  # a click at 10 s, where a block ends
        write_sound(plan, self.folder / "click.wav", voice="low", rate_hz=48_000)
        sound, _ = soundfile.read(self.folder / "click.wav")
        frame = int(click_frames(plan, rate_hz=48_000)[10])
        whole = click_samples("low", "click", rate_hz=48_000)
        assert_allclose(sound[frame : frame + whole.size], whole, rtol=0, atol=2**-22)

    def test_refusals(self) -> None:
        plan = planned()
        for name, voice, code in (("click.mp3", "wood", "ending"), ("click.wav", "bell", "voice")):
            with self.subTest(code), self.assertRaises(GiustoError) as caught:
                write_sound(plan, self.folder / name, voice=voice, rate_hz=48_000)
            self.assertEqual(caught.exception.code, code)
            self.assertFalse((self.folder / name).exists())
        with self.assertRaises(GiustoError) as caught:
            write_sound(planned(bpm=10, cycles=2000, beats=16), self.folder / "x.wav", voice="wood", rate_hz=48_000)
        self.assertEqual(caught.exception.code, "too_long")


class MidiTests(FolderTestCase):
    def written(self, plan: Schedule) -> Path:
        path = self.folder / "click.mid"
        write_midi(plan, path)
        return path

    def played_s(self, path: Path) -> list[float]:
        """Return when each note begins, as mido plays the file."""
        clock, found = 0.0, []
        for message in mido.MidiFile(path):
            clock += message.time
            if message.type == "note_on":
                found.append(clock)
        return found

    def tick_s(self, path: Path) -> float:
        file = mido.MidiFile(path)
        tempo = next(m.tempo for m in file.tracks[0] if m.type == "set_tempo")
        return tempo / 1e6 / file.ticks_per_beat

    def test_two_readers_find_every_click_within_a_tick(self) -> None:
        for changes in (ODD, {}, dict(on=["2", "4"], silence=None), dict(bpm=61.7, subdivide=5, cycles=3)):
            with self.subTest(**changes):
                plan = planned(**changes)
                path = self.written(plan)
                asked_s = plan.seconds(plan.clicks.tick)
                found = self.played_s(path)
                # The tempo event rounds to 1 µs a quarter: a millionth or so of the time.
                assert_allclose(found, asked_s, rtol=2e-6, atol=self.tick_s(path))
                notes = pretty_midi.PrettyMIDI(str(path)).instruments[0]
                self.assertTrue(notes.is_drum)
                assert_allclose(sorted(note.start for note in notes.notes), asked_s, rtol=2e-6, atol=self.tick_s(path))

    def test_midicsv_finds_every_click_on_its_tick_and_makes_the_same_file_again(self) -> None:
        """Debian's midicsv 1.1: to text and back; the clicks by its own reading of the file."""
        for changes in (ODD, {}, dict(bpm=61.7, subdivide=5, cycles=3)):
            with self.subTest(**changes):
                plan = planned(**changes)
                path = self.written(plan)
                text = subprocess.run(["midicsv", path], capture_output=True, check=True).stdout
                records = [line.split(", ") for line in text.decode("latin-1").splitlines()]
                division = next(int(r[5]) for r in records if r[2] == "Header")
                found = [int(r[1]) for r in records if r[2] == "Note_on_c" and r[5] != "0"]
                a_beat = Fraction(division, plan.ticks_per_beat)
                self.assertEqual(found, [int(tick) * a_beat for tick in plan.clicks.tick])
                self.assertEqual({r[3] for r in records if r[2] == "Note_on_c"}, {"9"})
                again = self.folder / "again.mid"
                subprocess.run(["csvmidi", "-", again], input=text, capture_output=True, check=True)
                one, other = mido.MidiFile(path), mido.MidiFile(again)
                self.assertEqual(one.ticks_per_beat, other.ticks_per_beat)
                self.assertEqual([list(track) for track in one.tracks], [list(track) for track in other.tracks])

    def test_metre_and_a_beat_that_is_no_quarter(self) -> None:
        drill = planned(beats=3, bpm=90, silence=None).drill
        plan = planned(beats=3, bpm=90, silence=None)
        dotted = drill.model_copy(update={"tempo": drill.tempo.model_copy(update={"beat": "3/8"})})
        from giusto.schedule import schedule

        path = self.written(schedule(dotted))
        meta = {m.type: m for m in mido.MidiFile(path).tracks[0] if m.is_meta}
        # music21 10.5.1: dotted quarter = 90 makes a quarter 135, so 444,444 µs.
        self.assertEqual(meta["set_tempo"].tempo, 444_444)
        self.assertEqual((meta["time_signature"].numerator, meta["time_signature"].denominator), (9, 8))
        starts = [note.start for note in pretty_midi.PrettyMIDI(str(path)).instruments[0].notes]
        assert_allclose(starts, plan.seconds(plan.clicks.tick), rtol=2e-6, atol=1e-3)

    def test_kinds_differ(self) -> None:
        plan = planned(accent="first", subdivide=2, cycles=2, silence=None, count_in=1)
        notes = [(m.note, m.velocity) for m in mido.MidiFile(self.written(plan)).tracks[1] if m.type == "note_on"]
        self.assertEqual(notes[:6], [(77, 100)] * 4 + [(76, 120), (77, 50)])

    def test_what_a_midi_file_cannot_hold(self) -> None:
        with self.assertRaises(GiustoError) as caught:
            self.written(planned(on=["1+1/9973", "2+1/9967"], silence=None))
        self.assertEqual(caught.exception.code, "too_fine")

    def test_a_changing_tempo_is_read_back_by_two_readers(self) -> None:
        plan = schedule(validate(climbing(60, cycles=24, every_cycles=2, by=7, to=99)))
        path = self.written(plan)
        asked_s = plan.seconds(plan.clicks.tick)
        assert_allclose(self.played_s(path), asked_s, rtol=4e-6, atol=self.tick_s(path))
        read = pretty_midi.PrettyMIDI(str(path))
        assert_allclose(sorted(n.start for n in read.instruments[0].notes), asked_s, rtol=4e-6, atol=self.tick_s(path))
        assert_allclose(read.get_tempo_changes()[1], [float(bpm) for bpm in plan.tempos.bpm], rtol=1e-5)
