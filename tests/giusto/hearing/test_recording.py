"""Recordings made elsewhere: time zero and the recorder's clock from the click's bleed, else by the notes."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path
from unittest import TestCase

import mido
import numpy as np
import soundfile
from scipy.ndimage import uniform_filter1d

from giusto.arrays import FloatArray
from giusto.click.voice import OWN_RATE_HZ, OwnSound
from giusto.errors import GiustoError
from giusto.hearing.performance import as_chords, performed
from giusto.hearing.recorder_clock import ClockLine
from giusto.hearing.recording import Recording, by_notes, heard, listed, recorded
from giusto.hearing.sound import Samples
from giusto.notes.record import notes_of
from giusto.reading import analyse
from giusto.simulation.instrument import LEAD_S, Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

PLAN = planned(cycles=16)
HAND = SimulatedPlayer(bias_percent=-1.2, clock_percent=0.9, hand_ms=6.0, place_ms=-8.0)
RATE_HZ = 44_100


def heard_of(room: Room, seed: int = 3) -> tuple[Recording, FloatArray]:
    """Return what is found in a recording, and when the notes were played."""
    onsets_s = simulate(PLAN, HAND, seed=seed).onsets_s
    return heard(Samples(recording(PLAN, onsets_s, room, seed=seed), RATE_HZ), PLAN), onsets_s


def nearest_ms(found_s: FloatArray, truth_s: FloatArray) -> FloatArray:
    """Return the distance of each played note to the nearest found one."""
    return np.array([1000 * found_s[np.argmin(np.abs(found_s - at))] - 1000 * at for at in truth_s])


class BleedTests(TestCase):
    def test_time_zero_and_the_recorders_clock(self) -> None:
        """±200 ppm to 5 ppm, time zero to 0.3 ms, with ranges that hold them."""
        for ppm, delay_ms in ((80.0, 40.0), (-200.0, 0.0), (200.0, 250.0), (0.0, 12.5)):
            with self.subTest(ppm=ppm):
                found, _ = heard_of(Room("skin", -25.0, -60.0, delay_ms, ppm))
                zero_s = (LEAD_S + delay_ms / 1000) * (1 + ppm * 1e-6)
                line = found.line
                self.assertEqual(line.by, "bleed")
                assert line.ppm is not None
                assert line.ppm_ci95 is not None
                self.assertLess(abs(line.ppm - ppm), 5.0)
                self.assertLess(abs(line.zero_s - zero_s), 0.0003)
                self.assertLess(line.ppm_ci95[0] - 1, ppm)
                self.assertGreater(line.ppm_ci95[1] + 1, ppm)

    def test_notes_that_fall_on_clicks_are_found_and_the_click_is_none(self) -> None:
        found, truth_s = heard_of(Room("wood", -20.0, -60.0, 40.0, 80.0))
        errors = nearest_ms(found.notes.onset_s, truth_s)
        self.assertGreaterEqual(float(np.mean(np.abs(errors) < 10)), 0.97)
        self.assertLess(len(found.notes), 1.05 * truth_s.size)
        self.assertLess(float(np.std(errors[np.abs(errors) < 10])), 1.0)

    def test_a_click_of_ones_own_that_rings_is_taken_out_as_long_as_it_sounds(self) -> None:
        """A bell of a third of a second, which is like itself at each of its cycles, and would begin anew where cut."""
        plan = planned(cycles=8)
        for lasts_s, decay_s, levels_db in ((0.10, 0.05, (-10.0,)), (0.35, 0.33, (-20.0, -30.0))):
            time_s = np.arange(round(lasts_s * OWN_RATE_HZ)) / OWN_RATE_HZ
            rings = sum(np.cos(2 * np.pi * 700 * ratio * time_s) / ratio for ratio in (1, 2.3, 3.7))
            struck = 0.5 * np.random.default_rng(1).standard_normal(time_s.size) * np.exp(-time_s / 0.004)
            bell = rings * np.exp(-time_s / decay_s) + struck
            bell *= np.minimum(1, (lasts_s - time_s) / 0.01) / np.max(np.abs(bell))
            voice = OwnSound(0.9 * bell, 700.0)
            truth_s = simulate(plan, HAND, seed=3).onsets_s
            for bleed_db in levels_db:
                samples = recording(plan, truth_s, Room("wood", bleed_db, -60.0, 40.0, 80.0), seed=3, voice=voice)
                found = heard(Samples(samples, RATE_HZ), plan, voices=(voice,))
                with self.subTest(lasts_s=lasts_s, decay_s=decay_s, bleed_db=bleed_db):
                    self.assertLess(abs(found.line.zero_s - (LEAD_S + 0.040) * (1 + 80e-6)), 0.0003)
                    self.assertGreaterEqual(float(np.mean(np.abs(nearest_ms(found.notes.onset_s, truth_s)) < 10)), 0.97)
                    self.assertLess(len(found.notes), 1.1 * truth_s.size)

    def test_the_reading_is_that_of_the_notes_as_they_were_played(self) -> None:
        """A recording through loudspeaker and room, at another clock, and the notes themselves: within their ranges."""
        found, truth_s = heard_of(Room("skin", -25.0, -60.0, 40.0, 120.0))
        ours, theirs = analyse(PLAN, found.notes).reading, analyse(PLAN, truth_s).reading
        self.assertEqual([one.outcome for one in ours.silences], [one.outcome for one in theirs.silences])
        for one, other in zip(ours.silences, theirs.silences, strict=True):
            assert one.drift_ms is not None
            assert other.drift_ms is not None
            self.assertAlmostEqual(one.drift_ms, other.drift_ms, delta=3.0)
        self.assertAlmostEqual(ours.heard.mean_error_ms or 0.0, theirs.heard.mean_error_ms or 0.0, delta=1.0)

    def test_without_bleed_the_notes_tell_and_what_they_cannot_is_left_out(self) -> None:
        found, truth_s = heard_of(Room("skin", None, -60.0))
        self.assertEqual((found.line.by, found.line.ppm), ("notes", None))
        self.assertIn("your place with the click", found.remarks[0])
        ours, theirs = analyse(PLAN, found.notes).reading, analyse(PLAN, truth_s).reading
        for one, other in zip(ours.silences, theirs.silences, strict=True):
            self.assertAlmostEqual(one.drift_ms or 0.0, other.drift_ms or 0.0, delta=3.0)

    def test_a_recording_of_nothing_is_refused(self) -> None:
        with self.assertRaisesRegex(GiustoError, "has 0 notes, allowed are 3 at least"):
            heard(Samples(np.zeros(3 * RATE_HZ), RATE_HZ), PLAN)

    def test_by_its_ending(self) -> None:
        onsets_s = simulate(PLAN, HAND, seed=5).onsets_s
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "take.flac"
            soundfile.write(path, recording(PLAN, onsets_s, Room("wood", -25.0), seed=5), RATE_HZ)
            told: list[float] = []
            self.assertEqual(recorded(path, PLAN, told=told.append).source().by, "bleed")
            self.assertEqual(told, sorted(told))
            self.assertTrue(0 < told[0] < 0.2 and 0.8 < told[-1] <= 1, (told[0], told[-1]))
            path = Path(folder) / "take.mid"
            path.write_bytes(midi(onsets_s + 2.0))
            found = recorded(path, PLAN)
        self.assertEqual((found.kind, found.line.by), ("midi", "notes"))
        errors = nearest_ms(found.notes.onset_s, onsets_s)
        self.assertLess(float(np.std(errors)), 1.5)  # MIDI's ticks


class RoomTests(TestCase):
    def test_what_is_out_of_range_is_refused(self) -> None:
        for fields, said in (
            ({"sound": "glass"}, 'sound is "glass", allowed are skin'),
            ({"bleed_db": 3.0}, "bleed_db is 3, allowed are -80 to 0"),
            ({"ppm": 900.0}, "ppm is 900"),
            ({"delay_ms": -1.0}, "delay_ms is -1"),
        ):
            with self.assertRaisesRegex(GiustoError, said):
                Room(**fields)  # type: ignore[arg-type]


def midi(times_s: FloatArray) -> bytes:
    """Return a performance as a MIDI file, written by mido."""
    file = mido.MidiFile(ticks_per_beat=960)
    track = mido.MidiTrack()
    file.tracks.append(track)
    last = 0
    for at in np.round(times_s * 1920).astype(int).tolist():  # 120 quarters a minute
        track.append(mido.Message("note_on", note=60, velocity=80, time=at - last))
        track.append(mido.Message("note_off", note=60, velocity=0, time=0))
        last = at
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


class PerformanceTests(TestCase):
    def test_velocity_is_strength_and_a_chord_is_one_note(self) -> None:
        found = performed(midi(np.array([0.0, 0.5, 0.51, 0.529, 1.0])))
        np.testing.assert_allclose(found.onset_s, [0.0, 0.5, 1.0], rtol=0, atol=1e-3)
        np.testing.assert_allclose(found.strength, 80 / 127, rtol=0, atol=1e-12)
        apart = as_chords(notes_of([0.0, 0.0301], strength=[0.1, 0.2]))
        self.assertEqual(len(apart), 2)

    def test_what_is_no_performance_is_refused(self) -> None:
        for content, said in ((b"", "can't be read"), (b"MThd", "can't be read"), (midi(np.zeros(0)), "has no note")):
            with self.assertRaisesRegex(GiustoError, said):
                performed(content)


class OddTests(TestCase):
    """What people's files are like: talk first, two takes in one, begun late, too loud, pumped by a gain control."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.plan = planned(cycles=8)
        cls.onsets_s = simulate(cls.plan, HAND, seed=3).onsets_s
        cls.samples = recording(cls.plan, cls.onsets_s, Room("skin", -25.0, -60.0, 40.0, 120.0), seed=3)
        cls.drifts_ms = cls.drifts(heard(Samples(cls.samples, RATE_HZ), cls.plan))

    @classmethod
    def drifts(cls, found: Recording) -> FloatArray:
        """Return the drift of each silence."""
        return np.array([one.drift_ms for one in analyse(cls.plan, found.notes).reading.silences], dtype=float)

    def read(self, samples: FloatArray) -> Recording:
        """Return what is heard, the drifts of its silences as of the plain recording."""
        found = heard(Samples(samples, RATE_HZ), self.plan)
        self.assertEqual(found.line.by, "bleed")
        np.testing.assert_allclose(self.drifts(found), self.drifts_ms, rtol=0, atol=3.0)
        return found

    def test_half_a_minute_of_talk_before_the_drill(self) -> None:
        drawn = np.random.default_rng(1)
        talk = np.zeros(30 * RATE_HZ)
        for at in drawn.integers(0, talk.size - RATE_HZ, 90).tolist():
            time_s = np.arange(round(drawn.uniform(0.08, 0.3) * RATE_HZ)) / RATE_HZ
            voice = sum(np.sin(2 * np.pi * drawn.uniform(100, 250) * k * time_s) / k for k in range(1, 12))
            talk[at : at + time_s.size] += 0.15 * np.hanning(time_s.size) * voice
        found = self.read(np.concatenate([talk, self.samples]))
        self.assertAlmostEqual(found.line.zero_s, 30 + LEAD_S + 0.04, delta=0.001)

    def test_two_takes_in_one_file_are_said(self) -> None:
        found = self.read(np.concatenate([self.samples, np.zeros(2 * RATE_HZ), self.samples]))
        self.assertIn("more than once", found.remarks[0])
        self.assertIn("cut the file in two", found.remarks[0])

    def test_one_take_is_never_two(self) -> None:
        found = self.read(np.concatenate([self.samples, np.zeros(self.samples.size)]))
        self.assertEqual(found.remarks, ())

    def test_begun_after_the_click(self) -> None:
        self.assertLess(self.read(self.samples[round(5.5 * RATE_HZ) :]).line.zero_s, -4.0)

    def test_too_loud_and_pumped(self) -> None:
        self.read(np.clip(8 * self.samples, -1, 1))
        level = uniform_filter1d(np.abs(self.samples), RATE_HZ // 5, mode="constant")
        self.read(0.05 * self.samples / np.maximum(level, 0.002))


class ByNotesTests(TestCase):
    """Notes whose times are written down."""

    PLAN = planned(cycles=4, grid=1, count_in=1)

    def asked_s(self) -> FloatArray:
        """Return the notes that are asked for."""
        return self.PLAN.seconds(self.PLAN.notes.tick)

    def counts_s(self) -> FloatArray:
        """Return the clicks of the count-in."""
        return self.PLAN.seconds(self.PLAN.clicks.tick[self.PLAN.kinds == "count"])

    def test_time_zero_is_where_all_of_them_lie_best(self) -> None:
        """The median of what each is off, and the range of a mean."""
        off_s = np.random.default_rng(1).normal(0, 0.01, self.asked_s().size)
        found = by_notes(notes_of(7.5 + self.asked_s() + off_s), self.PLAN, kind="sound")
        line = found.line
        self.assertEqual((line.by, line.ppm, found.kind), ("notes", None, "sound"))
        self.assertAlmostEqual(line.zero_s, 7.5 + float(np.median(off_s)), places=6)
        half_s = 1.959964 * float(np.std(off_s)) / np.sqrt(off_s.size)
        np.testing.assert_allclose(line.zero_ci95_s, (line.zero_s - half_s, line.zero_s + half_s), atol=1e-7)
        np.testing.assert_allclose(found.notes.onset_s, self.asked_s() + off_s - np.median(off_s), atol=1e-9)
        self.assertIn("fit the asked tempo best", found.remarks[0])

    def test_noises_before_the_first_are_none_of_it(self) -> None:
        for early in (1, 7):
            noises_s = -30.0 + 0.37 * np.arange(early)
            found = by_notes(notes_of(np.concatenate([noises_s, self.asked_s()]) + 40), self.PLAN, kind="sound")
            self.assertAlmostEqual(found.line.zero_s, 40.0, places=6)

    def test_a_count_in_that_was_played_is_time_zero(self) -> None:
        counts_s = self.counts_s()
        off_s = np.array([0.01, -0.01, 0.02, 0.0])
        played_s = np.concatenate([counts_s + off_s, self.asked_s() + 0.03])
        found = by_notes(notes_of(5.0 + played_s), self.PLAN, kind="notes")
        self.assertEqual(found.line.by, "count")
        self.assertAlmostEqual(found.line.zero_s, 5.0 + float(off_s.mean()), places=6)
        half_s = 1.959964 * float(np.std(off_s)) / 2
        self.assertAlmostEqual(found.line.zero_ci95_s[1] - found.line.zero_s, half_s, places=6)
        self.assertIn("the count-in that you played", found.remarks[0])
        far_s = played_s.copy()
        far_s[2] += 0.3 * self.PLAN.beat_s  # one that is far off is no count-in
        self.assertEqual(by_notes(notes_of(far_s), self.PLAN, kind="notes").line.by, "notes")

    def test_three_notes_are_enough_and_two_are_not(self) -> None:
        self.assertEqual(len(by_notes(notes_of(self.asked_s()[:3]), self.PLAN, kind="sound").notes), 3)
        with self.assertRaisesRegex(GiustoError, "the recording has 2 notes, allowed are 3 at least"):
            by_notes(notes_of(self.asked_s()[:2]), self.PLAN, kind="sound")

    def test_a_file_of_onsets_stands_as_it_is_where_half_of_it_fits(self) -> None:
        asked_s = self.asked_s()
        strays_s = asked_s[-1] + 60 + 0.37 * np.arange(asked_s.size)
        for strays, stands in ((asked_s.size, True), (asked_s.size + 1, False)):
            more_s = np.append(strays_s, strays_s[-1] + 0.37)[:strays]
            found = listed(notes_of(np.concatenate([asked_s, more_s])), self.PLAN)
            self.assertEqual(found.line.by == "file", stands)
        self.assertEqual(listed(notes_of([900.0, 901.0]), self.PLAN).line.by, "file")
        with self.assertRaisesRegex(GiustoError, "no onsets"):
            listed(notes_of([]), self.PLAN)

    def test_what_a_reading_says_of_it(self) -> None:
        line = ClockLine(1.23456789, (1.2, 1.3), 12.3456, (10.001, 14.999), "bleed", 0.9)
        source = Recording(notes_of([1.0]), line, "sound", (), ("as it is",)).source()
        self.assertEqual((source.zero_s, source.zero_ci95_ms), (1.234568, (1200.0, 1300.0)))
        self.assertEqual((source.clock_ppm, source.clock_ci95_ppm), (12.35, (10.0, 15.0)))
        self.assertEqual((source.kind, source.by, source.notes), ("sound", "bleed", ("as it is",)))
        bare = Recording(notes_of([1.0]), ClockLine(0.0, (0.0, 0.0), None, None, "notes"), "sound", ()).source()
        self.assertEqual((bare.clock_ppm, bare.clock_ci95_ppm), (None, None))


class ChordTests(TestCase):
    def test_what_comes_within_30_ms_of_a_chords_first_is_of_it(self) -> None:
        at_s = [0.0, 0.02, 0.029, 0.0301, 0.05, 0.0602]
        found = as_chords(notes_of(at_s, strength=[0.3, 0.2, 0.5, 0.4, 0.9, 0.1]))
        self.assertEqual(found.onset_s.tolist(), [0.0, 0.0301, 0.0602])
        self.assertEqual(found.strength.tolist(), [0.5, 0.9, 0.1])
        self.assertEqual(as_chords(notes_of([0.0, 0.030])).onset_s.tolist(), [0.0, 0.030])

    def test_a_note_without_a_strength_takes_none_from_the_others(self) -> None:
        nan = float("nan")
        found = as_chords(notes_of([0.0, 0.01, 1.0], strength=[nan, 0.4, nan])).strength
        self.assertEqual(found[0], 0.4)
        self.assertTrue(np.isnan(found[1]))
